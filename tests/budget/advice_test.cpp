// SPDX-License-Identifier: Apache-2.0
#include "tamlo/budget/advice.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>

#include "boards.hpp"
#include "tamlo/budget/detail/conditions.hpp"

namespace tamlo::budget {
namespace {

using testing::value;

// One uniform source of ±1 % on 2.4 V: U = 0.95 * 24 mV = 22.8 mV; with a target of 20 mV it must
// become 0.877 of its size.
TEST(Advice, HowSmallALeadingSourceMustBecome) {
  auto b = testing::board({.bits = 24, .reference = "2.5 V ±1 %", .span = "0..2.4 V"});
  b.channels.front().target.accuracy = value("±20 mV", "V").limits.front();
  auto advice = advise(b, "x");
  ASSERT_FALSE(advice.shrinks.empty());
  EXPECT_EQ(advice.shrinks.front().source, "ref voltage tolerance");
  EXPECT_NEAR(*advice.shrinks.front().part, 20.0 / (0.95 * 24.0), 1e-3);
  // Beside another that alone is too much, not even its absence suffices.
  b.converters.front().inl = value("±15 mV", "V");
  b.channels.front().target.accuracy = value("±10 mV", "V").limits.front();
  advice = advise(b, "x");
  EXPECT_FALSE(advice.shrinks.front().part);
}

const Lever* find(const Advice& advice, const std::string& change) {
  const auto at = std::ranges::find(advice.levers, change, &Lever::change);
  return at == advice.levers.end() ? nullptr : &*at;
}

TEST(Advice, LeversAreRunOnTheChangedBoard) {
  // A bridge fed from elsewhere: 1 % of either supply, gone when both are one.
  auto b = testing::board({.bits = 24, .reference = "2.5 V ±1 %", .span = "0..100 N"});
  b.references.push_back({.name = "other", .voltage = value("2.5 V ±1 %", "V")});
  auto& channel = b.channels.front();
  channel.sensor = model::Bridge{
      .rated_output = value("2 mV ±0.1 %", "V"), .rated_load = 100.0, .excitation = "other"};
  channel.frontend = {model::Amplifier{.gain = value("400", "")}};
  channel.target.accuracy = value("±0.5 % of span", "N").limits.front();
  auto advice = advise(b, "x");
  const auto* ratiometric = find(advice, "the sensor fed from ref, the converter's reference");
  ASSERT_NE(ratiometric, nullptr);
  EXPECT_TRUE(ratiometric->suffices);
  EXPECT_NEAR(ratiometric->error, 0.95 * 0.1, 0.001);  // the rated output is left

  // A noisy channel: sixteen times the average is a quarter of the noise, and later.
  auto noisy = testing::board({.span = "0..2.4 V"});
  noisy.converters.front().noise = value("20 LSB rms", "V");
  noisy.channels.front().rate = 1000.0;
  noisy.channels.front().target.accuracy = value("±10 mV", "V").limits.front();
  advice = advise(noisy, "x");
  const auto* averaging = find(advice, "average = 16");
  ASSERT_NE(averaging, nullptr);
  EXPECT_NEAR(averaging->error, 1.96 * 20.0 / 4.0 * 2.5 / 4096.0, 2e-4);
  EXPECT_TRUE(averaging->suffices);
  EXPECT_GT(averaging->latency, 10.0 * averaging->latency_before);

  // An attenuation that is finer and still serves.
  auto coarse = testing::board({.span = "0..2.4 V"});
  coarse.converters.front().inl = value("±4 LSB", "V");
  coarse.converters.front().attenuations = {
      {.name = "unity", .ratio = value("1", ""), .usable = testing::range("0..2.45 V")},
      {.name = "quarter", .ratio = value("0.25", ""), .usable = testing::range("0..9.6 V")}};
  coarse.channels.front().attenuation = "quarter";
  advice = advise(coarse, "x");
  ASSERT_NE(find(advice, "attenuation = \"unity\""), nullptr);
  EXPECT_TRUE(std::ranges::is_sorted(advice.levers, {}, &Lever::error));
}

// Drift grows from the temperature where the limits hold, and with age; the rest stays.
TEST(Advice, Conditions) {
  const auto board = testing::pack_voltage();
  const auto over = over_temperature(board, "x", 13);
  ASSERT_EQ(over.size(), 13U);
  EXPECT_DOUBLE_EQ(over.front().condition, 288.15);
  EXPECT_DOUBLE_EQ(over.back().condition, 318.15);
  const auto whole = evaluate(chain::build(board, "x"));
  EXPECT_NEAR(over.back().expanded, whole.worst_place.expanded, 1e-9);  // 45 degC is the farthest
  for (const auto& row : over) EXPECT_LE(row.expanded, over.back().expanded + 1e-12);
  const auto ages = over_age(board, "x", 3);
  EXPECT_DOUBLE_EQ(ages[1].condition, board.conditions.age);
  EXPECT_NEAR(ages[1].expanded, whole.worst_place.expanded, 1e-9);
  EXPECT_LT(ages[0].expanded, ages[1].expanded);
  EXPECT_LT(ages[1].expanded, ages[2].expanded);
  const auto curve = over_span(chain::build(board, "x"), 11);
  EXPECT_EQ(curve.points.size(), 11U);
  EXPECT_EQ(curve.points.back().at, 60.0);
}

}  // namespace
}  // namespace tamlo::budget
