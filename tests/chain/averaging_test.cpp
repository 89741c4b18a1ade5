// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/digital.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>
#include <random>

namespace tamlo::chain {
namespace {

// The defining series, summed as it stands.
double series(double sigma) {
  double sum = 0.0;
  for (int k = 1; k <= 2000000; ++k) {
    const double pk = std::numbers::pi * k;
    sum += std::exp(-4 * pk * pk * sigma * sigma) / (2 * pk * pk);
  }
  return sum;
}

TEST(Averaging, SystematicPartIsTheSeries) {
  EXPECT_DOUBLE_EQ(systematic_quantisation_variance(0.0), 1.0 / 12.0);
  for (const double sigma : {0.0005, 0.01, 0.05, 0.0799, 0.0801, 0.1, 0.3, 0.5, 1.0}) {
    EXPECT_NEAR(systematic_quantisation_variance(sigma), series(sigma), 1e-13) << sigma;
  }
  EXPECT_LT(systematic_quantisation_variance(0.75), 1e-9);
  EXPECT_EQ(systematic_quantisation_variance(1e6), 0.0);
}

TEST(Averaging, AQuietChannelGainsNothing) {
  EXPECT_DOUBLE_EQ(quantisation_standard(0.0, 1), std::sqrt(1.0 / 12.0));
  EXPECT_DOUBLE_EQ(quantisation_standard(0.0, 256), std::sqrt(1.0 / 12.0));
  EXPECT_NEAR(quantisation_standard(2.0, 256), std::sqrt(1.0 / 12.0) / 16.0, 1e-15);
}

// Brute force: inputs at places all over one code, each converted `count` times with its own noise,
// the root mean square error of the means. Its own generator; nothing of the library but the rule.
double simulated(double sigma, int count, std::mt19937_64& random) {
  std::normal_distribution<double> noise(0.0, 1.0);
  const int places = std::max(20000, 400000 / count);
  double sum = 0.0;
  for (int i = 0; i < places; ++i) {
    const double input = (i + 0.5) / places;
    double codes = 0.0;
    for (int j = 0; j < count; ++j) codes += std::floor(input + sigma * noise(random) + 0.5);
    const double error = codes / count - input;
    sum += error * error;
  }
  return std::sqrt(sum / places);
}

TEST(Averaging, TheRuleAgreesWithSimulatedConversionsWithinTwoPercent) {
  std::mt19937_64 random(3);
  for (const double sigma : {0.02, 0.05, 0.1, 0.2, 0.3, 0.5, 0.7, 1.0}) {
    for (const int count : {1, 2, 4, 16, 64, 256}) {
      const double rule = std::hypot(sigma / std::sqrt(count), quantisation_standard(sigma, count));
      EXPECT_NEAR(simulated(sigma, count, random) / rule, 1.0, 0.02) << sigma << " x" << count;
    }
  }
}

}  // namespace
}  // namespace tamlo::chain
