// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>

#include "tamlo/chain/detail/signal.hpp"
#include "tamlo/chain/source.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/sensor.hpp"

// A transmitter that drives a current loop.
namespace tamlo {
namespace chain TAMLO_API {

/// From `low` to `high` amperes over the span; p[error] is a part of the span.
struct CurrentLoopLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = true;
  double low, high;
  double from, to;
  std::size_t error;
};

template <class P>
inline double forward_of(const CurrentLoopLaw& law, double x, const P& p) {
  return law.low + (fraction_of_span(x, law.from, law.to) + p[law.error]) * (law.high - law.low);
}

template <class P>
inline double inverse_of(const CurrentLoopLaw& law, double out, const P& p) {
  return law.from + (fraction_of_span(out, law.low, law.high) - p[law.error]) * (law.to - law.from);
}

template <class Builder>
void build_part(Builder& b, const model::CurrentLoop& sensor) {
  const auto& span = b.chain().channel.span;
  const Scale of_span{.absolute = 1.0 / span.width(), .span = 1.0};
  b.stage("sensor",
          CurrentLoopLaw{
              .low = sensor.low,
              .high = sensor.high,
              .from = span.low,
              .to = span.high,
              .error = b.deviation("transmitter accuracy", "sensor", sensor.accuracy, "", of_span)},
          "A");
}

}  // namespace chain
}  // namespace tamlo
