// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <variant>
#include <vector>

#include "tamlo/chain/signal.hpp"

/// What each sensor makes of the quantity. `forward` is the world, `inverse` the firmware's way
/// back; temperatures in K.
namespace tamlo::chain {

/// Straight from p[at_low] at `low` to p[at_high] at `high`.
struct LinearSensorLaw {
  static constexpr bool resistance_follows_value = false;
  std::size_t at_low, at_high;
  double low, high;
};

/// p[offset] + p[sensitivity] * (x - at).
struct StraightSensorLaw {
  static constexpr bool resistance_follows_value = false;
  std::size_t sensitivity, offset;
  double at;
};

/// Thermistor by beta. p[error] is added to the temperature.
struct BetaLaw {
  static constexpr bool resistance_follows_value = false;
  std::size_t r25, beta, error;
};

/// Thermistor by three coefficients: 1/T = a + b ln R + c (ln R)^3 (Steinhart and Hart, 1968).
struct SteinhartHart {
  static constexpr bool resistance_follows_value = false;
  double a, b, c;
  std::size_t error;
};

/// IEC 60751:2008, 4.2, from -200 to 850 degC. The error of a tolerance class is one variable for
/// all temperatures, p[error] in -1..1, times (base + slope |t|). `added` and `taken` are the leads
/// whose resistances add and subtract.
struct PlatinumLaw {
  static constexpr bool resistance_follows_value = false;
  std::size_t r0, error;
  double base, slope;
  std::vector<std::size_t> added, taken;
};

/// p[excitation] * p[rated_output] * x / rated_load.
struct BridgeLaw {
  static constexpr bool resistance_follows_value = false;
  std::size_t excitation, rated_output;
  double rated_load;
};

/// From `low` to `high` amperes over the span; p[error] is a part of the span.
struct CurrentLoopLaw {
  static constexpr bool resistance_follows_value = false;
  double low, high;
  double from, to;
  std::size_t error;
};

/// Potentiometer: the part of the span is the part of the supply. A source resistance comes with
/// it.
struct PotentiometerLaw {
  static constexpr bool resistance_follows_value = true;
  std::size_t supply, resistance;
  double low, high;
};

/// p[resistance] * (x / at)^(-p[exponent]); x above 0.
struct PhotoresistorLaw {
  static constexpr bool resistance_follows_value = false;
  std::size_t resistance, exponent;
  double at;
};

/// Straight between points, and along the outermost pieces beyond them. p[error] is added to the
/// quantity.
struct CurveLaw {
  static constexpr bool resistance_follows_value = false;
  std::vector<double> x, y;
  std::size_t error;
};

/// Where `x` lies between `low` (0) and `high` (1).
inline double along(double x, double low, double high) { return (x - low) / (high - low); }

template <class P>
inline double forward_of(const LinearSensorLaw& law, double x, const P& p) {
  return p[law.at_low] + along(x, law.low, law.high) * (p[law.at_high] - p[law.at_low]);
}

template <class P>
inline double inverse_of(const LinearSensorLaw& law, double out, const P& p) {
  return law.low + (out - p[law.at_low]) / (p[law.at_high] - p[law.at_low]) * (law.high - law.low);
}

template <class P>
inline double forward_of(const StraightSensorLaw& law, double x, const P& p) {
  return p[law.offset] + p[law.sensitivity] * (x - law.at);
}

template <class P>
inline double inverse_of(const StraightSensorLaw& law, double out, const P& p) {
  return law.at + (out - p[law.offset]) / p[law.sensitivity];
}

template <class P>
inline double forward_of(const BridgeLaw& law, double x, const P& p) {
  return p[law.excitation] * p[law.rated_output] * (x / law.rated_load);
}

template <class P>
inline double inverse_of(const BridgeLaw& law, double out, const P& p) {
  return out / (p[law.excitation] * p[law.rated_output]) * law.rated_load;
}

template <class P>
inline double forward_of(const CurrentLoopLaw& law, double x, const P& p) {
  return law.low + (along(x, law.from, law.to) + p[law.error]) * (law.high - law.low);
}

template <class P>
inline double inverse_of(const CurrentLoopLaw& law, double out, const P& p) {
  return law.from + (along(out, law.low, law.high) - p[law.error]) * (law.to - law.from);
}

template <class P>
inline Signal forward_of(const PotentiometerLaw& law, const Signal& in, const P& p) {
  const double part = along(in.value, law.low, law.high);
  return {.value = p[law.supply] * part, .resistance = p[law.resistance] * part * (1.0 - part)};
}

template <class P>
inline double inverse_of(const PotentiometerLaw& law, double out, const P& p) {
  return law.low + out / p[law.supply] * (law.high - law.low);
}

double forward_of(const BetaLaw& law, double x, Parameters p);
double forward_of(const SteinhartHart& law, double x, Parameters p);
double forward_of(const PlatinumLaw& law, double x, Parameters p);
double forward_of(const PhotoresistorLaw& law, double x, Parameters p);
double forward_of(const CurveLaw& law, double x, Parameters p);

double inverse_of(const BetaLaw& law, double out, Parameters p);
double inverse_of(const SteinhartHart& law, double out, Parameters p);
double inverse_of(const PlatinumLaw& law, double out, Parameters p);
double inverse_of(const PhotoresistorLaw& law, double out, Parameters p);
double inverse_of(const CurveLaw& law, double out, Parameters p);

}  // namespace tamlo::chain
