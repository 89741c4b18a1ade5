// SPDX-License-Identifier: Apache-2.0
#include "tamlo/math/detail/coverage.hpp"

#include <math.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <utility>

#include "tamlo/error.hpp"
#include "tamlo/math/detail/search.hpp"

namespace tamlo::math {
namespace {

using Shape = SumDistribution::Shape;

double sinc(double x) { return std::abs(x) < 1e-8 ? 1.0 : std::sin(x) / x; }

// Half of the width of a part over its standard deviation.
double half_width(Shape shape) {
  switch (shape) {
    case Shape::uniform:
      return std::numbers::sqrt3;
    case Shape::triangular:
      return std::sqrt(6.0);
    case Shape::arcsine:
      return std::numbers::sqrt2;
    case Shape::normal:
      break;
  }
  return 0.0;
}

// Characteristic function of a part whose half width is `half`.
double characteristic(Shape shape, double half, double t) {
  switch (shape) {
    case Shape::uniform:
      return sinc(t * half);
    case Shape::triangular:
      return std::pow(sinc(t * half / 2.0), 2);
    case Shape::arcsine:
      return ::j0(t * half);
    case Shape::normal:
      break;
  }
  return 1.0;
}

}  // namespace

SumDistribution::SumDistribution(const std::vector<Part>& parts) {
  double sum = 0.0;
  for (const auto& part : parts) sum += part.variance;
  require(std::isfinite(sum) && sum > 0.0, "a sum of parts that vary");
  constexpr double counts = 0.05, least_rest = 1e-3;
  struct Bounded {
    Shape shape;
    double half;
  };
  std::vector<Bounded> bounded;
  double rest = 0.0;
  reach_ = 0.0;
  for (const auto& [shape, variance] : parts) {
    const double share = variance / sum;
    if (shape == Shape::normal || share < counts) {
      rest += share;
      continue;
    }
    bounded.push_back({shape, half_width(shape) * std::sqrt(share)});
    reach_ += bounded.back().half;
  }
  if (bounded.empty()) return;
  rest = std::max(rest, least_rest);
  reach_ += 6.0 * std::sqrt(rest);
  // What comes back after a whole period lies beyond all that can be.
  step_ = std::numbers::pi / reach_;
  for (int k = 1;; ++k) {
    const double t = k * step_;
    const double damped = std::exp(-rest * t * t / 2.0);
    if (damped < 1e-7) break;
    double phi = damped;
    for (const auto& part : bounded) phi *= characteristic(part.shape, part.half, t);
    terms_.push_back(phi / (std::numbers::pi * k));
  }
}

double SumDistribution::below(double x) const {
  if (terms_.empty()) return normal_cdf(x);
  if (std::abs(x) >= reach_) return x > 0.0 ? 1.0 : 0.0;
  // sin(k a) by 2 cos(a) sin((k - 1) a) - sin((k - 2) a).
  const double a = step_ * x, twice = 2.0 * std::cos(a);
  double before = 0.0, here = std::sin(a), sum = a / (2.0 * std::numbers::pi);
  for (const double term : terms_) {
    sum += term * here;
    before = std::exchange(here, twice * here - before);
  }
  return std::clamp(0.5 + sum, 0.0, 1.0);
}

double SumDistribution::coverage_factor(double coverage) const {
  require(coverage > 0.0 && coverage < 1.0, "a probability between 0 and 1");
  if (terms_.empty())
    return math::coverage_factor(coverage, std::numeric_limits<double>::infinity());
  const auto too_small = [&](double k) { return 2.0 * below(k) - 1.0 < coverage; };
  return bisect(0.0, reach_, 40, too_small).middle();
}

}  // namespace tamlo::math
