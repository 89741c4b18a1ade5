// SPDX-License-Identifier: Apache-2.0
#include "tamlo/math/coverage.hpp"

#include <boost/math/distributions/chi_squared.hpp>
#include <boost/math/distributions/normal.hpp>
#include <boost/math/distributions/students_t.hpp>
#include <cmath>

namespace tamlo::math {

double coverage_factor(double coverage, double dof) {
  const double tail = (1.0 - coverage) / 2.0;
  if (std::isinf(dof)) return boost::math::quantile(complement(boost::math::normal(), tail));
  return boost::math::quantile(complement(boost::math::students_t(dof), tail));
}

double chi_squared_above(double value, int dof) {
  return boost::math::cdf(complement(boost::math::chi_squared(dof), value));
}

}  // namespace tamlo::math
