// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/timing.hpp"

#include <gtest/gtest.h>

#include "boards.hpp"

namespace tamlo::chain {
namespace {

model::Board scanned(int channels) {
  auto b = testing::board();
  auto& adc = b.converters.front();
  adc.max_rate = 40e3;
  for (int i = 1; i < channels; ++i) {
    b.channels.push_back(b.channels.front());
    b.channels.back().name = "x" + std::to_string(i);
  }
  return b;
}

Timing of(const model::Board& b, std::size_t channel = 0) {
  return timing(b, b.converters.front(), b.channels.at(channel));
}

TEST(Timing, EightChannelsShareFortyThousand) {
  const auto b = scanned(8);
  for (std::size_t i = 0; i < 8; ++i) {
    EXPECT_DOUBLE_EQ(of(b, i).rate, 5e3);
    EXPECT_DOUBLE_EQ(of(b, i).aggregate_rate, 40e3);
    EXPECT_NEAR(of(b, i).busy, 1.0, 1e-12);
  }
  EXPECT_EQ(before_in_scan(of(b), "x3"), "x2");
  EXPECT_EQ(before_in_scan(of(b), "x"), "x7");  // around the end
  EXPECT_EQ(before_in_scan(of(scanned(1)), "x"), "x");
}

TEST(Timing, ConversionIsSamplingAndConversionCycles) {
  auto b = scanned(2);
  auto& adc = b.converters.front();
  adc.max_rate.reset();
  adc.clock = model::Clock{.source = 80e6, .divider = 8};
  adc.conversion = 13.0;
  b.channels[0].sampling = 48.0;
  b.channels[1].sampling = 7.0;
  b.channels[1].rate = 1000.0;
  const auto t = of(b);
  EXPECT_DOUBLE_EQ(t.clock, 10e6);
  EXPECT_DOUBLE_EQ(t.sampling_time, 4.8e-6);
  EXPECT_DOUBLE_EQ(t.conversion_time, 6.1e-6);
  EXPECT_DOUBLE_EQ(t.scan_period, 8.1e-6);
  EXPECT_DOUBLE_EQ(t.rate, 1.0 / 8.1e-6);
  EXPECT_DOUBLE_EQ(of(b, 1).rate, 1000.0);
  EXPECT_NEAR(t.busy, 6.1 / 8.1 + 1000.0 * 2e-6, 1e-12);
}

TEST(Timing, ADeltaSigmaInAScanFillsItsFilterAnew) {
  auto b = scanned(1);
  auto& adc = b.converters.front();
  adc.max_rate.reset();
  adc.data_rate = 50.0;
  adc.sinc_order = 3;
  EXPECT_DOUBLE_EQ(of(b).rate, 50.0);
  b.channels.push_back(b.channels.front());
  b.channels.back().name = "y";
  EXPECT_DOUBLE_EQ(of(b).rate, 50.0 / 6.0);
}

TEST(Timing, TheNearestLegalDivider) {
  const auto limits = testing::range("0.5..12 MHz");
  const auto divider = [&](double source, int wanted, std::vector<int> among = {}) {
    return legal_divider(
        {.source = source, .divider = wanted, .dividers = std::move(among), .limits = limits});
  };
  EXPECT_EQ(divider(80e6, 8), 8);      // 10 MHz: as asked
  EXPECT_EQ(divider(80e6, 4), 7);      // 20 MHz; 80 / 7 is the first under 12
  EXPECT_EQ(divider(80e6, 500), 160);  // 0.16 MHz; 80 / 160 is the last over 0.5
  EXPECT_EQ(divider(80e6, 4, {1, 2, 4, 6, 8, 16}), 8);
  EXPECT_EQ(divider(80e6, 4, {1, 2, 4, 6}), 0);
  EXPECT_EQ(divider(100e3, 1), 0);
}

}  // namespace
}  // namespace tamlo::chain
