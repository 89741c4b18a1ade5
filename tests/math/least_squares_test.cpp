// SPDX-License-Identifier: Apache-2.0
#include "tamlo/math/detail/linear.hpp"

#include <gtest/gtest.h>

#include <cmath>

namespace tamlo::math {
namespace {

// NIST Statistical Reference Datasets, linear regression, "Norris" (36 observations, lower
// difficulty): certified intercept, slope and their standard deviations at full digits.
const std::vector<double> norris_x{0.2,   337.4, 118.2, 884.6, 10.1,  226.5, 666.3, 996.3, 448.6,
                                   777.0, 558.2, 0.4,   0.6,   775.5, 666.9, 338.0, 447.5, 11.6,
                                   556.0, 228.1, 995.8, 887.6, 120.2, 0.3,   0.3,   556.8, 339.1,
                                   887.2, 999.0, 779.0, 11.1,  118.3, 229.2, 669.1, 448.9, 0.5};
const std::vector<double> norris_y{0.1,   338.8, 118.1, 888.0, 9.2,   228.1, 668.5, 998.5, 449.1,
                                   778.9, 559.2, 0.3,   0.1,   778.1, 668.8, 339.3, 448.9, 10.8,
                                   557.7, 228.3, 998.0, 888.8, 119.6, 0.3,   0.6,   557.6, 339.3,
                                   888.0, 998.5, 778.9, 10.2,  117.6, 228.9, 668.4, 449.2, 0.2};

TEST(LeastSquares, NorrisIsCertified) {
  const double residual_standard_deviation = 0.884796396144373;
  const SharedCovariance v{.variances =
                               std::vector<double>(36, std::pow(residual_standard_deviation, 2))};
  const auto fit = fit_columns({std::vector<double>(36, 1.0), norris_x}, norris_y, v);
  EXPECT_NEAR(fit.parameters[0], -0.262323073774029, 1e-12);
  EXPECT_NEAR(fit.parameters[1], 1.00211681802045, 1e-13);
  EXPECT_NEAR(std::sqrt(fit.covariance[0]), 0.232818234301152, 1e-12);
  EXPECT_NEAR(std::sqrt(fit.covariance[3]), 0.429796848199937e-03, 1e-14);
}

TEST(LeastSquares, SharedCausesAgreeWithTheFullMatrix) {
  const std::vector<double> x{1, 2, 4, 7, 11}, y{0.9, 2.3, 3.8, 7.4, 10.6};
  const SharedCovariance v{
      .variances = {0.01, 0.04, 0.02, 0.09, 0.05},
      .columns = {{0.3, 0.3, 0.3, 0.3, 0.3}, {0.1, 0.2, 0.4, 0.7, 1.1}, {0.0, 0.0, 0.5, 0.5, 0.5}}};
  const auto fit = fit_columns({std::vector<double>(5, 1.0), x}, y, v);
  // The whole covariance matrix inverted by numpy 1.24: (X^T V^-1 X)^-1 X^T V^-1 y.
  EXPECT_NEAR(fit.parameters[0], -0.010584162700129518, 1e-10);
  EXPECT_NEAR(fit.parameters[1], 0.9897706620510603, 1e-10);
  EXPECT_NEAR(fit.covariance[0], 0.09997366631637516, 1e-10);
  EXPECT_NEAR(fit.covariance[3], 0.011219880076652039, 1e-10);
  EXPECT_NEAR(fit.covariance[1], -0.0016420844408728044, 1e-10);
  EXPECT_NEAR(chi_squared(y, v), 95.40080433101333, 1e-7);
  double offset = 0.0, gain = 0.0;
  for (std::size_t i = 0; i < y.size(); ++i) {
    offset += fit.weights[0][i] * y[i];
    gain += fit.weights[1][i] * y[i];
  }
  EXPECT_NEAR(offset, fit.parameters[0], 1e-12);
  EXPECT_NEAR(gain, fit.parameters[1], 1e-12);
}

TEST(LeastSquares, MeanWeighsByVariance) {
  // (1/0.01 * 3 + 1/0.04 * 4) / (100 + 25) = 3.2; variance 1/125.
  const std::vector<double> y{3.0, 4.0};
  const auto fit = fit_columns({{1.0, 1.0}}, y, {.variances = {0.01, 0.04}});
  EXPECT_NEAR(fit.parameters[0], 3.2, 1e-14);
  EXPECT_NEAR(fit.covariance[0], 1.0 / 125.0, 1e-15);
  EXPECT_EQ(fit.parameters.size(), 1U);
}

}  // namespace
}  // namespace tamlo::math
