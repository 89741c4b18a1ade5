// SPDX-License-Identifier: Apache-2.0
// Boards from memory, the places of keys, and what the reader asks for.
#include <gtest/gtest.h>

#include <algorithm>
#include <filesystem>
#include <string>

#include "tamlo/io/board_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/model/board.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

TEST(BoardText, IsWhatTheFileIs) {
  const auto of_text = io::load_board_text(read(demo_board));
  const auto of_file = io::load_board({demo_board});
  ASSERT_EQ(of_text.channels.size(), of_file.channels.size());
  for (std::size_t i = 0; i < of_file.channels.size(); ++i) {
    EXPECT_EQ(of_text.channels[i].name, of_file.channels[i].name);
    EXPECT_EQ(of_text.channels[i].span, of_file.channels[i].span);
    EXPECT_EQ(of_text.channels[i].frontend.size(), of_file.channels[i].frontend.size());
  }
  EXPECT_EQ(of_text.references.front().voltage, of_file.references.front().voltage);
}

// A tenth of a degree Celsius is a tenth of a kelvin where a difference is meant.
TEST(BoardText, DifferencesTakeUnitsWithoutTheirZero) {
  for (const char* count : {"0.1 degC", "0.1 K"}) {
    const auto board = io::load_board_text(std::string(R"(
format = 1
[reference.r]
voltage = "1.2 V"
[converter.a]
resolution = "10 bit"
reference = "r"
[channel.c]
span = "0..100 degC"
converter = "a"
sensor = { linear = { sensitivity = "9.5 mV/K", offset = "0 V", at = "0 degC" } }
threshold = { at = "50 degC", hysteresis = "0.5 degC" }
scaling = { arithmetic = "integer", word = "32 bit unsigned", steps = [ { multiply = 20211 }, { shift_right = 14 } ], count = ")") +
                                           count + "\" }\n");
    const auto& channel = board.channels.front();
    EXPECT_NEAR(channel.scaling.integer->count, 0.1, 1e-12) << count;
    EXPECT_NEAR(channel.threshold->hysteresis, 0.5, 1e-12);
  }
}

TEST(BoardText, MistakesNameIt) {
  const struct {
    const char *text, *problem, *code;
    std::size_t line, column;
  } cases[] = {{"format = 2\n", "the integer 2", "wrong-value", 1, 10},
               {"format = 1\nfromat = 1\n", "unknown key", "unknown-key", 2, 1},
               {"format = 1\n", "missing key", "missing-key", 1, 1},
               {"format = \n", "text that is not TOML", "not-toml", 1, 10}};
  for (const auto& of : cases) {
    try {
      io::load_board_text(of.text, "typed by hand");
      ADD_FAILURE() << of.text;
    } catch (const io::BadInput& error) {
      const auto found = std::ranges::find(error.problems, of.code, &Problem::code);
      ASSERT_NE(found, error.problems.end()) << of.text << error.what();
      EXPECT_EQ(found->file, "typed by hand");
      EXPECT_EQ(found->line, of.line) << of.text;
      EXPECT_EQ(found->column, of.column) << of.text;
      EXPECT_NE(found->problem.find(of.problem), std::string::npos) << found->problem;
    }
  }
}

TEST(BoardText, KeysHaveTheirPlaces) {
  const Folder folder;
  const auto board = folder.write("board.toml", "format = 1\n[reference.a]\nvoltage = \"2.5 V\"\n");
  const auto more = folder.write("more.toml", "[reference.a]\nnoise = \"1 uV rms\"\n");
  const struct {
    const char* key;
    std::string file;
    std::size_t line, column, end_column;
  } cases[] = {{"reference.a.voltage", board, 3, 11, 18},
               {"reference.a.noise", more, 2, 9, 19},
               {"reference.a.missing", board, 2, 1, 14},  // the table above it
               {"converter.main.clock", board, 1, 1, 0},
               {"format", board, 1, 10, 11}};
  std::vector<std::string> keys;
  for (const auto& of : cases) keys.emplace_back(of.key);
  const auto places = io::places_of({board, more}, keys);
  for (std::size_t i = 0; i < std::size(cases); ++i) {
    EXPECT_EQ(places[i].file, cases[i].file) << keys[i];
    EXPECT_EQ(places[i].line, cases[i].line) << keys[i];
    EXPECT_EQ(places[i].column, cases[i].column) << keys[i];
    const auto end = cases[i].end_column > 0 ? places[i].end_column : 0;
    EXPECT_EQ(end, cases[i].end_column) << keys[i];
  }
}

// Keys of a part stand in for those that the section does not have.
TEST(Parts, GiveTheirKeysToASection) {
  const Folder folder;
  std::filesystem::create_directory(folder.path("shared"));
  folder.write("shared/ref.toml",
               "part = \"reference\"\nvoltage = \"2.5 V ±0.2 %\"\nnoise = \"9 uV rms\"\n");
  folder.write("adc.toml", "part = \"converter\"\nresolution = \"10 bit\"\noffset = \"±2 LSB\"\n");
  folder.write("deep.toml", "part = \"reference\"\nuse = \"shared/ref.toml\"\n");
  folder.write("kindless.toml", "voltage = \"2.5 V\"\n");
  const std::string whole =
      "format = 1\n[board]\nparts = [\"shared\"]\n[reference.r]\nuse = \"ref.toml\"\nvoltage = "
      "\"2.4 V\"\n[converter.a]\nuse = \"adc.toml\"\nreference = \"r\"\n[channel.x]\nspan = "
      "\"0..2 V\"\nconverter = \"a\"\n";
  const auto path = folder.write("board.toml", whole);
  const auto board = io::load_board({path});
  EXPECT_EQ(board.references.front().voltage.nominal, 2.4);
  EXPECT_TRUE(board.references.front().voltage.limits.empty());
  EXPECT_TRUE(board.references.front().noise.has_value());
  EXPECT_EQ(board.converters.front().resolution, 10);
  ASSERT_EQ(board.parts.size(), 2U);
  EXPECT_EQ(board.parts[0].overridden, std::vector<std::string>{"voltage"});
  EXPECT_EQ(board.parts[1].keys, (std::vector<std::string>{"offset", "resolution"}));
  // A later file, or a setting, takes another part, or a key over it.
  EXPECT_EQ(
      io::load_board({path}, {"converter.a.resolution=\"12 bit\""}).converters.front().resolution,
      12);
  struct Case {
    const char* use;
    const char* says;
  };
  const Case cases[] = {{"\"none.toml\"", "no part \"none.toml\""},
                        {"\"../adc.toml\"", "no part \"../adc.toml\""},
                        {"\"/etc/passwd\"", "no part \"/etc/passwd\""},
                        {"\"adc.toml\"", "which is a converter"},
                        {"\"deep.toml\"", "which takes keys from another part"},
                        {"\"kindless.toml\"", "without its kind"},
                        {"3", "found the integer 3"}};
  for (const auto& [use, says] : cases) {
    const auto bad = folder.write("bad.toml", replaced(whole, "\"ref.toml\"", use));
    try {
      io::load_board({bad});
      ADD_FAILURE() << use;
    } catch (const io::BadInput& error) {
      const std::string what = error.what();
      EXPECT_NE(what.find("bad.toml:5:7: reference.r.use: "), std::string::npos) << what;
      EXPECT_NE(what.find(says), std::string::npos) << what;
    }
  }
  // A sensor and a part of a front end, of tables that are one.
  folder.write("ntc.toml",
               "part = \"sensor\"\nntc = { r25 = \"10 kohm ±1 %\", beta = \"3950 K\" }\n");
  folder.write("amp.toml",
               "part = \"frontend\"\namplifier = { gain = \"10\", output = \"0.1..2.4 V\" }\n");
  const auto with_parts = replaced(
      whole, "span = \"0..2 V\"",
      "span = \"0..90 degC\"\nsensor = { use = \"ntc.toml\", ntc = { beta = \"4200 K ±1 %\" } "
      "}\nfrontend = [ { divider = { top = \"10 kohm\", bottom = \"sensor\", supply = \"r\" } }, "
      "{ use = \"amp.toml\", amplifier = { gain = 1 } } ]");
  const auto parts = io::load_board({folder.write("parts.toml", with_parts)});
  const auto& x = parts.channels.front();
  const auto& law = std::get<model::Thermistor>(std::get<model::Ntc>(*x.sensor).law);
  EXPECT_EQ(law.r25.nominal, 10e3);
  EXPECT_EQ(law.beta.nominal, 4200.0);
  const auto& amplifier = std::get<model::Amplifier>(x.frontend.at(1));
  EXPECT_EQ(amplifier.gain.nominal, 1.0);
  EXPECT_EQ(amplifier.output->high, 2.4);
  ASSERT_EQ(parts.parts.size(), 4U);
  EXPECT_EQ(parts.parts[3].section, "channel.x.frontend[1]");
  EXPECT_EQ(parts.parts[3].overridden, std::vector<std::string>{"amplifier.gain"});
  // A mistake in a part stands in its file.
  folder.write("adc.toml", "part = \"converter\"\nresolution = \"10 bot\"\n");
  EXPECT_THROW(io::load_board({path}), io::BadInput);
  try {
    io::load_board({path});
  } catch (const io::BadInput& error) {
    EXPECT_NE(std::string(error.what()).find("adc.toml:2:"), std::string::npos) << error.what();
  }
}

}  // namespace
}  // namespace tamlo::testing
