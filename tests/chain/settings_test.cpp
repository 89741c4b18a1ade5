// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/settings.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>

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
  ASSERT_EQ(s.operating_points.size(), 3U);
  EXPECT_EQ(s.operating_points[0].code, 0);
  EXPECT_EQ(s.operating_points[1].code, 1966);  // 1.2 / 2.5 * 4096 = 1966.08
  EXPECT_EQ(s.operating_points[2].code, 3932);
  EXPECT_NEAR(s.operating_points[2].voltage, 2.4, 1e-12);
  EXPECT_NEAR(s.operating_points[2].code_width, 62.5 / 4096, 1e-12);
  // The other convention reads 1/4095 high.
  EXPECT_NEAR(s.operating_points[2].convention_changes, 3932 * 62.5 / 4096 / 4095, 1e-12);
  EXPECT_EQ(s.operating_points[0].convention_changes, 0.0);
  EXPECT_NEAR(s.noise_in_codes, 0.6, 1e-3);
}

TEST(Settings, AWalkShowsEveryStepBothWays) {
  const auto chain = build(testing::pack_voltage(), "x");
  const auto there = trace(chain, 48.0);
  ASSERT_EQ(there.steps.size(), 5U);
  EXPECT_EQ(there.steps[1].stage, "after divider");
  EXPECT_DOUBLE_EQ(there.steps[1].value, 1.92);
  EXPECT_EQ(there.code, 3146);  // 3145.728
  EXPECT_DOUBLE_EQ(there.steps[3].value, 3146 * 2.5 / 4096);
  EXPECT_DOUBLE_EQ(there.reading, 3146 * 62.5 / 4096);
  EXPECT_NEAR(there.error, 0.272 * 62.5 / 4096, 1e-9);
  EXPECT_FALSE(there.clipped);

  const auto back = inverse_trace(chain, 3146);
  EXPECT_DOUBLE_EQ(back.reading, there.reading);
  EXPECT_NEAR(back.from, 3145.5 * 62.5 / 4096, 1e-9);
  EXPECT_NEAR(back.to, 3146.5 * 62.5 / 4096, 1e-9);
  EXPECT_FALSE(back.open_below || back.open_above);
  EXPECT_TRUE(inverse_trace(chain, 0).open_below);
  EXPECT_TRUE(inverse_trace(chain, 4095).open_above);
  EXPECT_TRUE(trace(chain, 63.0).clipped);
}

// Every code, there and back: the trace back names a stretch whose ends trace to that code.
TEST(Settings, TracesAreInverse) {
  const auto chain = build(testing::board({.bits = 10}), "x");
  for (std::int64_t code = 0; code <= last_code(chain); ++code) {
    const auto back = inverse_trace(chain, code);
    const double inside = 1e-6 * (back.to - back.from);
    ASSERT_EQ(trace(chain, back.from + inside).code, code);
    ASSERT_EQ(trace(chain, back.to - inside).code, code);
  }
}

// The best bias resistor of a sensor is the geometric mean of its extremes where it only rises or
// falls; found by search, so also where the sensor warms itself.
TEST(Settings, TheBestBiasResistor) {
  auto b = testing::board({.span = "5..2000 lx"});
  auto& channel = b.channels.front();
  channel.sensor = model::Photoresistor{.resistance = testing::value("20 kohm", "ohm"),
                                        .at = 10.0,
                                        .exponent = testing::value("0.7", "")};
  channel.frontend = {model::SensorDivider{.bias_resistor = testing::value("3.3 kohm", "ohm"),
                                           .sensor_at_bottom = false,
                                           .supply = "ref"}};
  const auto light = bias_resistor(build(b, "x"));
  ASSERT_TRUE(light);
  const double low = 20e3 * std::pow(200.0, -0.7), high = 20e3 * std::pow(0.5, -0.7);
  EXPECT_NEAR(light->best / std::sqrt(low * high), 1.0, 1e-6);
  EXPECT_NEAR(light->output_span, 2.5 * (3.3e3 / (3.3e3 + low) - 3.3e3 / (3.3e3 + high)), 1e-12);

  channel.span = testing::range("-20..120 degC");
  channel.sensor = model::Ntc{
      .law = model::Thermistor{testing::value("10 kohm", "ohm"), testing::value("3950 K", "K")},
      .dissipation = testing::value("1 mW/K", "W/K")};
  const auto chain = build(b, "x");
  const auto ntc = bias_resistor(chain);
  ASSERT_TRUE(ntc);
  auto p = chain.nominal;
  const auto& law = std::get<SelfHeatedLaw>(chain.path.stages.front().law);
  const auto moves = [&](double resistance) {
    p[std::get<SensorDividerLaw>(law.feed).bias_resistor] = resistance;
    return std::abs(voltage(chain, channel.span.high, p) - voltage(chain, channel.span.low, p));
  };
  for (double r = 100.0; r < 1e6; r *= 1.05)
    EXPECT_LE(moves(r), ntc->best_output_span * (1 + 1e-9));
  EXPECT_FALSE(bias_resistor(build(testing::board(), "x")));
}

// NAMUR NE 43 levels over 0..6 bar: 3.6 mA is -0.15 bar, 21 mA is 6.375 bar.
TEST(Settings, LevelsOfALoop) {
  auto b = testing::board({.span = "0..6 bar"});
  auto& channel = b.channels.front();
  channel.sensor = model::CurrentLoop{.supply = 24.0, .burden = 10.0};
  channel.frontend = {model::Shunt{.resistance = testing::value("100 ohm", "ohm")}};
  const auto s = settings(build(b, "x"));
  ASSERT_EQ(s.loop.size(), 4U);
  const double step = 6e5 / 0.016 / 100.0 * 2.5 / 4096.0;
  const double expected[] = {-0.15e5, -0.075e5, 6.1875e5, 6.375e5};
  const std::int64_t codes[] = {590, 623, 3359, 3441};  // mA * 100 ohm / 2.5 V * 4096
  for (std::size_t i = 0; i < 4; ++i) {
    EXPECT_NEAR(s.loop[i].reading, expected[i], step / 2.0);
    EXPECT_EQ(s.loop[i].reported, codes[i]);
  }
  EXPECT_NEAR(*s.loop_left, 24.0 - 10.0 - 2.1, 1e-12);
  channel.sensor = model::CurrentLoop{.low = 0.0};
  EXPECT_TRUE(settings(build(b, "x")).loop.empty());
}

// Per cent of span by two points that the firmware was taught; integers, and their largest error.
TEST(Settings, TaughtPointsAndIntegerErrors) {
  auto b = testing::board({.span = "0..2.4 V"});
  auto& scaling = b.channels.front().scaling;
  scaling.taught = {
      .low_code = 100.0, .high_code = 3900.0, .low_reading = 0.0, .high_reading = 2.4};
  scaling.decimals = 2;
  const auto taught = build(b, "x");
  EXPECT_DOUBLE_EQ(reading(taught, 2000.0), 1.2);
  EXPECT_DOUBLE_EQ(reading(taught, 2010.0), 1.21);  // 1.20632 shown with two decimals
  EXPECT_NEAR(bias(taught, 1.2), (1966.08 - 100.0) / 3800.0 * 2.4 - 1.2, 1e-12);
  scaling = {};
  scaling.integer = model::IntegerScaling{
      .steps = {{model::Operation::multiply, 2501}, {model::Operation::shift_right, 12}},
      .count = 1e-3};
  // 2501 for 2500: at the last code 0.9998 counts more, less what the shift drops.
  double worst = 0.0;
  for (int code = 0; code < 4096; ++code) {
    worst = std::max(worst, std::abs((code * 2501 >> 12) * 1e-3 - code * 2.5 / 4096.0));
  }
  EXPECT_NEAR(*settings(build(b, "x")).arithmetic_error, worst, 1e-15);
}

}  // namespace
}  // namespace tamlo::chain
