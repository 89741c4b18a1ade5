// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cmath>
#include <cstddef>
#include <string>
#include <tuple>
#include <utility>
#include <variant>

#include "tamlo/chain/detail/parts/resistive_sensors.hpp"
#include "tamlo/chain/detail/signal.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/frontend.hpp"
#include "tamlo/model/sensor.hpp"

// What feeds a resistive sensor: a resistor to a reference, or a current.
namespace tamlo {
namespace chain TAMLO_API {

/// A resistance as one half of a divider on p[supply].
struct SensorDividerLaw {
  static constexpr bool resistance_follows_value = true;
  static constexpr bool several_at_once = true;
  std::size_t supply, bias_resistor;
  bool sensor_at_bottom;
};

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

/// A resistance carrying p[current].
struct ExcitationLaw {
  static constexpr bool resistance_follows_value = true;
  static constexpr bool several_at_once = true;
  std::size_t current;
};

template <class P>
inline Signal forward_of(const ExcitationLaw& law, const Signal& in, const P& p) {
  return {.value = in.value * p[law.current], .resistance = in.value};
}

template <class P>
inline double inverse_of(const ExcitationLaw& law, double out, const P& p) {
  return out / p[law.current];
}

/// A thermistor together with what feeds it: its own power warms it by power / p[dissipation]. The
/// firmware does not correct for that.
struct SelfHeatedLaw {
  static constexpr bool resistance_follows_value = true;
  static constexpr bool several_at_once = false;
  std::variant<BetaLaw, SteinhartHart> sensor;
  std::variant<SensorDividerLaw, ExcitationLaw> feed;
  std::size_t dissipation;
};

inline double power_in_sensor(const SensorDividerLaw& feed, double resistance, Parameters p) {
  const double current = p[feed.supply] / (p[feed.bias_resistor] + resistance);
  return current * current * resistance;
}

inline double power_in_sensor(const ExcitationLaw& feed, double resistance, Parameters p) {
  return p[feed.current] * p[feed.current] * resistance;
}

inline Signal forward_of(const SelfHeatedLaw& law, const Signal& in, Parameters p) {
  const auto resistance_at = [&](double t) {
    return std::visit([&](const auto& sensor) { return forward_of(sensor, t, p); }, law.sensor);
  };
  // Warmer means less resistance, and both means another power: a fixed point, reached in a few
  // rounds because a sensible sensor warms itself by little.
  double t = in.value, resistance = resistance_at(t);
  for (int round = 0; round < 100; ++round) {
    const double power = std::visit(
        [&](const auto& feed) { return power_in_sensor(feed, resistance, p); }, law.feed);
    const double warmed = in.value + power / p[law.dissipation];
    resistance = resistance_at(warmed);
    if (std::abs(warmed - t) < 1e-12 * warmed) break;
    t = warmed;
  }
  return std::visit([&](const auto& feed) { return forward_of(feed, {.value = resistance}, p); },
                    law.feed);
}

inline double inverse_of(const SelfHeatedLaw& law, double out, Parameters p) {
  const double resistance =
      std::visit([&](const auto& feed) { return inverse_of(feed, out, p); }, law.feed);
  return std::visit([&](const auto& sensor) { return inverse_of(sensor, resistance, p); },
                    law.sensor);
}

template <class Builder, class Feed>
void build_feed(Builder& b, const std::string& name, const Feed& feed) {
  const auto* ntc =
      b.chain().channel.sensor ? std::get_if<model::Ntc>(&*b.chain().channel.sensor) : nullptr;
  if (ntc == nullptr || !ntc->dissipation) {
    b.stage(name, feed, "V");
    return;
  }
  SelfHeatedLaw law{
      .sensor = BetaLaw{},
      .feed = ExcitationLaw{},
      .dissipation = b.part("sensor dissipation", "sensor", *ntc->dissipation, "W/K")};
  if (const auto* beta = std::get_if<BetaLaw>(&b.chain().path.stages.back().law))
    law.sensor = *beta;
  if (const auto* three = std::get_if<SteinhartHart>(&b.chain().path.stages.back().law)) {
    law.sensor = *three;
  }
  law.feed = feed;
  b.chain().path.stages.pop_back();
  b.stage("sensor in " + name, std::move(law), "V");
}

template <class Builder>
void build_part(Builder& b, const model::SensorDivider& divider) {
  const auto name = b.unique("divider");
  const auto* place = divider.sensor_at_bottom ? " top" : " bottom";
  build_feed(
      b, name,
      SensorDividerLaw{.supply = b.reference(divider.supply),
                       .bias_resistor = b.part(name + place, name, divider.bias_resistor, "ohm"),
                       .sensor_at_bottom = divider.sensor_at_bottom});
}

template <class Builder>
void build_part(Builder& b, const model::Excitation& excitation) {
  build_feed(b, "excitation",
             ExcitationLaw{b.part("excitation current", "excitation", excitation.current, "A")});
}

using SensorFeedLaws = std::tuple<SensorDividerLaw, ExcitationLaw, SelfHeatedLaw>;

}  // namespace chain
}  // namespace tamlo
