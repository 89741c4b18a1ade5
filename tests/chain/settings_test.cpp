// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/settings.hpp"

#include <gtest/gtest.h>

#include "boards.hpp"

namespace tamlo::chain {
namespace {

TEST(Settings, OfThePackVoltage) {
  const auto chain = build(testing::pack_voltage(), "x");
  const auto s = settings(chain);
  EXPECT_EQ(s.code_width, 610.3515625e-6);
  EXPECT_NEAR(s.range_used, 0.96, 1e-12);  // 2.4 V of 2.5 V
  EXPECT_NEAR(s.codes_used, 3932.16, 1e-9);
  EXPECT_EQ(s.last_code, 4095);
  EXPECT_NEAR(*s.allowed, 0.3, 1e-15);
  ASSERT_EQ(s.landmarks.size(), 3U);
  EXPECT_EQ(s.landmarks[0].code, 0);
  EXPECT_EQ(s.landmarks[1].code, 1966);  // 1.2 / 2.5 * 4096 = 1966.08
  EXPECT_EQ(s.landmarks[2].code, 3932);
  EXPECT_NEAR(s.landmarks[2].voltage, 2.4, 1e-12);
  EXPECT_NEAR(s.landmarks[2].code_width, 62.5 / 4096, 1e-12);
  // The other convention reads 1/4095 high.
  EXPECT_NEAR(s.landmarks[2].convention_changes, 3932 * 62.5 / 4096 / 4095, 1e-12);
  EXPECT_EQ(s.landmarks[0].convention_changes, 0.0);
  EXPECT_NEAR(s.noise_in_codes, 0.6, 1e-3);
}

TEST(Settings, AWalkShowsEveryStepBothWays) {
  const auto chain = build(testing::pack_voltage(), "x");
  const auto there = walk(chain, 48.0);
  ASSERT_EQ(there.steps.size(), 5U);
  EXPECT_EQ(there.steps[1].stage, "after divider");
  EXPECT_DOUBLE_EQ(there.steps[1].value, 1.92);
  EXPECT_EQ(there.code, 3146);  // 3145.728
  EXPECT_DOUBLE_EQ(there.steps[3].value, 3146 * 2.5 / 4096);
  EXPECT_DOUBLE_EQ(there.reading, 3146 * 62.5 / 4096);
  EXPECT_NEAR(there.error, 0.272 * 62.5 / 4096, 1e-9);
  EXPECT_FALSE(there.clipped);

  const auto back = walk_back(chain, 3146);
  EXPECT_DOUBLE_EQ(back.reading, there.reading);
  EXPECT_NEAR(back.from, 3145.5 * 62.5 / 4096, 1e-9);
  EXPECT_NEAR(back.to, 3146.5 * 62.5 / 4096, 1e-9);
  EXPECT_FALSE(back.open_below || back.open_above);
  EXPECT_TRUE(walk_back(chain, 0).open_below);
  EXPECT_TRUE(walk_back(chain, 4095).open_above);
  EXPECT_TRUE(walk(chain, 63.0).clipped);
}

// Every code, there and back: the walk back names a stretch whose ends walk to that code.
TEST(Settings, WalksAreInverse) {
  const auto chain = build(testing::board({.bits = 10}), "x");
  for (std::int64_t code = 0; code <= last_code(chain); ++code) {
    const auto back = walk_back(chain, code);
    const double inside = 1e-6 * (back.to - back.from);
    ASSERT_EQ(walk(chain, back.from + inside).code, code);
    ASSERT_EQ(walk(chain, back.to - inside).code, code);
  }
}

}  // namespace
}  // namespace tamlo::chain
