// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/board_file.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <filesystem>

#include "tamlo/error.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/model/board.hpp"
#include "tool/process.hpp"

namespace tamlo::io {
namespace {

using tamlo::testing::Folder;

TEST(BoardFile, TheDemoBoardIsReadWhole) {
  const auto board = load_board({tamlo::testing::demo("board.toml")});
  EXPECT_EQ(board.title, "Cargo-bike drive stand, sensor board C");
  EXPECT_DOUBLE_EQ(board.conditions.temperature.low, 288.15);
  EXPECT_EQ(board.conditions.age, 31557600.0);
  ASSERT_EQ(board.references.size(), 2U);
  EXPECT_EQ(board.references[0].voltage.nominal, 2.5);
  EXPECT_EQ(board.references[0].voltage.limits.size(), 3U);
  ASSERT_EQ(board.converters.size(), 1U);
  EXPECT_EQ(board.converters[0].resolution, 12);
  EXPECT_EQ(board.converters[0].input_limit->high, 2.8);
  const auto& defaults = board.converters[0].defaults;
  for (const auto* key : {"coding", "first_transition", "attenuation", "report"}) {
    EXPECT_EQ(std::ranges::count(defaults, key), 1) << key;
  }
  EXPECT_EQ(std::ranges::count(defaults, "offset"), 0);
  // In the order of the file, not of the alphabet.
  ASSERT_EQ(board.channels.size(), 3U);
  EXPECT_EQ(board.channels[0].name, "pack_voltage");
  EXPECT_EQ(board.channels[1].name, "auxiliary_supply");
  EXPECT_EQ(board.channels[2].name, "coolant_flow");
  const auto& pack = board.channels[0];
  EXPECT_EQ(pack.span.high, 60.0);
  EXPECT_EQ(pack.average.time, 0.02);
  EXPECT_EQ(std::get<model::MovingAverage>(pack.filter.at(0)).length.count, 4);
  EXPECT_EQ(std::get<model::Divider>(pack.frontend.at(0)).top.nominal, 240e3);
  EXPECT_EQ(pack.target.accuracy->basis, quantity::Basis::span);
  EXPECT_EQ(std::get<model::LinearSensor>(*board.channels[2].sensor).at_high.nominal, 4.5);
  EXPECT_EQ(board.channels[2].span.unit.dimension.label, "l/min");
  ASSERT_EQ(board.meters.size(), 1U);
  EXPECT_EQ(board.meters[0].ranges[1].full_scale.nominal, 60.0);
}

TEST(BoardFile, ALaterFileOverridesKeysAndKeepsTheRest) {
  const Folder folder;
  const auto board = folder.write("board.toml", tamlo::testing::small_board);
  const auto over = folder.write("what-if.toml",
                                 "[converter.adc]\nresolution = \"16 bit\"\n"
                                 "[channel.second]\nspan = \"0..2 V\"\nconverter = \"adc\"\n");
  const auto merged = load_board({board, over});
  EXPECT_EQ(merged.converters[0].resolution, 16);
  EXPECT_EQ(merged.converters[0].offset.limits.size(), 1U);
  ASSERT_EQ(merged.channels.size(), 2U);
  EXPECT_EQ(load_board({board}).converters[0].resolution, 12);
}

// A long work is of one board, whatever is saved meanwhile: its own file, a part or a curve.
TEST(BoardFile, FilesOfALongWorkAreReadOnce) {
  using tamlo::testing::replaced;
  const Folder folder;
  const std::string curve = "x [V], output [V]\n0, 0\n24, 1\n";
  const auto path =
      folder.write("board.toml", replaced(tamlo::testing::small_board, "average = 16",
                                          "sensor = { use = \"part.toml\" }\naverage = 16"));
  folder.write("part.toml", "part = \"sensor\"\ntable = \"curve.csv\"\n");
  folder.write("curve.csv", curve);
  const BoardFiles files({path});
  const auto top = [](const model::Board& board) {
    return std::get<model::Curve>(*board.channels.at(0).sensor).y.back();
  };
  EXPECT_EQ(top(files.with()), 1.0);
  folder.write("curve.csv", replaced(curve, "24, 1", "24, 1.5"));
  EXPECT_EQ(top(files.with()), 1.0);
  EXPECT_EQ(top(load_board({path})), 1.5);
  folder.write("part.toml", "part = \"meter\"\n");
  EXPECT_THROW(load_board({path}), BadInput);
  folder.write("board.toml", "no board");
  EXPECT_EQ(files.with({"converter.adc.resolution=14 bit"}).converters.at(0).resolution, 14);
  EXPECT_EQ(top(files.with()), 1.0);
}

// Progress that is kept belongs to all that was read: here a part that an overlay takes from a
// folder of the board, and the curve that the part names.
TEST(BoardFile, AllTextsAreThoseOfPartsAndCurvesToo) {
  const Folder folder;
  std::filesystem::create_directory(folder.path("lib"));
  const auto board = folder.write(
      "board.toml", std::string(tamlo::testing::small_board) + "[board]\nparts = [\"lib\"]\n");
  const auto over = folder.write("over.toml", "[channel.v]\nsensor = { use = \"part.toml\" }\n");
  const auto other = folder.write("other.toml", "format = 1 # choices");
  folder.write("lib/part.toml", "part = \"sensor\"\ntable = \"curve.csv\"\n");
  folder.write("lib/curve.csv", "x [V], output [V]\n0, 0\n24, 1\n");
  const auto texts = BoardFiles({board, over}).all_texts({other});
  for (const auto* held : {"bench", "part.toml", "# choices", "part = ", "24, 1"}) {
    EXPECT_NE(texts.find(held), std::string::npos) << held;
  }
}

// Files that a single key names lie beside the board, wherever the tool runs; a part that an
// overlay in another folder names, beside the overlay or the board.
TEST(BoardFile, NamesInSingleKeysAndOverlaysAreFound) {
  const Folder folder;
  std::filesystem::create_directory(folder.path("lib"));
  std::filesystem::create_directory(folder.path("other"));
  const auto board = folder.write("board.toml", tamlo::testing::small_board);
  folder.write("lib/part.toml", "part = \"sensor\"\ntable = \"curve.csv\"\n");
  folder.write("lib/curve.csv", "x [V], output [V]\n0, 0\n24, 1\n");
  const std::string use = "[channel.v]\nsensor = { use = \"lib/part.toml\" }\n";
  const auto over = folder.write("other/over.toml", use);
  for (const auto& read : {load_board({board}, {"channel.v.sensor.use=lib/part.toml"}),
                           load_board({board}, {"channel.v.sensor={table = \"lib/curve.csv\"}"}),
                           load_board({board, over})}) {
    EXPECT_TRUE(read.channels.at(0).sensor.has_value());
  }
  EXPECT_THROW(load_board({board}, {"channel.v.sensor.use=lib/none.toml"}), BadInput);
  EXPECT_THROW(load_board({}), ArgumentError);
}

TEST(BoardFile, MeterRangesAreSortedByFullScale) {
  const Folder folder;
  const auto text = tamlo::testing::replaced(
      tamlo::testing::small_board, "ranges = [ ",
      "ranges = [ { full_scale = \"600 V\", digits = 6000, accuracy = \"±0.1 %\" }, ");
  const auto board = load_board({folder.write("board.toml", text)});
  EXPECT_EQ(board.meters[0].ranges[0].full_scale.nominal, 60.0);
}

TEST(Diagnostics, NearestKnownWord) {
  const std::vector<std::string> known{"resolution", "reference", "offset", "inl"};
  EXPECT_EQ(nearest("resolutoin", known), "resolution");
  EXPECT_EQ(nearest("ofset", known), "offset");
  EXPECT_EQ(nearest("banana", known), "");
  EXPECT_EQ(to_string(Problem{"b.toml", 3, 7, 0, "k", "x", "y"}),
            "b.toml:3:7: k: found x, expected y");
  EXPECT_EQ(to_string(Problem{"b.toml", 0, 0, 0, "", "x", "y"}), "b.toml: found x, expected y");
}

TEST(BoardFile, WhatIsWrongStandsAtItsFirstAndLastCharacter) {
  const testing::Folder folder;
  const auto path = folder.write(
      "board.toml", testing::replaced(testing::small_board, "temperature = \"15..45 degC\"",
                                      "temperature = \"15..4x5 degC\""));
  try {
    load_board({path});
    FAIL();
  } catch (const BadInput& error) {
    const auto& first = error.problems.at(0);
    // temperature = "15..4x5 degC"
    // 123456789012345678901234567890: the text begins at 15, and x5 at 21
    EXPECT_EQ(first.column, 21U);
    EXPECT_EQ(first.end_column, 29U);
  }
}

// Without a range of temperatures nothing drifts: the budget is for where the limits hold.
TEST(BoardFile, OneTemperatureAndNone) {
  const testing::Folder folder;
  struct Case {
    const char* conditions;
    double low, high, specified_at;
  };
  for (const auto& [conditions, low, high, specified_at] :
       {Case{"specified_at = \"25 degC\"", 298.15, 298.15, 298.15},
        Case{"temperature = \"60 degC\"", 333.15, 333.15, 296.15},
        Case{"temperature = \"59..140 degF\"", 288.15, 333.15, 296.15},
        Case{"", 296.15, 296.15, 296.15}}) {
    const auto path = folder.write(
        "board.toml",
        testing::replaced(testing::small_board, "temperature = \"15..45 degC\"", conditions));
    const auto board = load_board({path});
    EXPECT_NEAR(board.conditions.temperature.low, low, 1e-9) << conditions;
    EXPECT_NEAR(board.conditions.temperature.high, high, 1e-9) << conditions;
    EXPECT_NEAR(board.conditions.specified_at, specified_at, 1e-9) << conditions;
  }
}

}  // namespace
}  // namespace tamlo::io
