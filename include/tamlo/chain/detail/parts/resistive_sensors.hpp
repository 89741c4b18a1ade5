// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <string>
#include <tuple>
#include <utility>
#include <variant>
#include <vector>

#include "tamlo/chain/detail/signal.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/sensor.hpp"
#include "tamlo/quantity/format.hpp"

// A thermistor, by beta or by three coefficients. Temperatures in K.
namespace tamlo {
namespace chain TAMLO_API {

constexpr double t25 = 298.15;

/// Thermistor by beta. p[error] is added to the temperature.
struct BetaLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = false;
  std::size_t r25, beta, error;
};

inline double forward_of(const BetaLaw& law, double x, Parameters p) {
  return p[law.r25] * std::exp(p[law.beta] * (1.0 / (x + p[law.error]) - 1.0 / t25));
}

inline double inverse_of(const BetaLaw& law, double out, Parameters p) {
  return 1.0 / (1.0 / t25 + std::log(out / p[law.r25]) / p[law.beta]) - p[law.error];
}

/// Thermistor by three coefficients: 1/T = a + b ln R + c (ln R)^3 (Steinhart and Hart, 1968).
struct SteinhartHart {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = false;
  double a, b, c;
  std::size_t error;
};

inline double forward_of(const SteinhartHart& law, double x, Parameters p) {
  // The real root of c L^3 + b L + a - 1/T = 0 in L = ln R (Cardano).
  const double half = (law.a - 1.0 / (x + p[law.error])) / law.c / 2.0;
  const double third = law.b / (3.0 * law.c);
  const double root = std::sqrt(third * third * third + half * half);
  return std::exp(std::cbrt(root - half) - std::cbrt(root + half));
}

inline double inverse_of(const SteinhartHart& law, double out, Parameters p) {
  const double l = std::log(out);
  return 1.0 / (law.a + law.b * l + law.c * l * l * l) - p[law.error];
}

template <class Builder>
void build_part(Builder& b, const model::Ntc& sensor) {
  const auto error = b.deviation("sensor accuracy", "sensor", sensor.accuracy, "K", {});
  if (const auto* thermistor = std::get_if<model::Thermistor>(&sensor.law)) {
    b.stage("sensor",
            BetaLaw{.r25 = b.part("sensor r25", "sensor", thermistor->r25, "ohm"),
                    .beta = b.part("sensor beta", "sensor", thermistor->beta, "K"),
                    .error = error},
            "ohm");
  } else {
    const auto& curve = std::get<model::ThermistorCurve>(sensor.law);
    b.stage("sensor", SteinhartHart{.a = curve.a, .b = curve.b, .c = curve.c, .error = error},
            "ohm");
  }
}

// A platinum resistor of IEC 60751 with its leads. Temperatures in K.

/// IEC 60751:2008, 4.2, from -200 to 850 degC. The error of a tolerance class is one variable for
/// all temperatures, p[error] in -1..1, times (base + slope |t|). `added` and `taken` are the leads
/// whose resistances add and subtract.
struct PlatinumLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = false;
  std::size_t r0, error;
  double base, slope;
  std::vector<std::size_t> added{}, taken{};
  bool compensated = true;  // the firmware subtracts the nominal leads
};

inline constexpr double celsius_zero = 273.15;

// IEC 60751:2008, 4.2.
inline constexpr double platinum_a = 3.9083e-3;
inline constexpr double platinum_b = -5.775e-7;
inline constexpr double platinum_c = -4.183e-12;

inline double platinum_ratio(double t) {
  const double positive = 1.0 + platinum_a * t + platinum_b * t * t;
  return t < 0.0 ? positive + platinum_c * (t - 100.0) * t * t * t : positive;
}

// The quadratic is exact from 0 degC up; below, Newton's steps begin from it.
inline double platinum_temperature(double ratio) {
  const double root = platinum_a * platinum_a - 4.0 * platinum_b * (1.0 - ratio);
  double t = (-platinum_a + std::sqrt(std::max(root, 0.0))) / (2.0 * platinum_b);
  if (ratio >= 1.0) return t;
  for (int i = 0; i < 8; ++i) {
    const double slope = platinum_a + 2.0 * platinum_b * t + platinum_c * (4.0 * t - 300.0) * t * t;
    t -= (platinum_ratio(t) - ratio) / slope;
  }
  return t;
}

inline double leads(const PlatinumLaw& law, Parameters p) {
  double sum = 0.0;
  for (const auto lead : law.added) sum += p[lead];
  for (const auto lead : law.taken) sum -= p[lead];
  return sum;
}

inline double forward_of(const PlatinumLaw& law, double x, Parameters p) {
  const double t = x - celsius_zero;
  const double actual = t + p[law.error] * (law.base + law.slope * std::abs(t));
  return p[law.r0] * platinum_ratio(actual) + leads(law, p);
}

inline double inverse_of(const PlatinumLaw& law, double out, Parameters p) {
  const double sensor = law.compensated ? out - leads(law, p) : out;
  return platinum_temperature(sensor / p[law.r0]) + celsius_zero;
}

// IEC 60751:2008, table 3, wire-wound: base and slope of the limit in K.
inline std::pair<double, double> limits_of(model::PlatinumClass tolerance) {
  switch (tolerance) {
    case model::PlatinumClass::none:
      return {0.0, 0.0};
    case model::PlatinumClass::aa:
      return {0.10, 0.0017};
    case model::PlatinumClass::a:
      return {0.15, 0.002};
    case model::PlatinumClass::b:
      return {0.30, 0.005};
    case model::PlatinumClass::c:
      return {0.60, 0.010};
  }
  return {0.0, 0.0};
}

template <class Builder>
void build_part(Builder& b, const model::Platinum& sensor) {
  const auto [base, slope] = limits_of(sensor.tolerance);
  PlatinumLaw law{.r0 = b.part("sensor r0", "sensor", sensor.r0, "ohm"),
                  .error = 0,
                  .base = base,
                  .slope = slope,

                  .compensated = sensor.lead_compensated};
  // In units of the class's own limit, whatever that is at the temperature.
  model::Value whole;
  if (base > 0.0) whole.limits.push_back({.size = 1.0});
  law.error = b.deviation("sensor class", "sensor", whole, "", {});
  if (base > 0.0) {
    b.chain().sources.back().specification =
        "±(" + quantity::fixed(base, 2) + " + " + quantity::fixed(slope, 4) + " |t|) K, t in degC";
  }
  if (sensor.wires <= 3) law.added.push_back(b.part("lead 1", "sensor", sensor.lead, "ohm"));
  if (sensor.wires <= 3) {
    const auto second = b.part("lead 2", "sensor", sensor.lead, "ohm");
    (sensor.wires == 2 ? law.added : law.taken).push_back(second);
  }
  b.stage("sensor", std::move(law), "ohm");
}

// A resistance that follows light by a power law.

/// p[resistance] * (x / at)^(-p[exponent]); x above 0.
struct PhotoresistorLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = false;
  std::size_t resistance, exponent;
  double at;
};

inline double forward_of(const PhotoresistorLaw& law, double x, Parameters p) {
  return p[law.resistance] * std::pow(x / law.at, -p[law.exponent]);
}

inline double inverse_of(const PhotoresistorLaw& law, double out, Parameters p) {
  return law.at * std::pow(out / p[law.resistance], -1.0 / p[law.exponent]);
}

template <class Builder>
void build_part(Builder& b, const model::Photoresistor& sensor) {
  b.stage("sensor",
          PhotoresistorLaw{
              .resistance = b.part("sensor resistance", "sensor", sensor.resistance, "ohm"),
              .exponent = b.part("sensor exponent", "sensor", sensor.exponent, ""),
              .at = sensor.at},
          "ohm");
}

using ResistiveSensorLaws = std::tuple<BetaLaw, SteinhartHart, PlatinumLaw, PhotoresistorLaw>;

}  // namespace chain
}  // namespace tamlo
