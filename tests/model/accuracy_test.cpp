// SPDX-License-Identifier: Apache-2.0
#include "tamlo/model/detail/accuracy.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "boards.hpp"

namespace tamlo::model {
namespace {

TEST(MeterAccuracy, TheLowestRangeThatHoldsTheReading) {
  const auto meter = testing::bench_meter();
  EXPECT_EQ(range_for(meter, 0.0), 0U);
  EXPECT_EQ(range_for(meter, 6.0), 0U);
  EXPECT_EQ(range_for(meter, -6.0), 0U);
  EXPECT_EQ(range_for(meter, 6.001), 1U);
  EXPECT_EQ(range_for(meter, 60.0), 1U);
  EXPECT_FALSE(range_for(meter, 60.1));
}

// 0.05 % of 48 V = 24 mV, 2 digits of 10 mV = 20 mV, half a digit of resolution = 5 mV.
TEST(MeterAccuracy, ByHand) {
  const auto u = uncertainty(testing::bench_meter().ranges[1], 48.0);
  ASSERT_EQ(u.limits.size(), 2U);
  EXPECT_NEAR(u.limits[0], 0.024 / std::sqrt(3.0), 1e-15);
  EXPECT_NEAR(u.limits[1], 0.020 / std::sqrt(3.0), 1e-15);
  EXPECT_NEAR(u.resolution, 0.005 / std::sqrt(3.0), 1e-15);
  EXPECT_NEAR(u.combined(), std::sqrt((0.024 * 0.024 + 0.02 * 0.02 + 0.005 * 0.005) / 3.0), 1e-15);
}

TEST(MeterAccuracy, EveryBasis) {
  const model::MeterRange range{.full_scale = testing::value("10 V", "V"),
                                .digits = 10000,
                                .accuracy = testing::value("±0.1 % of range ±2 mV (k=2)", "V")};
  const auto u = uncertainty(range, -4.0);
  EXPECT_NEAR(u.limits[0], 0.01 / std::sqrt(3.0), 1e-15);
  EXPECT_NEAR(u.limits[1], 0.001, 1e-15);
  EXPECT_NEAR(digit(range), 0.001, 1e-18);
}

// Outside its own temperatures a meter drifts, and with the years since its accuracy was true.
TEST(MeterAccuracy, TemperatureAndAge) {
  auto meter = testing::bench_meter();
  meter.ranges[1].accuracy = testing::value("±0.05 % ±10 ppm/K ±0.02 %/year", "V");
  meter.temperature = testing::range("18..28 degC");
  meter.age = 1.5 * 31557600.0;
  struct Case {
    double celsius, kelvin;
  };
  for (const auto& [celsius, kelvin] : {Case{23, 0}, Case{28, 0}, Case{35, 7}, Case{8, 10}}) {
    const auto use = use_of(meter, celsius + 273.15);
    EXPECT_NEAR(use.kelvin, kelvin, 1e-9);
    const auto u = uncertainty(meter.ranges[1], 48.0, use);
    EXPECT_NEAR(u.limits[0], 48.0 * 5e-4 / std::sqrt(3.0), 1e-12);
    EXPECT_NEAR(u.limits[1], 48.0 * 10e-6 * kelvin / std::sqrt(3.0), 1e-12);
    EXPECT_NEAR(u.limits[2], 48.0 * 3e-4 / std::sqrt(3.0), 1e-7);
  }
}

// 0.1 % of 50 degC, not of 323 K; a digit is 100 degC / 1000.
TEST(MeterAccuracy, CelsiusCountsFromItsOwnZero) {
  const model::MeterRange range{.full_scale = testing::value("100 degC", "degC"),
                                .digits = 1000,
                                .accuracy = testing::value("±0.1 % ±0.2 % of range", "K")};
  const auto u = uncertainty(range, 273.15 + 50.0);
  EXPECT_NEAR(u.limits[0], 0.05 / std::sqrt(3.0), 1e-12);
  EXPECT_NEAR(u.limits[1], 0.2 / std::sqrt(3.0), 1e-12);
  EXPECT_NEAR(digit(range), 0.1, 1e-12);
  const model::Meter meter{.name = "thermometer", .ranges = {range}};
  EXPECT_EQ(range_for(meter, 273.15 - 99.0), 0U);
  EXPECT_FALSE(range_for(meter, 273.15 - 101.0));
  EXPECT_FALSE(range_for(meter, 273.15 + 101.0));
}

}  // namespace
}  // namespace tamlo::model
