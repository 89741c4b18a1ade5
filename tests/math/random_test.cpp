// SPDX-License-Identifier: Apache-2.0
#include "tamlo/math/random.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <cstdint>

namespace tamlo::math {
namespace {

// Known answer of Philox 4x32-10 for counter 0 and key 0 (Salmon et al., 2011, kat_vectors):
// 6627e8d5 e169c58d bc57ac4c 9b00dbd8. Each pair makes one number of 53 bits.
TEST(Random, TheCipherGivesItsPublishedAnswer) {
  const auto number = [](std::uint64_t bits) {
    return (static_cast<double>(bits >> 11) + 0.5) / 9007199254740992.0;
  };
  RandomStream stream(0, 0);
  EXPECT_EQ(stream.uniform(), number(0x6627e8d5e169c58dU));
  EXPECT_EQ(stream.uniform(), number(0xbc57ac4c9b00dbd8U));
}

TEST(Random, AStreamIsToldByItsTwoNumbersAlone) {
  RandomStream first(7, 1), second(7, 2), other_seed(8, 1);
  const double a = first.uniform(), b = second.uniform(), c = other_seed.uniform();
  EXPECT_NE(a, b);
  EXPECT_NE(a, c);
  EXPECT_EQ(RandomStream(7, 2).uniform(), b);  // whatever was drawn elsewhere before
  EXPECT_EQ(RandomStream(7, 1).uniform(), a);
  // Both halves of both numbers count.
  EXPECT_NE(RandomStream(7, std::uint64_t{1} << 40).uniform(), RandomStream(7, 0).uniform());
  EXPECT_NE(RandomStream(std::uint64_t{1} << 40, 7).uniform(), RandomStream(0, 7).uniform());
}

TEST(Random, MomentsAreThoseOfTheDistributions) {
  constexpr int count = 400000;
  double u1 = 0, u2 = 0, n1 = 0, n2 = 0, n4 = 0;
  RandomStream stream(11, 3);
  for (int i = 0; i < count; ++i) {
    const double u = stream.uniform(), n = stream.normal();
    ASSERT_GT(u, 0.0);
    ASSERT_LT(u, 1.0);
    u1 += u, u2 += u * u, n1 += n, n2 += n * n, n4 += n * n * n * n;
  }
  const double root = std::sqrt(count);
  EXPECT_NEAR(u1 / count, 0.5, 5 * std::sqrt(1.0 / 12) / root);
  EXPECT_NEAR(u2 / count, 1.0 / 3, 5 * std::sqrt(4.0 / 45) / root);
  EXPECT_NEAR(n1 / count, 0.0, 5 / root);
  EXPECT_NEAR(n2 / count, 1.0, 5 * std::sqrt(2.0) / root);
  EXPECT_NEAR(n4 / count, 3.0, 5 * std::sqrt(96.0) / root);
}

}  // namespace
}  // namespace tamlo::math
