// SPDX-License-Identifier: Apache-2.0
#include "tamlo/math/detail/coverage.hpp"

#include <algorithm>
#include <boost/math/distributions/chi_squared.hpp>
#include <boost/math/distributions/normal.hpp>
#include <boost/math/distributions/students_t.hpp>
#include <boost/math/special_functions/beta.hpp>
#include <cmath>
#include <limits>
#include <numbers>

#include "tamlo/error.hpp"

namespace tamlo::math {
namespace {

// Comparisons that what is not a number fails.
void require_probability(double p) {
  require(p > 0.0 && p < 1.0, "a probability lies between 0 and 1");
}
// Beyond them no series of the distributions comes to an end.
void require_dof(double dof) { require(dof >= 1e-6, "degrees of freedom of 1e-6 or more"); }
void require_finite_dof(double dof) {
  require(dof >= 1e-6 && dof <= 1e12, "degrees of freedom from 1e-6 to 1e12");
}

}  // namespace

double coverage_factor(double coverage, double dof) {
  require(coverage > 0.0 && coverage < 1.0, "a coverage probability lies between 0 and 1");
  require_dof(dof);
  const double tail = (1.0 - coverage) / 2.0;
  if (std::isinf(dof)) return boost::math::quantile(complement(boost::math::normal(), tail));
  return boost::math::quantile(complement(boost::math::students_t(dof), tail));
}

double chi_squared_survival(double value, int dof) {
  require_dof(dof);
  require(value >= 0.0, "chi-squared is not below 0");
  if (std::isinf(value)) return 0.0;
  return boost::math::cdf(complement(boost::math::chi_squared(dof), value));
}

double chi_squared_survival(double value, int dof, double noncentrality) {
  require(noncentrality >= 0.0 && noncentrality <= 1e6, "a noncentrality from 0 to 1e6");
  const double half = noncentrality / 2.0;
  if (half == 0.0) return chi_squared_survival(value, dof);
  double sum = 0.0, log_weight = -half;
  // The weights are a Poisson distribution's: so many, around their mean.
  const int last = static_cast<int>(half + 12.0 * std::sqrt(half + 1.0)) + 12;
  for (int j = 0; j <= last; ++j) {
    if (log_weight > -45.0) sum += std::exp(log_weight) * chi_squared_survival(value, dof + 2 * j);
    log_weight += std::log(half) - std::log(static_cast<double>(j + 1));
  }
  return std::min(sum, 1.0);
}

double chi_squared_quantile(double probability, double dof) {
  require_probability(probability);
  require_finite_dof(dof);
  return boost::math::quantile(boost::math::chi_squared(dof), probability);
}

DeviationInterval deviation_interval(double deviation, double dof, double coverage) {
  const double tail = (1.0 - coverage) / 2.0;
  return {.low = deviation * std::sqrt(dof / chi_squared_quantile(1.0 - tail, dof)),
          .high = deviation * std::sqrt(dof / chi_squared_quantile(tail, dof))};
}

double normal_cdf(double z) {
  require(!std::isnan(z), "a normal deviate is a number");
  return std::erfc(-z / std::numbers::sqrt2) / 2.0;
}

double normal_quantile(double probability) {
  require_probability(probability);
  return boost::math::quantile(boost::math::normal(), probability);
}

double student_quantile(double probability, double dof) {
  require_probability(probability);
  require_dof(dof);
  return boost::math::quantile(boost::math::students_t(dof), probability);
}

double tolerance_factor(int n, double content, double confidence) {
  require(n >= 2, "a tolerance factor needs two values or more");
  const double z = coverage_factor(content, std::numeric_limits<double>::infinity());
  return z * std::sqrt((n - 1) * (1.0 + 1.0 / n) / chi_squared_quantile(1.0 - confidence, n - 1));
}

Interval probability_interval(std::uint64_t hits, std::uint64_t trials, double coverage) {
  require(trials >= 1 && hits <= trials, "one trial or more, and no more hits");
  require_probability(coverage);
  const double tail = (1.0 - coverage) / 2.0;
  const auto k = static_cast<double>(hits), n = static_cast<double>(trials);
  return {.low = hits == 0 ? 0.0 : boost::math::ibeta_inv(k, n - k + 1.0, tail),
          .high = hits == trials ? 1.0 : boost::math::ibetac_inv(k + 1.0, n - k, tail)};
}

}  // namespace tamlo::math
