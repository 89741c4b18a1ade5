// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/readings_file.hpp"

#include <gtest/gtest.h>

#include "tamlo/io/board_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/model/board.hpp"
#include "tool/process.hpp"

namespace tamlo::io {
namespace {

using tamlo::testing::Folder;

ReadingsFile load(const std::string& text) {
  const Folder folder;
  const auto board = load_board({tamlo::testing::demo("board.toml")});
  return load_readings(folder.write("readings.csv", text), board);
}

TEST(ReadingsFile, ColumnsInAnyOrderAndUnit) {
  const auto file =
      load("reading [mV],channel,note,meter [V]\r\n12000,pack_voltage,\"a, b\",12.01\r\n");
  ASSERT_EQ(file.channels.size(), 1U);
  EXPECT_EQ(file.channels[0].channel, "pack_voltage");
  EXPECT_EQ(file.channels[0].readings[0].reading, 12.0);
  EXPECT_EQ(file.channels[0].readings[0].meter, 12.01);
  EXPECT_EQ(file.ignored, std::vector<std::string>{"note"});
}

TEST(ReadingsFile, CodesAreScaledAsTheFirmwareDoes) {
  const auto file = load("channel,meter [V],code\npack_voltage,48,3146\npack_voltage,48,3145.5\n");
  EXPECT_DOUBLE_EQ(file.channels[0].readings[0].reading, 3146 * 62.5 / 4096);
  EXPECT_DOUBLE_EQ(file.channels[0].readings[1].reading, 3145.5 * 62.5 / 4096);
}

// 10.010 V is a display of 1 mV: the zero at its end is a digit.
TEST(ReadingsFile, TrailingZerosAreDigitsOfTheMeter) {
  const struct {
    const char* text;
    double place;
  } cases[] = {{"channel,meter [V],reading [V]\npack_voltage,10.010,10\n", 1e-3},
               {"channel,meter [V],reading [V]\npack_voltage,10,10\npack_voltage,9.50,10\n", 1e-2},
               {"channel,meter [mV],reading [V]\npack_voltage,10010.0,10\n", 1e-4},
               {"channel,meter [V],reading [V]\npack_voltage,1.0010e1,10\n", 1e-3},
               {"channel,meter [V],reading [V]\npack_voltage,10,10\n", 1.0}};
  for (const auto& of : cases) {
    const auto file = load(of.text);
    EXPECT_DOUBLE_EQ(file.channels[0].meter_place, of.place) << of.text;
    const auto meter = undescribed_meter(file.channels[0], quantity::unit("V"), "");
    const auto& range = meter.ranges.front();
    EXPECT_NEAR(range.full_scale.or_zero() / range.digits, of.place, 1e-9) << of.text;
  }
}

TEST(ReadingsFile, SeveralChannelsAndUnits) {
  const auto file = load(
      "channel,meter [V],meter [l/min],reading [V],reading [l/min],u_meter [mV]\n"
      "coolant_flow,,6.0,,6.1,\n"
      "pack_voltage,48.0,,48.1,,5\n"
      "coolant_flow,,7.0,,7.1,\n");
  ASSERT_EQ(file.channels.size(), 2U);
  EXPECT_EQ(file.channels[0].channel, "coolant_flow");
  EXPECT_EQ(file.channels[0].readings.size(), 2U);
  EXPECT_EQ(file.channels[1].readings[0].u_meter, 0.005);
  EXPECT_FALSE(file.channels[0].readings[0].u_meter);
}

TEST(ReadingsFile, TheMeterIsTheOneThatReadsTheUnit) {
  const auto board = load_board({tamlo::testing::demo("board.toml")});
  const auto choose = [](const model::Board& of, const char* name, const char* channel) {
    const ChannelReadings readings{.channel = channel};
    return choose_meter(of, "board.toml", name, {}, readings).name;
  };
  EXPECT_EQ(choose(board, "", "pack_voltage"), "bench");
  EXPECT_THROW(choose(board, "", "coolant_flow"), BadInput);
  EXPECT_THROW(choose(board, "other", "pack_voltage"), BadInput);
  auto two = board;
  two.meters.push_back(two.meters.front());
  two.meters.back().name = "second";
  EXPECT_THROW(choose(two, "", "pack_voltage"), BadInput);
  EXPECT_EQ(choose(two, "second", "pack_voltage"), "second");
}

}  // namespace
}  // namespace tamlo::io
