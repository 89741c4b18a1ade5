// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <optional>
#include <variant>

#include "tamlo/chain/sensor_laws.hpp"
#include "tamlo/chain/signal.hpp"

/// What each part between the sensor and the pin does. Forward takes the source resistance along;
/// the firmware's way back does not know of it, so what it costs is a bias.
namespace tamlo::chain {

/// A voltage over two resistors; the resistance it comes from loads the top one. Of one network
/// both are p[network] times as large.
struct DividerLaw {
  static constexpr bool resistance_follows_value = false;
  std::size_t top, bottom;
  std::optional<std::size_t> network{};
};

/// A resistance as one half of a divider on p[supply].
struct SensorDividerLaw {
  static constexpr bool resistance_follows_value = true;
  std::size_t supply, bias_resistor;
  bool sensor_at_bottom;
};

/// A resistance carrying p[current].
struct ExcitationLaw {
  static constexpr bool resistance_follows_value = true;
  std::size_t current;
};

/// A current through p[resistance].
struct ShuntLaw {
  static constexpr bool resistance_follows_value = false;
  std::size_t resistance;
};

/// p[gain] * (v + p[offset] + p[common_mode]); its output has no resistance.
struct AmplifierLaw {
  static constexpr bool resistance_follows_value = false;
  std::size_t gain, offset, common_mode, noise;
};

/// Adds p[resistor] to the resistance that the signal comes from; p[capacitor] holds the pin.
struct LowpassLaw {
  static constexpr bool resistance_follows_value = false;
  std::size_t resistor, capacitor;
};

/// A thermistor together with what feeds it: its own power warms it by power / p[dissipation]. The
/// firmware does not correct for that.
struct SelfHeatedLaw {
  static constexpr bool resistance_follows_value = true;
  std::variant<BetaLaw, SteinhartHart> sensor;
  std::variant<SensorDividerLaw, ExcitationLaw> feed;
  std::size_t dissipation;
};

/// p[leakage] of the pin flows through the resistance that the signal comes from.
struct LeakageLaw {
  static constexpr bool resistance_follows_value = false;
  std::size_t leakage;
};

/// A meter's input resistance p[resistance] from the pin to ground. The firmware does not know of
/// it.
struct LoadLaw {
  static constexpr bool resistance_follows_value = false;
  std::size_t resistance;
};

/// Of two resistors; 0 where there is none.
inline double parallel(double a, double b) { return a + b > 0.0 ? a * b / (a + b) : 0.0; }

template <class P>
inline Signal forward_of(const DividerLaw& law, const Signal& in, const P& p) {
  const double size = law.network ? p[*law.network] : 1.0;
  const double above = in.resistance + size * p[law.top];
  const double below = size * p[law.bottom];
  return {.value = in.value * (below / (above + below)), .resistance = parallel(above, below)};
}

template <class P>
inline double inverse_of(const DividerLaw& law, double out, const P& p) {
  return out * (p[law.top] + p[law.bottom]) / p[law.bottom];
}

template <class P>
inline Signal forward_of(const SensorDividerLaw& law, const Signal& in, const P& p) {
  const double bottom = law.sensor_at_bottom ? in.value : p[law.bias_resistor];
  return {.value = p[law.supply] * bottom / (in.value + p[law.bias_resistor]),
          .resistance = parallel(in.value, p[law.bias_resistor])};
}

template <class P>
inline double inverse_of(const SensorDividerLaw& law, double out, const P& p) {
  const double rest = p[law.supply] - out;
  return law.sensor_at_bottom ? p[law.bias_resistor] * out / rest
                              : p[law.bias_resistor] * rest / out;
}

template <class P>
inline Signal forward_of(const ExcitationLaw& law, const Signal& in, const P& p) {
  return {.value = in.value * p[law.current], .resistance = in.value};
}

template <class P>
inline double inverse_of(const ExcitationLaw& law, double out, const P& p) {
  return out / p[law.current];
}

template <class P>
inline Signal forward_of(const ShuntLaw& law, const Signal& in, const P& p) {
  return {.value = in.value * p[law.resistance], .resistance = p[law.resistance]};
}

template <class P>
inline double inverse_of(const ShuntLaw& law, double out, const P& p) {
  return out / p[law.resistance];
}

template <class P>
inline Signal forward_of(const AmplifierLaw& law, const Signal& in, const P& p) {
  return {.value = p[law.gain] * (in.value + p[law.offset] + p[law.common_mode] + p[law.noise]),
          .resistance = 0.0};
}

template <class P>
inline double inverse_of(const AmplifierLaw& law, double out, const P& p) {
  return out / p[law.gain] - p[law.offset] - p[law.common_mode] - p[law.noise];
}

template <class P>
inline Signal forward_of(const LowpassLaw& law, const Signal& in, const P& p) {
  return {.value = in.value, .resistance = in.resistance + p[law.resistor]};
}

template <class P>
inline double inverse_of(const LowpassLaw&, double out, const P&) {
  return out;
}

template <class P>
inline Signal forward_of(const LeakageLaw& law, const Signal& in, const P& p) {
  return {.value = in.value - p[law.leakage] * in.resistance, .resistance = in.resistance};
}

template <class P>
inline double inverse_of(const LeakageLaw&, double out, const P&) {
  return out;
}

template <class P>
inline Signal forward_of(const LoadLaw& law, const Signal& in, const P& p) {
  const double load = p[law.resistance];
  return {.value = in.value * (load / (load + in.resistance)),
          .resistance = parallel(load, in.resistance)};
}

template <class P>
inline double inverse_of(const LoadLaw&, double out, const P&) {
  return out;
}

Signal forward_of(const SelfHeatedLaw& law, const Signal& in, Parameters p);
double inverse_of(const SelfHeatedLaw& law, double out, Parameters p);

}  // namespace tamlo::chain
