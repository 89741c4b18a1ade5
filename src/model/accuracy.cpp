// SPDX-License-Identifier: Apache-2.0
#include "tamlo/model/detail/accuracy.hpp"

#include <algorithm>
#include <cmath>

#include "tamlo/model/board.hpp"

namespace tamlo::model {
namespace {

// A value on the scale that the display shows: degC, not K.
double displayed(const model::MeterRange& range, double si) {
  return si - range.full_scale.unit.offset;
}

double top(const model::MeterRange& range) { return displayed(range, range.full_scale.or_zero()); }

}  // namespace

std::optional<std::size_t> range_for(const model::Meter& meter, double reading) {
  for (std::size_t i = 0; i < meter.ranges.size(); ++i) {
    if (std::abs(displayed(meter.ranges[i], reading)) <= top(meter.ranges[i])) return i;
  }
  return {};
}

double digit(const model::MeterRange& range) { return top(range) / range.digits; }

MeterUse use_of(const model::Meter& meter, double temperature) {
  MeterUse result{.seconds = meter.age};
  if (meter.temperature) {
    result.kelvin = std::max(
        {0.0, meter.temperature->low - temperature, temperature - meter.temperature->high});
  }
  return result;
}

MeterUncertainty uncertainty(const model::MeterRange& range, double reading, const MeterUse& use) {
  MeterUncertainty result;
  for (const auto& limit : range.accuracy.limits) {
    double size = limit.size;
    if (limit.basis == quantity::Basis::relative) size *= std::abs(displayed(range, reading));
    if (limit.basis == quantity::Basis::range) size *= top(range);
    if (limit.basis == quantity::Basis::digit) size *= digit(range);
    size = drifted(limit, size, use.kelvin, use.seconds);
    result.limits.push_back(standard_uncertainty(size, limit.distribution, limit.coverage_factor));
  }
  result.resolution = standard_uncertainty(digit(range) / 2.0, quantity::Distribution::uniform);
  return result;
}

double MeterUncertainty::combined() const {
  double variance = resolution * resolution;
  for (const double u : limits) variance += u * u;
  return std::sqrt(variance);
}

}  // namespace tamlo::model
