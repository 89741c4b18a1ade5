// SPDX-License-Identifier: Apache-2.0
#include "tamlo/simulate/detail/bench_meter.hpp"

#include <cmath>

#include "tamlo/math/random.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo::simulate {

BenchMeter::BenchMeter(const model::Meter& meter, std::uint64_t seed) : meter_(meter) {
  math::RandomStream stream(seed, 0);
  for (const auto& range : meter.ranges) {
    auto& of_range = deviations_.emplace_back();
    for (std::size_t i = 0; i < range.accuracy.limits.size(); ++i) {
      of_range.push_back(stream.normal());
    }
  }
}

std::optional<double> BenchMeter::show(double x) const {
  const auto at = model::range_for(meter_, x);
  if (!at) return {};
  const auto u = model::uncertainty(meter_.ranges[*at], x);
  double shown = x;
  for (std::size_t i = 0; i < u.limits.size(); ++i) shown += u.limits[i] * deviations_[*at][i];
  const double digit = model::digit(meter_.ranges[*at]);
  // On the scale that it shows: of a thermometer in degC, no whole digits of K.
  const double zero = meter_.ranges[*at].full_scale.unit.offset;
  return digit > 0.0 ? zero + std::round((shown - zero) / digit) * digit : shown;
}

}  // namespace tamlo::simulate
