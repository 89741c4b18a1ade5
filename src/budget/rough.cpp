// SPDX-License-Identifier: Apache-2.0
// Points where readings are not smooth: their figures by trials, code by code.
#include <algorithm>
#include <cmath>
#include <numeric>

#include "point.hpp"
#include "tamlo/budget/channel_trials.hpp"
#include "tamlo/chain/discrete.hpp"
#include "tamlo/math/random.hpp"

namespace tamlo::budget {
namespace {

using chain::Chain;
using chain::Kind;

struct Summary {
  double mean = 0.0, deviation = 0.0;
  double expanded = 0.0;  ///< so many of the units lie within it about the mean
};

Summary summary(std::vector<double> errors, double coverage) {
  const auto n = static_cast<double>(errors.size());
  Summary result{.mean = std::accumulate(errors.begin(), errors.end(), 0.0) / n};
  double squares = 0.0;
  for (double& error : errors) {
    error = std::abs(error - result.mean);
    squares += error * error;
  }
  result.deviation = std::sqrt(squares / (n - 1.0));
  const auto within = errors.begin() + static_cast<std::ptrdiff_t>(std::ceil(coverage * n)) - 1;
  std::ranges::nth_element(errors, within);
  result.expanded = *within;
  return result;
}

chain::Roughness roughness_at(const Chain& chain, const Corners& corners, const Point& point) {
  // Of one conversion, in codes: what average and filter leave, before they do.
  double noise = 0.0, sines = 0.0;
  for (std::size_t s = 0; s < chain.sources.size(); ++s) {
    const auto& source = chain.sources[s];
    if (source.kind() != Kind::noise && source.kind() != Kind::interference) continue;
    const double in_codes = point.contributions[s].sensitivity / point.code_width;
    if (source.kind() == Kind::noise)
      noise = std::hypot(noise, in_codes * source.standard_uncertainty);
    if (source.kind() == Kind::interference) sines += std::abs(in_codes * source.limit);
  }
  // e = a v + d v^2 of a uniform v in -1..1 has a mean of d / 3; where that is 0.04 standard
  // uncertainties, an interval of 95 % about the nominal reading holds 94.6 %.
  constexpr double lopsided = 0.04;
  const bool bends = std::abs(corners.bend(point.contributions)) > lopsided * point.combined;
  const auto smooth = bends ? chain::Roughness::curved : chain::Roughness::none;
  const double reach = 3.0 * point.combined / point.code_width + 6.0 * noise + sines;
  const auto of = std::max(smooth, chain::roughness(chain, point.at, reach, point.expanded / 2.0));
  // A tare is a reading too.
  const auto& tare = chain.channel.scaling.tare;
  return tare ? std::max(of, chain::roughness(chain, *tare, reach, point.expanded / 2.0)) : of;
}

// The same units once they were adjusted: less what they were off at the places of the adjustment
// then, which the meter and the readings there say with an uncertainty of their own.
void adjust(const Chain& chain, const Adjustment& adjustment, const std::vector<double>& errors,
            Point& point) {
  auto zeroed = errors, two_point = errors;
  const auto own = adjustment.own_variance(point.at);
  for (const auto& weight : adjustment.weights(point.at)) {
    if (weight.zero == 0.0 && weight.two_point == 0.0) continue;
    const auto& there = adjustment.errors_at(chain, weight.place, errors.size());
    for (std::size_t i = 0; i < errors.size(); ++i) {
      zeroed[i] -= weight.zero * there[i];
      two_point[i] -= weight.two_point * there[i];
    }
  }
  for (std::size_t i = 0; i < errors.size(); ++i) {
    math::Stream meter(0x6d65746572ULL, i);
    zeroed[i] += std::sqrt(own.zero) * meter.normal();
    two_point[i] += std::sqrt(own.two_point) * meter.normal();
  }
  const auto zero = summary(std::move(zeroed), point.coverage);
  const auto both = summary(std::move(two_point), point.coverage);
  point.adjusted = {point.expanded, zero.expanded, both.expanded};
  point.adjusted_bias = {point.bias, zero.mean, both.mean};
  if (!point.calibrated) return;
  auto calibrated = errors;
  const auto& here = adjustment.errors_at(chain, point.at, errors.size());
  const double of_meter = std::sqrt(adjustment.calibration_variance(chain, point.at));
  for (std::size_t i = 0; i < errors.size(); ++i)
    calibrated[i] += of_meter * math::Stream(0x63616c69ULL, i).normal() - here[i];
  const auto remaining = summary(std::move(calibrated), point.coverage);
  point.calibrated = {.bias = remaining.mean, .expanded = remaining.expanded};
}

}  // namespace

void take_trials_if_rough(const Chain& chain, const Adjustment& adjustment, const Corners& corners,
                          std::uint64_t units, bool adjusted, Point& point) {
  point.roughness = roughness_at(chain, corners, point);
  if (point.roughness == chain::Roughness::none) return;
  point.method = Method::trials;
  // Where every unit costs many conversions, fewer units: a point is not to take minutes. Fewer
  // than a hundred would show no interval.
  const double part = 100.0 / chain::DiscreteReading(chain, point.at).conversions();
  const auto fewer = static_cast<std::uint64_t>(static_cast<double>(units) * std::min(part, 1.0));
  const auto least = std::clamp<std::uint64_t>(units / 50, 100, 400);
  point.units = std::max(fewer, std::min(units, least));
  auto errors = sample_discrete(chain, point.at, point.units);
  const double k = point.coverage_factor;
  const auto [lowest, highest] = std::ranges::minmax(errors);
  const auto of = summary(errors, point.coverage);
  point.bias = of.mean;
  point.reading = point.at + point.bias;
  point.combined = of.deviation;
  point.expanded = of.expanded;
  if (point.combined > 0.0) point.coverage_factor = point.expanded / point.combined;
  // At the corners of the limits noise moves the codes besides.
  double noise = 0.0;
  auto p = chain.nominal;
  for (const auto& source : chain.sources) {
    if (source.kind() != Kind::noise) continue;
    noise = std::hypot(noise,
                       chain::code_effect(chain, point.at, source,
                                          source.standard_uncertainty * source.filter_gain(), p));
  }
  if (const auto& calibration = chain.named.calibration) {
    noise = std::hypot(noise, chain.sources[*calibration].standard_uncertainty / point.code_width);
  }
  const auto at_corners = corners.of_codes(k * noise);
  point.worst_case = {.low = std::min(lowest, at_corners.low),
                      .high = std::max(highest, at_corners.high)};
  if (adjusted) adjust(chain, adjustment, errors, point);
}

}  // namespace tamlo::budget
