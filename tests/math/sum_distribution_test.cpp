// SPDX-License-Identifier: Apache-2.0
// The distribution of a sum against drawn sums, by the standard library's numbers.
#include "tamlo/math/detail/coverage.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>
#include <vector>

#include "boards.hpp"
#include "tamlo/error.hpp"

namespace tamlo::math {
namespace {

using Shape = SumDistribution::Shape;
using Parts = std::vector<SumDistribution::Part>;

TEST(SumDistribution, OneSourceAloneHasItsOwnFactor) {
  // sqrt(3) 0.95, sqrt(6) (1 - sqrt(0.05)), sqrt(2) sin(0.95 pi / 2), and the normal one.
  EXPECT_NEAR(SumDistribution({{Shape::uniform, 2.0}}).coverage_factor(0.95), 1.6454, 0.02);
  EXPECT_NEAR(SumDistribution({{Shape::triangular, 2.0}}).coverage_factor(0.95), 1.9018, 0.01);
  EXPECT_NEAR(SumDistribution({{Shape::arcsine, 2.0}}).coverage_factor(0.95), 1.4099, 0.02);
  EXPECT_NEAR(SumDistribution({{Shape::normal, 2.0}}).coverage_factor(0.95), 1.95996, 1e-4);
  EXPECT_NEAR(SumDistribution({{Shape::uniform, 1.0}}).coverage_factor(0.68), 1.1778, 0.01);
}

TEST(SumDistribution, IsThatOfDrawnSums) {
  constexpr int draws = 400'000 / testing::fewer;
  const double chance = 1.9 / std::sqrt(draws);  // Kolmogorov, once in a thousand
  std::mt19937_64 engine(4711);
  std::uniform_real_distribution<double> flat(-1.0, 1.0);
  std::normal_distribution<double> normal;
  const auto draw = [&](Shape shape) {
    switch (shape) {
      case Shape::uniform:
        return std::numbers::sqrt3 * flat(engine);
      case Shape::triangular:
        return std::sqrt(6.0) * (flat(engine) + flat(engine)) / 2.0;
      case Shape::arcsine:
        return std::numbers::sqrt2 * std::sin(std::numbers::pi * flat(engine));
      case Shape::normal:
        break;
    }
    return normal(engine);
  };
  for (const Parts& parts :
       {Parts{{Shape::uniform, 0.8}, {Shape::normal, 0.2}},
        Parts{{Shape::uniform, 0.5}, {Shape::uniform, 0.45}, {Shape::normal, 0.05}},
        Parts{{Shape::arcsine, 0.7}, {Shape::triangular, 0.2}, {Shape::normal, 0.1}},
        Parts{{Shape::arcsine, 0.5}, {Shape::arcsine, 0.45}, {Shape::normal, 0.05}},
        Parts{{Shape::triangular, 0.4}, {Shape::uniform, 0.3}, {Shape::arcsine, 0.3}}}) {
    std::vector<double> sums(draws, 0.0);
    for (double& sum : sums) {
      for (const auto& part : parts) sum += std::sqrt(part.variance) * draw(part.shape);
    }
    std::ranges::sort(sums);
    const SumDistribution distribution(parts);
    double apart = 0.0;
    for (int i = 0; i < draws; i += 97)
      apart = std::max(apart, std::abs(distribution.below(sums[static_cast<std::size_t>(i)]) -
                                       (i + 0.5) / draws));
    EXPECT_LT(apart, chance + 1e-3);
    const auto held = std::ranges::count_if(
        sums, [k = distribution.coverage_factor(0.95)](double sum) { return std::abs(sum) <= k; });
    EXPECT_NEAR(static_cast<double>(held) / draws, 0.95, 0.003 + testing::scatter(draws) / draws);
  }
}

TEST(SumDistribution, RefusesWhatIsNoSum) {
  EXPECT_THROW(SumDistribution(Parts{}), ArgumentError);
  EXPECT_THROW(SumDistribution({{Shape::uniform, 1.0}}).coverage_factor(1.0), ArgumentError);
}

}  // namespace
}  // namespace tamlo::math
