// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <algorithm>
#include <cstddef>
#include <vector>

#include "tamlo/chain/detail/signal.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/sensor.hpp"

// A sensor with a table of its own.
namespace tamlo {
namespace chain TAMLO_API {

/// Straight between points, and along the outermost pieces beyond them. p[error] is added to the
/// quantity.
struct CurveLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = false;
  std::vector<double> x, y;
  std::size_t error;
};

// One straight piece of a curve; `from` rises or falls throughout.
inline double interpolate(const std::vector<double>& from, const std::vector<double>& to,
                          double x) {
  const bool rises = from.front() < from.back();
  const auto beyond = std::partition_point(from.begin() + 1, from.end() - 1, [&](double point) {
    return rises ? point < x : point > x;
  });
  const auto i = static_cast<std::size_t>(beyond - from.begin());
  return to[i - 1] + fraction_of_span(x, from[i - 1], from[i]) * (to[i] - to[i - 1]);
}

inline double forward_of(const CurveLaw& law, double x, Parameters p) {
  return interpolate(law.x, law.y, x + p[law.error]);
}

inline double inverse_of(const CurveLaw& law, double out, Parameters p) {
  return interpolate(law.y, law.x, out) - p[law.error];
}

template <class Builder>
void build_part(Builder& b, const model::Curve& sensor) {
  const double width = b.chain().channel.span.width();
  const auto error = b.deviation("sensor accuracy", "sensor", sensor.accuracy, "", {.span = width});
  b.stage("sensor", CurveLaw{.x = sensor.x, .y = sensor.y, .error = error}, sensor.output.symbol);
}

}  // namespace chain
}  // namespace tamlo
