// SPDX-License-Identifier: Apache-2.0
#include "tamlo/signal/stability.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "tamlo/math/random.hpp"

namespace tamlo::signal {
namespace {

using Values = std::vector<double>;

// NIST SP 1065, section 12.4: 1000 numbers of n -> 16807 n mod 2147483647 from 1234567890, divided
// by 2147483647, and the deviations of its table, all printed digits.
TEST(Stability, TheTestSuiteOfSp1065) {
  Values values;
  std::int64_t n = 1234567890;
  for (int i = 0; i < 1000; ++i) {
    values.push_back(static_cast<double>(n) / 2147483647.0);
    n = 16807 * n % 2147483647;
  }
  const std::uint64_t at[] = {1, 10, 100};
  const double overlapping[] = {2.922319e-1, 9.159953e-2, 3.241343e-2};
  const auto found = stability(values, at);
  for (std::size_t i = 0; i < 3; ++i) {
    EXPECT_NEAR(found.deviations[i].deviation, overlapping[i], 5.1e-8 * std::pow(10, i == 0));
  }
  EXPECT_EQ(found.best, 100U);
}

// White noise falls, its interval holds the truth as often as it says; a drift ends it.
TEST(Stability, SlopesIntervalsAndWhereItIsLowest) {
  int held = 0, count = 0;
  for (std::uint64_t record = 0; record < 300; ++record) {
    math::RandomStream stream(2, record);
    Values values;
    for (int i = 0; i < 512; ++i) values.push_back(stream.normal());
    const auto found = stability(values);
    for (const auto& d : found.deviations) {
      if (d.averaged > 64) continue;
      const double truth = 1.0 / std::sqrt(static_cast<double>(d.averaged));
      held += d.low <= truth && truth <= d.high ? 1 : 0;
      ++count;
    }
  }
  EXPECT_NEAR(held / static_cast<double>(count), 0.95, 0.03);
  math::RandomStream stream(3, 0);
  Values drifting;
  for (int i = 0; i < 4096; ++i) drifting.push_back(stream.normal() + 1e-3 * i);
  const auto found = stability(drifting);
  // sigma^2 / m and (drift m)^2 / 2 are least together where m^3 = sigma^2 / drift^2: 100.
  EXPECT_GE(found.best, 64U);
  EXPECT_LE(found.best, 128U);
  EXPECT_EQ(found.deviations[1].kind, NoiseKind::white);
  EXPECT_EQ(found.deviations.back().kind, NoiseKind::drift);
}

}  // namespace
}  // namespace tamlo::signal
