// SPDX-License-Identifier: Apache-2.0
#include "tamlo/math/detail/coverage.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <limits>

#include "tamlo/error.hpp"
#include "tamlo/math/random.hpp"

namespace tamlo::math {
namespace {

constexpr double infinite = std::numeric_limits<double>::infinity();

// JCGM 100:2008, table G.2: t_p(nu) to the digits that are printed there.
TEST(Coverage, FactorsAreThoseOfTheGuidesTable) {
  struct Case {
    double dof, coverage, factor, half_digit;
  };
  for (const auto& [dof, coverage, factor, half_digit] :
       {Case{1, 0.95, 12.71, 5e-3}, Case{1, 0.6827, 1.84, 5e-3}, Case{1, 0.9973, 235.80, 2e-1},
        Case{3, 0.99, 5.84, 5e-3}, Case{10, 0.95, 2.23, 5e-3}, Case{16, 0.99, 2.92, 5e-3},
        Case{50, 0.9545, 2.05, 5e-3}, Case{100, 0.95, 1.984, 5e-4},
        Case{infinite, 0.95, 1.960, 5e-4}, Case{infinite, 0.9545, 2.000, 5e-4},
        Case{infinite, 0.9973, 3.000, 5e-4}}) {
    EXPECT_NEAR(coverage_factor(coverage, dof), factor, half_digit) << dof << " " << coverage;
  }
}

// Upper points of chi-squared as every table prints them (0.05, 0.01, 0.5).
TEST(Coverage, ChiSquaredTailsAreThoseOfTheTables) {
  EXPECT_NEAR(chi_squared_survival(3.841459, 1), 0.05, 1e-7);
  EXPECT_NEAR(chi_squared_survival(18.307038, 10), 0.05, 1e-7);
  EXPECT_NEAR(chi_squared_survival(23.209251, 10), 0.01, 1e-7);
  EXPECT_NEAR(chi_squared_survival(1.386294361, 2), 0.5, 1e-9);  // 2 ln 2
  EXPECT_EQ(chi_squared_survival(0.0, 4), 1.0);
}

// In closed form, of one and of three degrees of freedom: (Z + d)^2 is above x where Z + d is
// beyond either root, and two more degrees add [phi(sqrt x - d) - phi(sqrt x + d)] / d.
TEST(Coverage, NoncentralChiSquaredIsThatOfMovedNormals) {
  const auto above = [](double z) { return std::erfc(z / std::sqrt(2.0)) / 2.0; };
  const auto density = [](double z) {
    return std::exp(-z * z / 2.0) / std::sqrt(2.0 * std::acos(-1.0));
  };
  for (const double noncentrality : {1e-6, 0.5, 7.3, 60.0, 1999.0}) {
    const double d = std::sqrt(noncentrality);
    for (const double part : {0.05, 0.6, 1.0, 1.7}) {
      const double x = part * (noncentrality + 2.0), root = std::sqrt(x);
      const double one = above(root - d) + above(root + d);
      EXPECT_NEAR(chi_squared_survival(x, 1, noncentrality), one, 1e-10)
          << noncentrality << " " << x;
      const double three = one + (density(root - d) - density(root + d)) / d;
      EXPECT_NEAR(chi_squared_survival(x, 3, noncentrality), three, 1e-10)
          << noncentrality << " " << x;
    }
  }
  EXPECT_EQ(chi_squared_survival(5.0, 4, 0.0), chi_squared_survival(5.0, 4));
  EXPECT_THROW(chi_squared_survival(5.0, 4, -1.0), ArgumentError);
}

// The interval holds the true deviation as often as it says, over records of normal values.
TEST(Coverage, IntervalsOfDeviationsHoldTheTruth) {
  for (const double coverage : {0.8, 0.95}) {
    int held = 0;
    constexpr int records = 4000;
    for (std::uint64_t record = 0; record < records; ++record) {
      RandomStream stream(15, record);
      double sum = 0.0, squares = 0.0;
      constexpr int n = 12;
      for (int i = 0; i < n; ++i) {
        const double x = 3.0 * stream.normal();
        sum += x;
        squares += x * x;
      }
      const double deviation = std::sqrt((squares - sum * sum / n) / (n - 1));
      const auto interval = deviation_interval(deviation, n - 1, coverage);
      EXPECT_LT(interval.low, deviation);
      EXPECT_GT(interval.high, deviation);
      held += interval.low <= 3.0 && 3.0 <= interval.high ? 1 : 0;
    }
    EXPECT_NEAR(held / static_cast<double>(records), coverage, 0.02);
  }
}

}  // namespace
}  // namespace tamlo::math
