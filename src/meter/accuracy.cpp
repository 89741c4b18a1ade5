// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/accuracy.hpp"

#include <cmath>

namespace tamlo::meter {

std::optional<std::size_t> range_for(const model::Meter& meter, double reading) {
  for (std::size_t i = 0; i < meter.ranges.size(); ++i) {
    if (std::abs(reading) <= meter.ranges[i].full_scale.or_zero()) return i;
  }
  return {};
}

double digit(const model::MeterRange& range) { return range.full_scale.or_zero() / range.digits; }

MeterUncertainty uncertainty(const model::MeterRange& range, double reading) {
  MeterUncertainty result;
  for (const auto& limit : range.accuracy.limits) {
    double size = limit.size;
    if (limit.basis == quantity::Basis::relative) size *= std::abs(reading);
    if (limit.basis == quantity::Basis::range) size *= range.full_scale.or_zero();
    if (limit.basis == quantity::Basis::digit) size *= digit(range);
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

}  // namespace tamlo::meter
