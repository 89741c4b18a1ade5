// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/readings_file.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

#include <algorithm>

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

// Exports of meters, loggers and spreadsheets: what is told of each, and no row is lost.
TEST(ReadingsFile, TablesOfOtherProgramsAreRead) {
  const ReadingsForm pack{.channel = "pack_voltage"};
  const ReadingsForm exported{.channel = "pack_voltage",
                              .columns = {"meter=Value (V)", "reading [V]=Firmware"}};
  const struct {
    const char* text;
    ReadingsForm form;
    std::size_t notes;
  } rows[] = {
      {"channel,meter [V],reading [V]\npack_voltage,12.01,12\npack_voltage,24.5,24\n", {}, 0},
      {"channel;meter [V];reading [V]\npack_voltage;12,01;12\npack_voltage;24,5;24\n", {}, 1},
      {"channel\tmeter [V]\treading [V]\npack_voltage\t12.01\t12\npack_voltage\t24.5\t24\n", {}, 1},
      {"\xef\xbb\xbfmeter [V];reading [mV]\r\n12,01;12000\r\n24,5;24000\r\n", pack, 1},
      {"meter (V),reading (V)\n12.01,12\n24.5,24\n", pack, 0},
      {"Bench meter log\nStarted;2026-11-29\n\nmeter [V];reading [V]\n12,01;12\n24,5;24\n", pack,
       2},
      {"Value (V),Firmware\n12.01,12\n24.5,24\n", exported, 0},
      {"# a note\nNo.;Value (V);Firmware\n1;12,01;12,0\n2;24,5;24,0\n", exported, 1},
      {"time;meter [V];reading [V]\n29.11.2026 10:30;12,01;12\n29.11.2026 10:31:30;24,5;24\n", pack,
       1},
      {"\"meter [V]\";\"reading [V]\"\n\"12,01\";\"12\"\n\"24,5\";\"24\"\n", pack, 1},
  };
  const Folder folder;
  const auto board = load_board({tamlo::testing::demo("board.toml")});
  for (const auto& row : rows) {
    SCOPED_TRACE(row.text);
    const auto file = load_readings(folder.write("readings.csv", row.text), board, row.form);
    ASSERT_EQ(file.channels.size(), 1U);
    const auto& readings = file.channels[0].readings;
    ASSERT_EQ(readings.size(), 2U);
    EXPECT_EQ(readings[0].meter, 12.01);
    EXPECT_EQ(readings[1].meter, 24.5);
    EXPECT_EQ(readings[1].reading, 24.0);
    EXPECT_EQ(file.notes.size(), row.notes);
    EXPECT_TRUE(!readings[0].time || *readings[1].time - *readings[0].time == 90.0);
  }
}

// What cannot be meant is told with its line.
TEST(ReadingsFile, TablesThatAreNotWholeAreRefused) {
  const struct {
    const char* text;
    ReadingsForm form;
    const char* problem;
  } rows[] = {
      {"meter [V];reading [V]\n12,01;12\n", {}, "no column \"channel\""},
      {"meter [V];reading [V]\n12,01;12\n", {.channel = "nobody"}, "--channel NAME"},
      {"Value (V);reading [V]\n12,01;12\n", {.channel = "pack_voltage"}, "--column"},
      {"meter [V];reading [V]\n1.012,01;12\n", {.channel = "pack_voltage"}, ":2:1: meter"},
      {"meter [V];reading [V]\n1,012,01;12\n", {.channel = "pack_voltage"}, ":2:1: meter"},
      {"meter [V];reading [V]\n12,01;12;7\n", {.channel = "pack_voltage"}, "3 cells"},
      {"meter [mV];reading [V]\n12.5;12\n1,234;12\n",
       {.channel = "pack_voltage"},
       ":3:1: meter: found \"1,234\", expected decimals by '.'"},
      {"meter [V];reading [V]\n12,01;12\n", {.columns = {"value=meter"}}, "NAME=HEADING"},
  };
  const Folder folder;
  const auto board = load_board({tamlo::testing::demo("board.toml")});
  for (const auto& row : rows) {
    try {
      load_readings(folder.write("readings.csv", row.text), board, row.form);
      ADD_FAILURE() << row.text;
    } catch (const BadInput& error) {
      EXPECT_NE(std::string(error.what()).find(row.problem), std::string::npos) << error.what();
    }
  }
}

// A log of the firmware and an export of a meter whose clock is 7.5 s ahead, each with its habits.
TEST(ReadingsFile, TwoLogsBecomeOne) {
  const Folder folder;
  const auto board = load_board({tamlo::testing::demo("board.toml")});
  std::string firmware = "channel,time [ms],reading [V]\n", meter = "Log\n\nTime (s);Value (V)\n";
  for (int i = 0; i < 300; ++i) {
    const double level = i < 100 ? 12.0 : i < 220 ? 24.0 : 48.0;
    firmware += fmt::format("pack_voltage,{},{}\n", 100 * i, level + 0.05);
    auto row = fmt::format("{:.1f};{:.2f}\n", 0.1 * i + 7.5, level);
    std::ranges::replace(row, '.', ',');
    meter += row;
  }
  const auto log = folder.write("firmware.csv", firmware);
  ReadingsForm form{.columns = {"time=Time (s)", "meter=Value (V)"},
                    .meter_log = folder.write("meter.csv", meter)};
  const auto file = load_readings(log, board, form);
  ASSERT_EQ(file.channels.size(), 1U);
  const auto& rows = file.channels[0];
  EXPECT_GT(rows.readings.size(), 270U);
  EXPECT_EQ(rows.meter_place, 0.01);
  for (const auto& row : rows.readings) EXPECT_NEAR(row.reading - row.meter, 0.05, 1e-9);
  EXPECT_NE(file.notes.back().find("its clock is 7.5 s ahead, found within"), std::string::npos)
      << file.notes.back();
  const struct {
    const char *firmware, *meter, *rest;
    std::optional<double> offset;
    const char* problem;
  } bad[] = {
      {"time [s],reading [V]\n1,2\n", nullptr, "", {}, "no column \"channel\""},
      {"channel,reading [V]\npack_voltage,2\n", nullptr, "", {}, "no column \"time\""},
      {"channel,time [s],reading [V]\npack_voltage,,2\n", nullptr, "", {}, "the moment of the row"},
      {"channel,time [s],reading [V]\npack_voltage,1,2\n", nullptr, "", {}, "has 1 values"},
      {"channel,time [s],reading [l/min]\ncoolant_flow,1,2\n", nullptr, "", {}, "has 1 values"},
      {nullptr, "time [s],reading [V]\n1,2\n", "", {}, "no column \"meter\""},
      {nullptr, nullptr, "5 A", {}, "--rest"},
      {nullptr, nullptr, "", 1e6, "300 readings have a value"},
  };
  for (const auto& row : bad) {
    auto of = form;
    of.rest = row.rest;
    of.clock_offset = row.offset;
    if (row.meter != nullptr) of.meter_log = folder.write("other.csv", row.meter);
    try {
      load_readings(row.firmware != nullptr ? folder.write("log.csv", row.firmware) : log, board,
                    of);
      ADD_FAILURE() << row.problem;
    } catch (const BadInput& error) {
      EXPECT_NE(std::string(error.what()).find(row.problem), std::string::npos) << error.what();
    }
  }
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
  const auto choose = [](const model::Board& described, const char* name, const char* channel) {
    const ChannelReadings readings{.channel = channel};
    return choose_meter(described, "board.toml", name, {}, readings).name;
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
