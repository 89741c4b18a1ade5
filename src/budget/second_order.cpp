// SPDX-License-Identifier: Apache-2.0
#include <cmath>

#include "tamlo/budget/propagate.hpp"
#include "tamlo/error.hpp"

namespace tamlo::budget {
namespace {

// E[d^4] / u^4 of the deviation d of an input. Of a curved trapezoid d is w v with v uniform
// in -1..1 and w uniform in the half width plus or minus `ends`.
double kurtosis(const Input& input) {
  switch (input.shape) {
    case Shape::normal:
    case Shape::student:
      return 3.0;
    case Shape::uniform:
      return 9.0 / 5.0;
    case Shape::triangular:
      return 12.0 / 5.0;
    case Shape::arcsine:
      return 3.0 / 2.0;
    case Shape::curved_trapezoid: {
      const double a = input.half_width * input.half_width, d = input.ends * input.ends;
      const double second = (a + d / 3.0) / 3.0;
      const double fourth = (a * a + 2.0 * a * d + d * d / 5.0) / 5.0;
      return second > 0.0 ? fourth / (second * second) : 3.0;
    }
  }
  return 3.0;
}

}  // namespace

SecondOrder second_order(const Model& model, const std::vector<Input>& inputs) {
  // Steps of h standard uncertainties, so that two of them stay within a bounded input.
  constexpr double h = 0.5;
  const double first_order = propagate(model, inputs).combined;
  std::vector<double> x;
  for (const auto& input : inputs) x.push_back(input.estimate);
  const auto at = [&](std::size_t i, double of_i, std::size_t j = 0, double of_j = 0.0) {
    auto moved = x;
    moved[i] += of_i * h * inputs[i].standard_uncertainty;
    if (of_j != 0.0) moved[j] += of_j * h * inputs[j].standard_uncertainty;
    return model(moved);
  };
  const auto n = inputs.size();
  const double f = model(x);
  SecondOrder result;
  // Derivatives times the standard uncertainties that they go with; the variance of the first order
  // is that of these slopes, which the third derivative does not blur.
  std::vector<double> slope(n);
  double slopes = 0.0;
  for (std::size_t i = 0; i < n; ++i) {
    const double up = at(i, 1.0), down = at(i, -1.0), far = at(i, 2.0), deep = at(i, -2.0);
    slope[i] = (8.0 * (up - down) - (far - deep)) / (12.0 * h);
    const double second = (up + down - 2.0 * f) / (h * h);
    const double third = (far - 2.0 * up + 2.0 * down - deep) / (2.0 * h * h * h);
    const double k = kurtosis(inputs[i]);
    slopes += slope[i] * slope[i];
    result.shift += second / 2.0;
    result.added_variance += second * second * (k - 1.0) / 4.0 + slope[i] * third * k / 3.0;
  }
  for (std::size_t i = 0; i < n; ++i) {
    for (std::size_t j = 0; j < n; ++j) {
      if (i == j) continue;
      const double pp = at(i, 1.0, j, 1.0), pm = at(i, 1.0, j, -1.0);
      const double mp = at(i, -1.0, j, 1.0), mm = at(i, -1.0, j, -1.0);
      const double mixed = (pp - pm - mp + mm) / (4.0 * h * h);
      const double third =
          ((pp + pm - 2.0 * at(i, 1.0)) - (mp + mm - 2.0 * at(i, -1.0))) / (2.0 * h * h * h);
      result.added_variance += mixed * mixed / 2.0 + slope[i] * third;
    }
  }
  const double variance = slopes + result.added_variance;
  if (!std::isfinite(variance)) throw DataError("the model gives a value that is not a number");
  if (variance < -1e-9 * first_order * first_order) {
    throw DataError("the model is too curved for terms of second order: ask trials");
  }
  result.combined = std::sqrt(std::max(variance, 0.0));
  return result;
}

}  // namespace tamlo::budget
