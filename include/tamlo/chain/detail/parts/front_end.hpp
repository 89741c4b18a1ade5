// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cmath>
#include <cstddef>
#include <limits>
#include <numbers>
#include <optional>
#include <string>
#include <tuple>

#include "tamlo/chain/detail/signal.hpp"
#include "tamlo/chain/source.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/frontend.hpp"
#include "tamlo/quantity/format.hpp"

// Two resistors.
namespace tamlo {
namespace chain TAMLO_API {

/// A voltage over two resistors; the resistance it comes from loads the top one. Of one network
/// both are p[network] times as large.
struct DividerLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = true;
  std::size_t top, bottom;
  std::optional<std::size_t> network{};
};

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

template <class Builder>
void build_part(Builder& b, const model::Divider& divider) {
  const auto name = b.unique("divider");
  DividerLaw law{.top = b.part(name + " top", name, divider.top, "ohm"),
                 .bottom = b.part(name + " bottom", name, divider.bottom, "ohm")};
  if (!divider.network.limits.empty()) {
    law.network =
        b.part(name + " network", name, {.nominal = 1.0, .limits = divider.network.limits}, "");
  }
  for (const auto& limit : divider.tracking.limits) {
    const auto nature = nature_of(limit);
    b.source(name + " tracking " + std::string(chain::name(kind_of(nature))), law.top, name, limit,
             {.relative = divider.top.or_zero()}, nature);
  }
  b.stage(name, law, "V");
}

// A resistor and a capacitor.

/// Adds p[resistor] to the resistance that the signal comes from; p[capacitor] holds the pin.
struct LowpassLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = true;
  std::size_t resistor, capacitor;
};

template <class P>
inline Signal forward_of(const LowpassLaw& law, const Signal& in, const P& p) {
  return {.value = in.value, .resistance = in.resistance + p[law.resistor]};
}

template <class P>
inline double inverse_of(const LowpassLaw&, double out, const P&) {
  return out;
}

template <class Builder>
void build_part(Builder& b, const model::Lowpass& lowpass) {
  const auto name = b.unique("lowpass");
  b.stage(name,
          LowpassLaw{.resistor = b.part(name + " resistor", name, lowpass.resistor, "ohm"),
                     .capacitor = b.part(name + " capacitor", name, lowpass.capacitor, "F")},
          "V");
}

// A resistor that a current flows through.

/// A current through p[resistance].
struct ShuntLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = true;
  std::size_t resistance;
};

template <class P>
inline Signal forward_of(const ShuntLaw& law, const Signal& in, const P& p) {
  return {.value = in.value * p[law.resistance], .resistance = p[law.resistance]};
}

template <class P>
inline double inverse_of(const ShuntLaw& law, double out, const P& p) {
  return out / p[law.resistance];
}

template <class Builder>
void build_part(Builder& b, const model::Shunt& shunt) {
  b.stage("shunt", ShuntLaw{b.part("shunt", "shunt", shunt.resistance, "ohm")}, "V");
}

// A gain with its offset, its common mode and its noise.

/// p[gain] * (v + p[offset] + p[common_mode] + R p[bias_current]), R that of what is before it,
/// between `low` and `high`; its output has no resistance.
struct AmplifierLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = true;
  std::size_t gain, offset, common_mode, bias_current, noise;
  double low = -std::numeric_limits<double>::infinity();  ///< V, ends of its output
  double high = std::numeric_limits<double>::infinity();
  double slew = std::numeric_limits<double>::infinity();  ///< V/s
  double time_constant = 0.0;                             ///< s, of its bandwidth
};

/// Volts that the amplifier would give if its output had no end.
template <class P>
inline double amplified(const AmplifierLaw& law, const Signal& in, const P& p) {
  return p[law.gain] * (in.value + p[law.offset] + p[law.common_mode] +
                        in.resistance * p[law.bias_current] + p[law.noise]);
}

template <class P>
inline Signal forward_of(const AmplifierLaw& law, const Signal& in, const P& p) {
  const double out = amplified(law, in, p);
  const double at_least = out < law.low ? law.low : out;
  return {.value = at_least > law.high ? law.high : at_least, .resistance = 0.0};
}

/// Returns the input that the firmware takes an output for: it knows neither ends nor the
/// resistance before the amplifier.
template <class P>
inline double inverse_of(const AmplifierLaw& law, double out, const P& p) {
  return out / p[law.gain] - p[law.offset] - p[law.common_mode] - p[law.noise];
}

template <class Builder>
void build_part(Builder& b, const model::Amplifier& amplifier) {
  const auto name = b.unique("amplifier");
  model::Value common_mode;
  const double most = std::abs(amplifier.common_mode) * amplifier.rejection;
  if (most > 0.0) common_mode.limits.push_back({.size = most, .unit = quantity::unit("V")});
  const auto rejected = b.deviation(name + " common mode", name, common_mode, "V", {});
  if (most > 0.0) {
    b.chain().sources.back().specification =
        "±" + quantity::engineering(most, quantity::unit("V"), 4);
  }
  constexpr double none = std::numeric_limits<double>::infinity();
  b.stage(
      name,
      AmplifierLaw{.gain = b.part(name + " gain", name, amplifier.gain, ""),
                   .offset = b.deviation(name + " offset", name, amplifier.offset, "V", {}),
                   .common_mode = rejected,
                   .bias_current =
                       b.deviation(name + " bias current", name, amplifier.bias_current, "A", {}),
                   .noise = b.deviation(name + " noise", name,
                                        amplifier.noise.value_or(model::Value{}), "V", {}, Noise{}),
                   .low = amplifier.output ? amplifier.output->low : -none,
                   .high = amplifier.output ? amplifier.output->high : none,
                   .slew = amplifier.slew.value_or(none),
                   .time_constant =
                       amplifier.bandwidth ? 0.5 / (std::numbers::pi * *amplifier.bandwidth) : 0.0},
      "V");
  if (amplifier.noise_density > 0.0) b.amplifies(amplifier);
}

using FrontEndLaws = std::tuple<DividerLaw, LowpassLaw, ShuntLaw, AmplifierLaw>;

}  // namespace chain
}  // namespace tamlo
