// SPDX-License-Identifier: Apache-2.0
#include "tamlo/budget/budget.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>
#include <limits>
#include <numeric>

#include "tamlo/math/coverage.hpp"

namespace tamlo::budget {
namespace {

using chain::Chain;
using chain::Kind;
using chain::Source;

std::vector<double> effects_at(const Chain& chain, double x, const std::vector<double>& standards) {
  auto p = chain.nominal;
  std::vector<double> result;
  for (std::size_t i = 0; i < standards.size(); ++i) {
    result.push_back(chain::effect(chain, x, chain.sources[i], standards[i], p));
  }
  return result;
}

double zero_of(const quantity::Range& span) {
  return span.holds(span.unit.offset) ? span.unit.offset : span.low;
}

// What an adjustment at the zero, or at both ends of the span, takes away from a figure that has
// these values there. Only what stays as it was on the day of the adjustment can be taken away.
class Adjustment {
 public:
  explicit Adjustment(const Chain& chain)
      : span_(chain.channel.span),
        zero_(effects_at(chain, zero_of(span_), chain::standards_at(chain, zero_of(span_)))),
        low_(effects_at(chain, span_.low, chain::standards_at(chain, span_.low))),
        high_(effects_at(chain, span_.high, chain::standards_at(chain, span_.high))),
        bias_{chain::bias(chain, zero_of(span_)), chain::bias(chain, span_.low),
              chain::bias(chain, span_.high)} {}

  Adjusted effect(std::size_t source, Kind kind, double x, double effect) const {
    if (kind != Kind::tolerance) return {effect, effect, effect};
    return adjust(x, effect, zero_[source], low_[source], high_[source]);
  }
  Adjusted bias(double x, double bias) const {
    return adjust(x, bias, bias_[0], bias_[1], bias_[2]);
  }

 private:
  quantity::Range span_;
  std::vector<double> zero_, low_, high_;
  double bias_[3];

  Adjusted adjust(double x, double here, double zero, double low, double high) const {
    const double along = (x - span_.low) / span_.width();
    return {here, here - zero, here - std::lerp(low, high, along)};
  }
};

Point point_at(const Chain& chain, const Adjustment& adjustment, double x, double coverage) {
  Point point{.at = x,
              .reading = chain::read(chain, x, chain.nominal),
              .bias = chain::bias(chain, x),
              .dof = std::numeric_limits<double>::infinity(),
              .coverage = coverage,
              .code_width = chain::code_width_at(chain, x),
              .clipped = chain::convert(chain, chain::code(chain, x, chain.nominal)).clipped};
  const double k = math::coverage_factor(coverage, point.dof);

  auto p = chain.nominal;
  const auto standards = chain::standards_at(chain, x);
  const auto effects = effects_at(chain, x, standards);
  double variance = 0.0, variance_zero = 0.0, variance_two_point = 0.0;
  double sum_of_limits = 0.0, unbounded = 0.0;
  for (std::size_t i = 0; i < effects.size(); ++i) {
    const Source& source = chain.sources[i];
    const bool bounded = source.distribution != quantity::Distribution::normal;
    Contribution c{.limit = source.limit, .standard = standards[i], .contribution = effects[i]};
    c.sensitivity = standards[i] > 0.0 ? effects[i] / standards[i] : 0.0;
    // Of what averages, the limit shrinks as its standard uncertainty does.
    const double shrunk = source.kind == Kind::interference ? source.passes : 1.0;
    c.worst = bounded ? std::abs(chain::effect(chain, x, source, source.limit * shrunk, p))
                      : k * std::abs(effects[i]);
    (bounded ? sum_of_limits : unbounded) += bounded ? c.worst : c.worst * c.worst;
    const auto adjusted = adjustment.effect(i, source.kind, x, effects[i]);
    variance += adjusted.none * adjusted.none;
    variance_zero += adjusted.zero * adjusted.zero;
    variance_two_point += adjusted.two_point * adjusted.two_point;
    point.contributions.push_back(c);
  }
  for (auto& c : point.contributions) c.share = c.contribution * c.contribution / variance;

  point.combined = std::sqrt(variance);
  point.coverage_factor = k;
  point.expanded = k * point.combined;
  point.worst_case = sum_of_limits + std::sqrt(unbounded);
  point.adjusted = {point.expanded, k * std::sqrt(variance_zero),
                    k * std::sqrt(variance_two_point)};
  point.adjusted_bias = adjustment.bias(x, point.bias);
  if (const auto& accuracy = chain.channel.target.accuracy) {
    point.limit = chain::allowed_at(chain, *accuracy, x);
  }
  return point;
}

}  // namespace

std::optional<double> Point::margin() const {
  if (!limit) return {};
  return *limit - std::abs(bias) - expanded;
}

const Point& Budget::worst() const {
  assert(!points.empty());
  // The part of what is allowed that is used up; absolute where nothing is.
  const auto severity = [](const Point& point) {
    const double used = std::abs(point.bias) + point.expanded;
    return point.limit ? used / *point.limit : used;
  };
  return *std::ranges::max_element(points, {}, severity);
}

bool Budget::target_met() const { return target_met_after(&Adjusted::none); }

bool Budget::target_met_after(double Adjusted::*adjustment) const {
  return std::ranges::all_of(points, [&](const Point& p) {
    return !p.limit || std::abs(p.adjusted_bias.*adjustment) + p.adjusted.*adjustment <= *p.limit;
  });
}

std::vector<double> default_points(const quantity::Range& span) {
  std::vector<double> points{span.low, zero_of(span), span.middle(), span.high};
  std::ranges::sort(points);
  points.erase(std::unique(points.begin(), points.end()), points.end());
  return points;
}

Budget evaluate(const Chain& chain, const Request& request) {
  const auto& span = chain.channel.span;
  const Adjustment adjustment(chain);
  Budget result{.channel = chain.channel.name,
                .unit = span.unit,
                .span = span,
                .sources = chain.sources,
                .points = {}};
  for (const double x : request.at.empty() ? default_points(span) : request.at) {
    result.points.push_back(point_at(chain, adjustment, x, request.coverage));
  }
  return result;
}

std::vector<std::size_t> by_share(const Point& point) {
  std::vector<std::size_t> order(point.contributions.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::ranges::stable_sort(order, std::ranges::greater{},
                           [&](std::size_t i) { return point.contributions[i].share; });
  return order;
}

}  // namespace tamlo::budget
