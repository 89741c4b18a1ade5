// SPDX-License-Identifier: Apache-2.0
// Points where readings are not smooth: their figures by trials of readings as they happen.
#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

#include "point.hpp"
#include "tamlo/budget/channel_trials.hpp"
#include "tamlo/chain/detail/reading_sampler.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/math/random.hpp"

namespace tamlo::budget {
namespace {

using chain::Chain;
using chain::Kind;

}  // namespace

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

namespace {

// How far the codes of single conversions lie from the nominal one: what is fixed in a unit, noise
// and interference together, before any average or filter.
chain::Roughness roughness_at(const Chain& chain, const Corners& corners, const Point& point) {
  double fixed = 0.0, noise = 0.0, amplitudes = 0.0;
  auto p = chain.nominal;
  for (std::size_t s = 0; s < chain.sources.size(); ++s) {
    const auto& source = chain.sources[s];
    const double in_codes = point.contributions[s].contribution / point.code_width;
    if (!chain::random(source.kind())) fixed += in_codes * in_codes;
    if (source.kind() == Kind::noise && source.filter_gain() > 0.0)
      noise += std::pow(in_codes / source.filter_gain(), 2);
    // Of a sine nothing may be left behind the filter.
    if (source.kind() == Kind::interference) {
      const double limit = chain::interference_limit_at(chain, source, point.at);
      amplitudes += std::abs(chain::code_effect(chain, point.at, source, limit, p));
    }
  }
  // e = a v + d v^2 of a uniform v in -1..1 has a mean of d / 3; where that is 0.04 standard
  // uncertainties, an interval of 95 % about the nominal reading holds 94.6 %.
  constexpr double lopsided = 0.04;
  const bool bends = std::abs(corners.bend(point.contributions)) > lopsided * point.combined;
  const auto smooth = bends ? chain::Roughness::curved : chain::Roughness::none;
  const double reach = 1.0 + 3.0 * std::sqrt(fixed) + 6.0 * std::sqrt(noise) + amplitudes;
  const auto found =
      std::max(smooth, chain::roughness(chain, point.at, reach, point.expanded / 4.0));
  // A tare is a reading too.
  const auto& tare = chain.channel.scaling.tare;
  return tare ? std::max(found, chain::roughness(chain, *tare, reach, point.expanded / 4.0))
              : found;
}

// A quiet average lies on codes at most places within a step, and between them at others: no closed
// form speaks of both.
bool is_quiet_average(const Chain& chain, const Point& point) {
  constexpr double coarse = 0.25;
  return !chain.firmware.digital.stages.empty() &&
         point.contributions[chain.named.quantisation].share > coarse;
}

// So many conversions at a point are little beside the rest of its budget.
constexpr double conversions_of_a_check = 1e5, conversions_of_trials = 2e6,
                 conversions_of_an_adjustment = 1e6, conversions_of_the_least = 1e7;

std::uint64_t affordable(std::uint64_t units, double conversions, double each) {
  return std::min(units, static_cast<std::uint64_t>(conversions / each) + 1);
}

// True where readings of units, drawn at places within a step, are such as the closed form says: no
// more of them outside of the interval than chance brings, and it not a quarter too wide.
bool borne_out(const Chain& chain, const Point& point, std::uint64_t units, double each) {
  const auto count = std::max<std::uint64_t>(affordable(units, conversions_of_a_check, each), 100);
  const double step = std::max(chain::step_at(chain, point.at), point.code_width);
  auto off = sample_about(chain, point.at, step / point.code_width, count, 2);
  const auto n = static_cast<double>(count);
  const double mean = std::accumulate(off.begin(), off.end(), 0.0) / n;
  double squares = 0.0, outside = 0.0;
  for (double& error : off) {
    squares += (error - mean) * (error - mean);
    error = std::abs(error - point.bias);
    if (!(error <= point.expanded * (1.0 + 1e-9))) outside += 1.0;
  }
  const double of_mean = std::sqrt(squares / n / n);
  const double missed = 1.0 - point.coverage;
  const auto within = off.begin() + static_cast<std::ptrdiff_t>(point.coverage * n);
  std::ranges::nth_element(off, within);
  constexpr double too_wide = 1.25;
  // Single conversions leave readings a step apart; means of several need not.
  const bool apart = chain.firmware.digital.stages.empty();
  return std::abs(mean - point.bias) <= 0.05 * point.expanded + 4.0 * of_mean &&
         outside <= n * missed + 2.5 * std::sqrt(n * missed * point.coverage) &&
         point.expanded <= too_wide * *within + (apart ? step / 2.0 : 0.0);
}

// At the corners of the limits what has none moves the codes besides: what a place has to itself
// those of the reading and those of the tare, each by its own; what is shared by what the tare
// leaves of it, either of them, as an end of the codes may hold one.
Corners::Shift unbounded_codes(const Chain& chain, const Corners& corners, const Point& point,
                               double k) {
  const auto& tare = chain.channel.scaling.tare;
  const auto at_tare = tare ? chain::standards_at(chain, *tare) : std::vector<double>();
  auto p = chain.nominal;
  Corners::Shift shift;
  for (std::size_t s = 0; s < chain.sources.size(); ++s) {
    if (corners.bounded(s)) continue;
    const auto& source = chain.sources[s];
    const auto& contribution = point.contributions[s];
    const auto random_at = [&](double x, double standard) {
      return k * chain::code_effect(chain, x, source, standard, p);
    };
    if (!tare || !chain::own_of_place(source.kind())) {
      shift.here = std::hypot(shift.here, k * contribution.contribution / point.code_width);
      if (!tare) continue;
      // No more than the source itself does there: of a law that bends the codes at the tare may be
      // far narrower than those of the reading.
      const double left = k * contribution.contribution / chain::code_width_at(chain, *tare);
      shift.tare =
          std::hypot(shift.tare, std::min(std::abs(left), std::abs(random_at(*tare, at_tare[s]))));
      continue;
    }
    shift.here = std::hypot(shift.here, random_at(point.at, contribution.standard_uncertainty));
    shift.tare = std::hypot(shift.tare, random_at(*tare, at_tare[s]));
  }
  return shift;
}

// The same units once they were adjusted: less what they were off at the places of the adjustment
// then, which the meter and the readings there say with an uncertainty of their own.
void adjust(const Chain& chain, const Adjustment& adjustment, const std::vector<double>& errors,
            Point& point) {
  auto zeroed = errors, two_point = errors;
  const auto own = adjustment.own_variance(point.at, false);
  for (const auto& weight : adjustment.weights(point.at)) {
    if (weight.zero == 0.0 && weight.two_point == 0.0) continue;
    const auto& there = adjustment.errors_at(chain, weight.place, errors.size());
    for (std::size_t i = 0; i < errors.size(); ++i) {
      zeroed[i] -= weight.zero * there[i];
      two_point[i] -= weight.two_point * there[i];
    }
  }
  for (std::size_t i = 0; i < errors.size(); ++i) {
    math::RandomStream meter(0x6d65746572ULL, i);
    zeroed[i] += std::sqrt(own.zero) * meter.normal();
    two_point[i] += std::sqrt(own.two_point) * meter.normal();
  }
  const auto zero = summary(std::move(zeroed), point.coverage);
  const auto both = summary(std::move(two_point), point.coverage);
  point.adjusted = {point.expanded, zero.expanded, both.expanded};
  point.adjusted_bias = {point.bias, zero.mean, both.mean};
  if (!point.calibrated) return;
  auto calibrated = errors;
  const auto& own_errors = adjustment.errors_at(chain, point.at, errors.size());
  const double of_meter = std::sqrt(adjustment.calibration_variance(chain, point.at));
  for (std::size_t i = 0; i < errors.size(); ++i)
    calibrated[i] += of_meter * math::RandomStream(0x63616c69ULL, i).normal() - own_errors[i];
  const auto remaining = summary(std::move(calibrated), point.coverage);
  point.calibrated = {.bias = remaining.mean, .expanded = remaining.expanded};
}

}  // namespace

void draw_if_not_smooth(const Chain& chain, const Adjustment& adjustment, const Corners& corners,
                        const DrawnPoint& request, Point& point) {
  point.roughness = roughness_at(chain, corners, point);
  const bool rough = point.roughness != chain::Roughness::none;
  if (!rough && request.check_units == 0) return;
  const auto effort_at = [&](double x) { return chain::ReadingSampler(chain, x).effort(); };
  double each = effort_at(point.at);
  if (const auto& tare = chain.channel.scaling.tare) each = std::max(each, effort_at(*tare));
  if (!rough) {
    if (!is_quiet_average(chain, point) && borne_out(chain, point, request.check_units, each))
      return;
    point.roughness = chain::Roughness::disagreement;
  }
  point.method = Method::trials;
  // Where every unit costs many conversions, fewer units: a point is not to take minutes. Fewer
  // than a hundred would show no interval.
  const auto least = std::clamp<std::uint64_t>(
      std::min(request.units / 50, affordable(400, conversions_of_the_least, each)), 100, 400);
  point.units = std::max(affordable(request.units, conversions_of_trials, each),
                         std::min(request.units, least));
  auto errors = sample_readings(chain, point.at, point.units);
  const double k = math::coverage_factor(point.coverage, std::numeric_limits<double>::infinity());
  const auto drawn = summary(errors, point.coverage);
  point.bias = drawn.mean;
  point.reading = point.at + point.bias;
  point.combined = drawn.deviation;
  point.expanded = drawn.expanded;
  if (point.combined > 0.0) point.coverage_factor = point.expanded / point.combined;
  point.worst_case =
      corners.of_readings(unbounded_codes(chain, corners, point, k), request.thorough);
  hold_interval(point);
  if (!request.adjusted) return;
  // Fewer units where readings at a place of the adjustment take longer than those here.
  for (const auto& weight : adjustment.weights(point.at))
    each = std::max(each, effort_at(weight.place));
  const double readings = std::clamp(1000.0 / each, 4.0, 16.0);  // of each adjustment
  errors.resize(std::max(
      affordable(point.units, conversions_of_an_adjustment / (request.thorough ? 1.0 : 4.0),
                 readings * each),
      std::min(point.units, least)));
  adjust(chain, adjustment, errors, point);
}

}  // namespace tamlo::budget
