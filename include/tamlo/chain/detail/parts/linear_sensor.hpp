// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>

#include "tamlo/chain/detail/signal.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/sensor.hpp"

// A sensor whose output runs straight.
namespace tamlo {
namespace chain TAMLO_API {

/// Straight from p[at_low] at `low` to p[at_high] at `high`.
struct LinearSensorLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = true;
  std::size_t at_low, at_high;
  double low, high;
};

template <class P>
inline double forward_of(const LinearSensorLaw& law, double x, const P& p) {
  return p[law.at_low] + fraction_of_span(x, law.low, law.high) * (p[law.at_high] - p[law.at_low]);
}

template <class P>
inline double inverse_of(const LinearSensorLaw& law, double out, const P& p) {
  return law.low + (out - p[law.at_low]) / (p[law.at_high] - p[law.at_low]) * (law.high - law.low);
}

template <class Builder>
void build_part(Builder& b, const model::LinearSensor& sensor) {
  const auto& span = b.chain().channel.span;
  b.stage("sensor",
          LinearSensorLaw{.at_low = b.part("sensor at low", "sensor", sensor.at_low, "V"),
                          .at_high = b.part("sensor at high", "sensor", sensor.at_high, "V"),
                          .low = span.low,
                          .high = span.high},
          "V");
}

/// p[offset] + p[sensitivity] * (x - at).
struct StraightSensorLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = true;
  std::size_t sensitivity, offset;
  double at;
};

template <class P>
inline double forward_of(const StraightSensorLaw& law, double x, const P& p) {
  return p[law.offset] + p[law.sensitivity] * (x - law.at);
}

template <class P>
inline double inverse_of(const StraightSensorLaw& law, double out, const P& p) {
  return law.at + (out - p[law.offset]) / p[law.sensitivity];
}

template <class Builder>
void build_part(Builder& b, const model::StraightSensor& sensor) {
  b.stage("sensor",
          StraightSensorLaw{
              .sensitivity = b.part("sensor sensitivity", "sensor", sensor.sensitivity, ""),
              .offset = b.part("sensor offset", "sensor", sensor.offset, "V"),
              .at = sensor.at},
          "V");
}

}  // namespace chain
}  // namespace tamlo
