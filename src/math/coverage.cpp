// SPDX-License-Identifier: Apache-2.0
#include "tamlo/math/coverage.hpp"

#include <boost/math/distributions/chi_squared.hpp>
#include <boost/math/distributions/normal.hpp>
#include <boost/math/distributions/students_t.hpp>
#include <cmath>
#include <limits>

namespace tamlo::math {

double coverage_factor(double coverage, double dof) {
  const double tail = (1.0 - coverage) / 2.0;
  if (std::isinf(dof)) return boost::math::quantile(complement(boost::math::normal(), tail));
  return boost::math::quantile(complement(boost::math::students_t(dof), tail));
}

double chi_squared_above(double value, int dof) {
  return boost::math::cdf(complement(boost::math::chi_squared(dof), value));
}

double chi_squared_below(double probability, double dof) {
  return boost::math::quantile(boost::math::chi_squared(dof), probability);
}

DeviationInterval deviation_interval(double deviation, double dof, double coverage) {
  const double tail = (1.0 - coverage) / 2.0;
  return {.low = deviation * std::sqrt(dof / chi_squared_below(1.0 - tail, dof)),
          .high = deviation * std::sqrt(dof / chi_squared_below(tail, dof))};
}

double normal_below(double z) { return boost::math::cdf(boost::math::normal(), z); }

double normal_quantile(double probability) {
  return boost::math::quantile(boost::math::normal(), probability);
}

double student_quantile(double probability, double dof) {
  return boost::math::quantile(boost::math::students_t(dof), probability);
}

double tolerance_factor(int n, double content, double confidence) {
  const double z = coverage_factor(content, std::numeric_limits<double>::infinity());
  return z * std::sqrt((n - 1) * (1.0 + 1.0 / n) / chi_squared_below(1.0 - confidence, n - 1));
}

}  // namespace tamlo::math
