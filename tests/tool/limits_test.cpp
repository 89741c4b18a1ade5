// SPDX-License-Identifier: Apache-2.0
// What docs/limits.md bounds, and values that no part has: refused with their place, or computed;
// no figure that is none comes out.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>
#include <regex>

#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

std::string channels(int count) {
  std::string result;
  for (int i = 0; i < count; ++i) {
    result += "\n[channel.c" + std::to_string(i) + "]\nspan = \"0..2 V\"\nconverter = \"main\"\n";
  }
  return result;
}

struct Change {
  std::string from, to;
  const char* says;
};

const std::string filter = "filter    = { kind = \"moving average\", length = 4 }";
const std::string lowpass =
    "{ lowpass = { resistor = \"1 kohm ±1 %\", capacitor = \"220 nF ±10 %\" } }";
const std::string sine = "{ frequency = \"50 Hz\", amplitude = \"5 mV\" }";

TEST(Limits, WhatGrowsIsBounded) {
  const auto demo = read(demo_board);
  const Change changes[] = {
      {filter, "filter = { kind = \"exponential\", weight = 1e-7 }", "at most 4194304"},
      {filter, "filter = { kind = \"exponential\", time_constant = \"1000000 s\" }",
       "at most 4194304"},
      {filter, "filter = { kind = \"Butterworth\", order = 8, cutoff = \"0.00001 Hz\" }",
       "at most 4194304"},
      {filter, "filter = { kind = \"notch\", frequency = \"10 Hz\", width = \"0.000001 Hz\" }",
       "at most 4194304"},
      {filter, "filter = { kind = \"moving average\", length = 2000000 }", "from 1 to 1048576"},
      {filter, "filter = { kind = \"median\", length = 1001 }", "from 1 to 255"},
      {filter,
       "filter = [ " + repeated("{ kind = \"sinc\", order = 5, decimation = 4096 }, ", 2) + " ]",
       "at most 4194304"},
      {filter, "filter = [ " + repeated("{ kind = \"moving average\", length = 2 }, ", 65) + " ]",
       "channel.pack_voltage.filter: found 65 of them, expected at most 16"},
      {filter, "filter = { kind = \"taps\", taps = [ " + repeated("1.0, ", 5000) + "] }",
       "found 5000 numbers, expected at most 1024"},
      {filter, "correction = { coefficients = [ " + repeated("1.0, ", 60000) + "] }",
       "found 60000 numbers, expected at most 32"},
      {filter,
       "scaling = { arithmetic = \"integer\", word = \"64 bit signed\", count = \"1 mV\", steps = "
       "[ " +
           repeated("{ add = 1 }, ", 17) + " ] }",
       "channel.pack_voltage.scaling.steps: found 17 of them, expected at most 16"},
      {filter,
       "scaling = { arithmetic = \"integer\", word = \"64 bit signed\", count = \"1 mV\", steps = "
       "[ { "
       "polynomial = [ " +
           repeated("1, ", 17) + "], shift = 1 } ] }",
       "found 17 numbers, expected at most 16"},
      {"\"2.5 V", "\"2.5 V " + repeated("±1 mV ", 70), "at most 64 limits"},
      {"title = \"Cargo", "title = \"" + repeated("x", 2000), "bytes, expected at most 1000 bytes"},
      {lowpass, repeated(lowpass + ", ", 1999) + lowpass, "frontend: found 2001 of them"},
      {sine, repeated(sine + ", ", 20000), "interference: found 20000 of them"},
      {"[meter.bench]", channels(300) + "[meter.bench]", "at most 256 on a board"},
      {"[meter.bench]", "[" + repeated("a.", 50000) + "a]\n[meter.bench]", "more than 64 parts"},
      {"[meter.bench]", "x = { " + repeated("a.", 50000) + "a = 1 }\n[meter.bench]",
       "more than 64 parts"},
      {"[meter.bench]", "[\"" + repeated("x", 50000) + "\"]\n[meter.bench]", "(50000 bytes)"},
  };
  const Folder folder;
  for (const auto& [from, to, says] : changes) {
    const auto board = folder.write("board.toml", replaced(demo, from, to));
    const auto result = tamlo({"check", board});
    EXPECT_EQ(result.status, 2) << says << result.output.substr(0, 200);
    EXPECT_NE(result.errors.find(says), std::string::npos) << says << result.errors.substr(0, 300);
    EXPECT_LT(result.errors.size(), 3000U) << says;
  }
  // A title may hold as many points as it likes.
  const auto dotted =
      folder.write("dotted.toml",
                   replaced(demo, "title = \"Cargo", "title = \"" + repeated(".", 200) + "Cargo"));
  EXPECT_EQ(tamlo({"check", dotted}).status, 0);
}

TEST(Limits, RunsAreBounded) {
  const Folder folder;
  const auto rows = folder.write(
      "rows.csv", "channel,meter [V],reading [V]\n" + repeated("nope,5,5.001\n", 5000));
  const std::pair<std::vector<std::string>, const char*> cases[] = {
      {{"compare", demo_board, rows}, "and 4950 more"},
      {{"budget", demo_board, "--trials", "100000000"}, "from 1000 to 20000000"},
      {{"simulate", demo_board, "pack_voltage", "--at", "5 V", "--unit", "0..1000000000"},
       "from 0 to 99999"},
      {{"budget", demo_board, "--set", repeated("a.", 40000) + "a=1"}, "a key and its value"},
  };
  for (const auto& [command, says] : cases) {
    const auto result = tamlo(command);
    EXPECT_EQ(result.status, 2) << says;
    EXPECT_NE(result.errors.find(says), std::string::npos) << says << result.errors.substr(0, 300);
  }
}

// Trials are shared among the channels of a command: what is found of each is said to be of so many
// units, and agrees with what more units say of one alone.
TEST(Limits, ManyChannelsShareTheTrials) {
  const auto demo = read(demo_board);
  const Folder folder;
  const auto point = [&](int others) {
    const auto board = folder.write(
        "board.toml", replaced(demo, "[meter.bench]", channels(others) + "[meter.bench]"));
    const auto result = tamlo({"budget", board, "--format", "json"});
    const auto json = nlohmann::json::parse(result.output);
    for (const auto& of : json["channels"]) {
      if (of["channel"] == "pack_voltage") return of["points"][0];
    }
    return nlohmann::json();
  };
  const auto alone = point(0), among_many = point(197);
  EXPECT_EQ(alone["units"], 20000);
  EXPECT_EQ(among_many["units"], 400000 / 200);
  const double of_more = alone["expanded"], of_fewer = among_many["expanded"];
  EXPECT_NEAR(of_fewer, of_more, 0.06 * of_more);  // three standard deviations of 2000 units
  EXPECT_NE(of_fewer, of_more);
  // Where the closed form holds none are tried.
  const auto full = tamlo(
      {"budget", demo_board, "--at", "60 V", "--channel", "pack_voltage", "--format", "json"});
  EXPECT_TRUE(nlohmann::json::parse(full.output)["channels"][0]["points"][0]["units"].is_null());
}

// Codes far apart are not told one by one, in any format; of fewer samples than codes no linearity.
TEST(Limits, FewSamplesOfManyCodes) {
  const auto board_of_24_bit = replaced(read(demo_board), "\"12 bit\"", "\"24 bit\"");
  const Folder folder;
  const auto board = folder.write("board.toml", board_of_24_bit);
  const auto record = [&](const std::vector<int>& codes) {
    std::string text = "pack_voltage [code]\n";
    for (const int code : codes) text += std::to_string(code) + "\n";
    return folder.write("record.csv", text);
  };
  for (const char* format : {"text", "json", "csv", "markdown"}) {
    const auto apart = tamlo({"record", board, record({100, 101, 99, 16000000, 16000001}),
                              "--channel", "pack_voltage", "--format", format});
    EXPECT_EQ(apart.status, 1) << apart.errors;
    EXPECT_LT(apart.output.size(), 10000U) << format;
  }
  std::vector<int> ramp;
  for (int i = 0; i <= 1000; ++i) ramp.push_back(std::min(16777215, 16777 * i + 300 * (i / 500)));
  ramp.front() = 0;
  ramp.back() = 16777215;
  const auto few = tamlo({"record", board, record(ramp), "--channel", "pack_voltage", "--input",
                          "ramp", "--format", "json"});
  EXPECT_EQ(few.status, 2);
  EXPECT_NE(few.errors.find("1001 samples for 16777214 codes"), std::string::npos) << few.errors;
}

// Piece by piece is the same as at once: the heading once, a row for each value.
TEST(Limits, ColumnsComePieceByPiece) {
  const Folder folder;
  const auto codes = folder.write("codes", repeated("0\n2048\n4095\n", 3000));
  const auto result = run("/bin/sh", {"-c", std::string(TAMLO_TOOL) + " convert " + demo_board +
                                                " pack_voltage --format csv --code - < " + codes});
  EXPECT_EQ(result.status, 0);
  EXPECT_EQ(std::ranges::count(result.output, '\n'), 9001);
  EXPECT_EQ(result.output.rfind("code,"), 0U);
}

TEST(Limits, NoValueBecomesNoFigure) {
  const auto demo = read(demo_board);
  const Change changes[] = {
      {"voltage = \"2.5 V ±0.05 %", "voltage = \"2.5 V ±100 %", "limits of ±100 % and more"},
      {"top = \"240 kohm", "top = \"1e300 kohm", "1e-30 to 1e30"},
      {"bottom = \"10 kohm ±0.1 %", "bottom = \"10 kohm ±150 %", "limits of ±100 % and more"},
      {"capacitor = \"220 nF", "capacitor = \"1e-300 pF", "1e-30 to 1e30"},
      {"capacitor = \"220 nF ±10 %", "capacitor = \"220 nF ±200 %", "limits of ±100 % and more"},
      {"resistor = \"1 kohm", "resistor = \"300 Mohm", nullptr},
      {"span      = \"0..60 V\"", "span = \"0..1e-9 V\"", "the code moves by"},
      {"span      = \"0..60 V\"", "span = \"0..1e154 V\"", "1e-30 to 1e30"},
      {"temperature  = \"15..45 degC\"", "temperature = \"-400..45 degC\"", "absolute zero"},
      {"noise              = \"0.6 LSB rms\"", "noise = \"1e9 LSB rms\"", nullptr},
      {"inl                = \"±1.5 LSB\"", "inl = \"±1e12 LSB\"", nullptr},
      {"accuracy = \"±0.5 % of span\"", "accuracy = \"±1e-20 % of span\"", nullptr},
      {"age          = \"1 year\"", "age = \"1e20 year\"", nullptr},
  };
  const std::regex no_figure("(^|[^a-z])(nan|inf)([^a-z]|$)");
  const Folder folder;
  for (const auto& [from, to, says] : changes) {
    const auto board = folder.write("board.toml", replaced(demo, from, to));
    for (const char* command : {"check", "channel", "budget"}) {
      const auto text = tamlo({command, board});
      const auto said = status_said(text.output);
      for (const auto& result : {text, tamlo({command, board, "--format", "json"})}) {
        SCOPED_TRACE(to + " in " + command);
        if (says != nullptr) {
          EXPECT_EQ(result.status, 2) << result.output;
          EXPECT_NE(result.errors.find(says), std::string::npos) << result.errors;
          EXPECT_NE(result.errors.find(board + ":"), std::string::npos) << result.errors;
        } else {
          EXPECT_EQ(result.status, said) << result.errors;
          EXPECT_FALSE(std::regex_search(result.output, no_figure)) << result.output;
        }
      }
    }
  }
}

}  // namespace
}  // namespace tamlo::testing
