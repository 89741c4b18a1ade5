// SPDX-License-Identifier: Apache-2.0
// Settings to words and back, by the maps of the examples.
#include "tamlo/firmware/registers.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <functional>

#include "boards.hpp"
#include "tamlo/error.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/register_map.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

using firmware::Dump, firmware::RegisterField, firmware::RegisterMap;

std::string map_path(const std::string& name) { return replaced(example(name), "boards", "maps"); }

const std::pair<const char*, const char*> maps_of_boards[] = {
    {"eight_channels.toml", "controller.toml"},
    {"weighing.toml", "delta_sigma.toml"},
    {"process_inputs.toml", "process_module.toml"}};

Dump dump_of(const firmware::ChannelWords& words) {
  Dump dump;
  for (const auto& of : words.registers) {
    for (const auto& one : firmware::words_of(of)) dump[one.address] = one.value;
  }
  return dump;
}

// A board on which a setting has one of the values that its field can have; false for what this
// test does not know how to set.
bool set(model::Board& board, model::Channel& channel, const std::string& key,
         const std::string& value) {
  auto& converter =
      *std::ranges::find(board.converters, channel.converter, &model::Converter::name);
  const auto number = [&] { return std::stod(value); };
  if (key == "channel.input")
    channel.input = static_cast<int>(number());
  else if (key == "channel.sampling")
    channel.sampling = number();
  else if (key == "channel.average")
    channel.average = {.count = static_cast<int>(number())};
  else if (key == "channel.gain")
    std::get<model::Amplifier>(channel.frontend.front()).use = value;
  else if (key == "converter.reference")
    converter.reference = value;
  else if (key == "converter.clock.divider")
    converter.clock->divider = static_cast<int>(number());
  else if (key == "converter.data_rate")
    converter.data_rate = number();
  else if (key == "converter.sinc_order")
    converter.sinc_order = static_cast<int>(number());
  else if (key == "converter.coding")
    converter.coding =
        value == "offset binary" ? model::Coding::offset_binary : model::Coding::twos_complement;
  else if (key == "converter.report.align")
    converter.reporting.kind =
        value == "left" ? model::RegisterFormat::Kind::shifted : model::RegisterFormat::Kind::plain;
  else
    return false;
  return true;
}

// Everything that a field can express.
std::vector<std::string> values_of(const RegisterField& field) {
  std::vector<std::string> result;
  for (const auto& [name, code] : field.when) result.push_back(name);
  if (!result.empty()) return result;
  const auto formula = field.formula.value_or(firmware::Formula{});
  for (std::int64_t code = 0; code < std::int64_t{1} << field.bits(); ++code) {
    const auto top = code * formula.over - formula.plus;
    if (top % formula.times == 0 && top / formula.times > 0)
      result.push_back(std::to_string(top / formula.times));
  }
  return result;
}

TEST(Registers, SettingsComeBackFromTheirWords) {
  int tried = 0;
  for (const auto& [board_name, map_name] : maps_of_boards) {
    const auto board = io::load_board({example(board_name)});
    for (const auto& map : io::load_register_maps(map_path(map_name), board)) {
      for (const auto& channel : board.channels) {
        if (channel.converter != map.converter) continue;
        // Fields do not touch each other, so that one after the other is every combination.
        for (const auto& of : map.registers) {
          for (const auto& field : of.fields) {
            if (field.value || (field.input && *field.input != channel.input)) continue;
            for (const auto& value : values_of(field)) {
              auto changed = board;
              auto& own = *std::ranges::find(changed.channels, channel.name, &model::Channel::name);
              if (field.of == "channel.gain" && own.scaling.tare && own.name != "load") continue;
              if (!set(changed, own, field.of, value)) continue;
              const auto words = firmware::words_of(map, changed, channel.name);
              const auto where = of.name + "." + field.name;
              const auto found =
                  firmware::settings_found(map, dump_of(words), changed, channel.name);
              const auto at =
                  std::ranges::find(found.settings, where, &firmware::FoundSetting::field);
              ASSERT_NE(at, found.settings.end());
              EXPECT_EQ(at->found, value) << where;
              EXPECT_FALSE(at->differs) << where << " " << value;
              ++tried;
            }
          }
        }
      }
    }
  }
  EXPECT_GT(tried, 4000);
}

// Every combination of all settings at once that two of the maps can express; the third has words
// of counts alone, whose combinations are too many, and whose fields are tried one by one above.
TEST(Registers, NoCombinationDisturbsASetting) {
  for (std::size_t which = 0; which < 2; ++which) {
    const auto board = io::load_board({example(maps_of_boards[which].first)});
    const auto map = io::load_register_maps(map_path(maps_of_boards[which].second), board).front();
    const auto& name = board.channels.front().name;
    std::vector<std::pair<std::string, std::vector<std::string>>> choices;
    for (const auto& of : map.registers) {
      for (const auto& field : of.fields) {
        if (!field.value) choices.emplace_back(field.of, values_of(field));
      }
    }
    std::size_t combinations = 1;
    for (const auto& [key, values] : choices) combinations *= values.size();
    EXPECT_GT(combinations, 100U);
    // A step that has no divisor in common with a number of choices meets every pair of values.
    EXPECT_NE(combinations % 7, 0U);
    for (std::size_t number = 0; number < combinations; number += 7 * fewer * fewer) {
      auto changed = board;
      auto left = number;  // in mixed radix
      for (const auto& [key, values] : choices) {
        ASSERT_TRUE(set(changed, changed.channels.front(), key, values[left % values.size()]))
            << key;
        left /= values.size();
      }
      const auto words = firmware::words_of(map, changed, name);
      ASSERT_TRUE(words.problems.empty()) << words.problems.front();
      const auto found = firmware::settings_found(map, dump_of(words), changed, name);
      ASSERT_TRUE(std::ranges::none_of(found.settings, &firmware::FoundSetting::differs)) << number;
    }
  }
}

// Every single bit that is wrong in a dump is laid to the field that has it.
TEST(Registers, AWrongBitNamesItsSetting) {
  for (const auto& [board_name, map_name] : maps_of_boards) {
    const auto board = io::load_board({example(board_name)});
    const auto map = io::load_register_maps(map_path(map_name), board).front();
    const auto channel =
        std::ranges::find(board.channels, map.converter, &model::Channel::converter)->name;
    const auto right = firmware::words_of(map, board, channel);
    for (const auto& of : right.registers) {
      for (int bit = 0; bit < of.words * map.word_bits; ++bit) {
        auto wrong = right;
        auto& other = *std::ranges::find(wrong.registers, of.name, &firmware::RegisterWord::name);
        other.value ^= std::uint64_t{1} << bit;
        const auto found = firmware::settings_found(map, dump_of(wrong), board, channel);
        std::vector<std::string> differing;
        for (const auto& setting : found.settings) {
          if (setting.differs) differing.push_back(setting.field);
        }
        const auto field = std::ranges::find_if(
            of.fields, [&](const auto& f) { return f.low <= bit && bit <= f.high; });
        const auto name =
            field != of.fields.end() ? of.name + "." + field->name : of.name + ": reserved bits";
        // What the board does not say, no dump can contradict.
        if (differing.empty()) {
          ASSERT_NE(field, of.fields.end());
          EXPECT_EQ(field->from, "not in the board") << name;
          continue;
        }
        EXPECT_EQ(differing, std::vector{name}) << bit;
      }
    }
  }
}

TEST(Registers, FormulasAreOneStraightLineOverAnother) {
  struct Case {
    const char* text;
    std::int64_t times, plus, per, over;
  };
  for (const auto& [text, times, plus, per, over] :
       {Case{"(cycles - 2) / 2", 1, -2, 0, 2}, Case{"x", 1, 0, 0, 1},
        Case{"3 * (x + 1) - 2", 3, 1, 0, 1}, Case{"-x + 16", -1, 16, 0, 1},
        Case{"(2*x)/4 + 1/2", 1, 1, 0, 2}, Case{"7 - (x - 1)", -1, 8, 0, 1},
        Case{"16384 / rate", 0, 16384, 1, 0}, Case{"16000000 / 1024 / rate - 1", -1, 15625, 1, 0},
        Case{"(x + 1) / (2 - x)", -1, -1, 1, -2}, Case{"1 / (1 / x)", 1, 0, 0, 1}}) {
    const auto made = firmware::parse_formula(text);
    EXPECT_EQ(std::tuple(made.times, made.plus, made.per, made.over),
              std::tuple(times, plus, per, over))
        << text;
    for (const double setting : {3.0, 125.0, 4000.0})
      EXPECT_NEAR(made.back(made.of(setting)), setting, 1e-9 * setting) << text;
  }
  for (const auto* text :
       {"", "x x", "x * x", "1 / x / x", "1 / x + x", "x / x", "x + y", "(x", "x)", "2 +", "x / 0",
        "3", "x - x", "1 / (x - x)", "99999999999 * x", "x ^ 2"}) {
    EXPECT_THROW(firmware::parse_formula(text), ArgumentError) << text;
  }
}

// What the map cannot express is said, with what it can.
TEST(Registers, WhatAMapCannotExpressIsSaid) {
  const Folder folder;
  const std::pair<const char*, const char*> cases[] = {
      {"converter.shared.clock.divider=12",
       "timing.clock: converter.clock.divider = 12: the field can have 1, 2, 4, 8, 16, 32"},
      {"channel.winding.sampling=\"5 cycles\"",
       "settle.cycles: channel.sampling = 5: the field can have 4 or 6"},
      {"channel.winding.sampling=\"400 cycles\"",
       "settle.cycles: channel.sampling = 400: 199 needs more than the 6 bits of the field"},
      {"channel.winding.input=17", "17 needs more than the 4 bits of the field"},
  };
  for (const auto& [setting, says] : cases) {
    const auto overlay = folder.write("overlay.toml", replaced(setting, "=", " = ") + "\n");
    const auto result = tamlo({"registers", example("eight_channels.toml"), overlay,
                               map_path("controller.toml"), "--channel", "winding"});
    EXPECT_EQ(result.status, 1) << result.errors;
    EXPECT_NE(result.output.find(says), std::string::npos) << result.output;
  }
}

TEST(Registers, MalformedMapsAreRefusedWithTheirPlace) {
  const Folder folder;
  const auto whole = read(map_path("controller.toml"));
  struct Case {
    const char *from, *to, *says;
  };
  const Case cases[] = {
      {"bits = \"5..2\"", "bits = \"6..2\"", "bits that \"input\" has already"},
      {"bits = \"5..2\"", "bits = \"2..5\"", "bits from high to low"},
      {"bits = \"7\"", "bits = \"9\"", "of a register of 8 bits"},
      {"value = 1 }", "value = 2 }", "2 in 1 bits"},
      {"left = 0", "left = 1", "1 for left and right"},
      {"channel.input", "channel.imput", "did you mean \"channel.input\"?"},
      {"(cycles - 2) / 2", "(cycles - 2", "a formula that ends too early"},
      {"(cycles - 2) / 2", "cycles * cycles", "a formula of the setting times itself"},
      {"[registers.shared]", "[registers.shred]", "no converter \"shred\" on the board"},
      {"\"0x20\"", "\"0x1F\"", "an address that \"control\" has already"},
      {"\"0x08\"", "\"0x108\"", "0x108 in 8 bits"},
      {"\"8 bit\"", "\"9 bit\"", "found \"9 bit\""},
      {"name = \"enable\",    bits", "name = \"input\",    bits", "\"input\" twice"},
      {"value = 1 }", "value = 1, of = \"channel.input\" }",
       "a field without a meaning, or with two"},
      {"format = 1", "format = 2", "the integer 2, expected 1"},
      {"reset   =", "resett   =", "resett"},
      {"reset   =", "others = \"as found\"\nreset   =",
       "a reset value of bits that stay as they are found"},
      {"address = \"0x22\"", "address = \"22h\"", "a whole number of 0 or more"},
  };
  for (const auto& [from, to, says] : cases) {
    ASSERT_NE(whole.find(from), std::string::npos) << from;
    const auto map = folder.write("map.toml", replaced(whole, from, to));
    const auto result = tamlo({"registers", example("eight_channels.toml"), map});
    EXPECT_EQ(result.status, 2) << to;
    EXPECT_NE(result.errors.find(says), std::string::npos) << to << "\n" << result.errors;
    EXPECT_NE(result.errors.find("map.toml:"), std::string::npos) << result.errors;
  }
  const auto dump = folder.write("dump.csv", "address,value\n0x1F,0xGG\n0x1F\n0x20,1\n0x20,2\n");
  const auto result = tamlo(
      {"registers", example("eight_channels.toml"), map_path("controller.toml"), "--found", dump});
  EXPECT_EQ(result.status, 2);
  for (const auto* says : {"dump.csv:2:6", "dump.csv:3:1", "address 0x20 twice"}) {
    EXPECT_NE(result.errors.find(says), std::string::npos) << result.errors;
  }
}

// Words that are no register's of the map are none of its device.
TEST(Registers, WordsThatTheMapDoesNotHaveAreTold) {
  const Folder folder;
  const auto found = [&](const char* text) {
    return tamlo({"registers", example("eight_channels.toml"), map_path("controller.toml"),
                  "--found", folder.write("dump.csv", text), "--channel", "winding"});
  };
  const auto wide = found("address,value\n0x1F,0x1CD\n0x20,0x0C\n");
  EXPECT_EQ(wide.status, 2);
  EXPECT_NE(wide.errors.find("dump.csv:2:6: found 0x1cd, expected a word of 8 bits"),
            std::string::npos)
      << wide.errors;
  const auto other = found("address,value\n0x99,0x01\n");
  EXPECT_EQ(other.status, 2);
  EXPECT_NE(other.errors.find("no address of the map: expected words of its registers"),
            std::string::npos)
      << other.errors;
  const auto more = found("address,value\n0x1F,0xCD\n0x20,0x0C\n0x22,0x00\n0x30,0x01\n");
  EXPECT_NE(more.output.find("not in the map, so not looked at: 0x30"), std::string::npos)
      << more.output;
}

// What a device was found to be set to goes into a board file, and its budget is that of the
// device.
TEST(Registers, AFoundBoardIsABoard) {
  const Folder folder;
  const auto overlay = folder.path("found.toml");
  const std::vector<std::string> arguments{
      "registers", example("eight_channels.toml"),  map_path("controller.toml"),
      "--found",   map_path("controller_dump.csv"), "--write-board",
      overlay};
  const auto result = tamlo(arguments);
  EXPECT_EQ(result.status, 1) << result.errors;
  EXPECT_NE(result.output.find("DIFFERS: 1 of 6"), std::string::npos) << result.output;
  const auto board = io::load_board({example("eight_channels.toml"), overlay});
  EXPECT_EQ(board.converters.front().clock->divider, 16);

  // A gain lies inside a part of the front end.
  const auto scale = io::load_board({example("weighing.toml")});
  const auto map = io::load_register_maps(map_path("delta_sigma.toml"), scale).front();
  auto words = firmware::words_of(map, scale, "load");
  words.registers.front().value ^= std::uint64_t{1} << 12;  // x128 to x64
  const auto found = firmware::settings_found(map, dump_of(words), scale, "load");
  const auto gain = folder.write("gain.toml", io::overlay_of(found, scale));
  const auto changed = io::load_board({example("weighing.toml"), gain});
  EXPECT_EQ(std::get<model::Amplifier>(changed.channels.front().frontend.front()).use, "x64");
}

TEST(Registers, TheHeaderIsC) {
  const Folder folder;
  for (const auto& [board, map] : maps_of_boards) {
    const auto header = folder.path("words.h");
    const auto result = tamlo({"registers", example(board), map_path(map), "--write", header});
    ASSERT_EQ(result.status, 0) << result.errors;
    const auto source =
        folder.write("words.c", "#include \"words.h\"\nint main(void) { return 0; }\n");
    const auto compiled =
        run("/usr/bin/gcc", {"-std=c99", "-pedantic", "-Wall", "-Wextra", "-Wconversion", "-Werror",
                             "-Wno-unused-const-variable", "-fsyntax-only", source});
    EXPECT_EQ(compiled.status, 0) << compiled.errors;
  }
}

// A program of C that compiles without a warning, and ends with 0.
void expect_success(const Folder& folder, const std::string& source) {
  const auto program = folder.path("program");
  const auto compiled = run("/usr/bin/gcc", {"-std=c99", "-Wall", "-Wextra", "-Wconversion",
                                             "-Werror", source, "-o", program});
  ASSERT_EQ(compiled.status, 0) << compiled.errors;
  EXPECT_EQ(run(program, {}).status, 0);
}

// A device that clears a bit once it has acted, and one whose second word does not hold a bit: what
// the function of the header finds, and what a dump of either is.
TEST(Registers, WhatIsWrittenIsReadBack) {
  const Folder folder;
  const auto map = folder.write(
      "map.toml", replaced(read(map_path("controller.toml")), "bits = \"0\",    value = 1 }",
                           "bits = \"0\", value = 1, clears_itself = true }"));
  const auto board = example("eight_channels.toml"), header = folder.path("words.h");
  const auto written = tamlo({"registers", board, map, "--channel", "winding", "--write", header});
  ASSERT_EQ(written.status, 0) << written.errors;
  const auto source = folder.write("bus.c", R"(
#include "words.h"
static uint8_t held[256];
static uint8_t lost = 0;
static bool put(uint8_t address, uint8_t value) {
  held[address] = (uint8_t)(address == 0x1f ? value & 0xfe : value & ~lost);
  return true;
}
static bool get(uint8_t address, uint8_t *value) { *value = held[address]; return true; }
static bool broken(uint8_t address, uint8_t value) { (void)address; (void)value; return false; }
int main(void) {
  const unsigned int count = (unsigned int)(sizeof winding_setup / sizeof winding_setup[0]);
  const unsigned int sound = shared_set_up(winding_setup, count, put, get);
  lost = 2;
  const unsigned int bad = shared_set_up(winding_setup, count, put, get);
  return sound == count && bad == 1u && shared_set_up(winding_setup, count, broken, get) == 0u ? 0 : 1;
}
)");
  expect_success(folder, source);
  // The bit that has acted reads 0 in a dump, and that is no difference.
  const auto loaded = io::load_board({board});
  const auto maps_of = io::load_register_maps(map, loaded);
  auto dump = dump_of(firmware::words_of(maps_of.front(), loaded, "winding"));
  dump.at(0x1f) &= ~std::uint64_t{1};
  for (const auto& each :
       firmware::settings_found(maps_of.front(), dump, loaded, "winding").settings)
    EXPECT_FALSE(each.differs) << each.field;
}

// A register that takes two keys before its word, and is off before it is set.
TEST(Registers, WordsThatComeFirstAreWrittenInTheirOrder) {
  const Folder folder;
  const auto map = [&](const std::string& first) {
    return folder.write("map.toml", R"(
format = 1
[registers.shared]
word = "8 bit"
[registers.shared.lock]
address = 7
first   = )" + first + R"(
fields = [ { name = "input", bits = "5..2", of = "channel.input" } ]
)");
  };
  const auto board = example("eight_channels.toml"), header = folder.path("words.h");
  const auto written = tamlo({"registers", board, map(R"(["0x55", "0xAA", "0"])"), "--channel",
                              "winding", "--write", header});
  ASSERT_EQ(written.status, 0) << written.errors << written.output;
  const auto source = folder.write("bus.c", R"(
#include "words.h"
static unsigned int written;
static uint8_t words[4];
static bool put(uint8_t address, uint8_t value) { words[written++] = value; return address == 7u; }
static bool get(uint8_t address, uint8_t *value) { *value = words[3]; return address == 7u; }
int main(void) {
  const bool done = shared_set_up(winding_setup, 4u, put, get) == 4u && written == 4u;
  const uint8_t own = winding_setup[3].value;
  return done && words[0] == 0x55u && words[1] == 0xaau && words[2] == 0u && words[3] == own ? 0 : 1;
}
)");
  expect_success(folder, source);
  const auto wide = tamlo({"registers", board, map(R"(["0x155"])"), "--channel", "winding"});
  EXPECT_EQ(wide.status, 2);
  EXPECT_NE(wide.errors.find("words of 8 bits"), std::string::npos) << wide.errors;
}

// A register that holds bits of others too, and a divider that is a number over the rate.
TEST(Registers, BitsOfOthersStayAsTheyAreFound) {
  const Folder folder;
  const auto map = folder.write("map.toml", R"(
format = 1
[registers.shared]
word = "16 bit"
[registers.shared.timer]
address = 7
others  = "as found"
fields = [ { name = "period", bits = "11..4", of = "channel.rate", formula = "24000 / rate - 1" } ]
)");
  const auto board = example("eight_channels.toml");
  const auto overlay = folder.write("rate.toml", "channel.winding.rate = \"480 Sa/s\"\n");
  const auto header = folder.path("words.h");
  const auto written =
      tamlo({"registers", board, overlay, map, "--channel", "winding", "--write", header});
  ASSERT_EQ(written.status, 0) << written.errors << written.output;
  EXPECT_NE(written.output.find("0x0310   ---- 0011 0001 ----"), std::string::npos)
      << written.output;
  const auto source = folder.write("bus.c", R"(
#include "words.h"
static uint16_t held = 0xaffa;
static bool put(uint8_t address, uint16_t value) { held = value; return address == 7u; }
static bool get(uint8_t address, uint16_t *value) { *value = held; return address == 7u; }
static bool broken(uint8_t address, uint16_t *value) { (void)address; (void)value; return false; }
int main(void) {
  const bool sound = shared_set_up(winding_setup, 1u, put, get) == 1u && held == 0xa31au;
  return sound && shared_set_up(winding_setup, 1u, put, broken) == 0u && held == 0xa31au ? 0 : 1;
}
)");
  expect_success(folder, source);
  // Read back, the bits of others are no difference, and a wrong period has its rate.
  const auto found = [&](const char* word) {
    return tamlo({"registers", board, overlay, map, "--channel", "winding", "--found",
                  folder.write("dump.csv", fmt::format("address,value\n7,{}\n", word))});
  };
  EXPECT_EQ(found("0xa31a").status, 0) << found("0xa31a").output;
  const auto wrong = found("0xa2fa");
  EXPECT_EQ(wrong.status, 1);
  EXPECT_NE(wrong.output.find("500"), std::string::npos) << wrong.output;
  // A rate that no divider makes is refused with those beside it.
  const auto odd =
      tamlo({"registers", board, folder.write("odd.toml", "channel.winding.rate = \"490 Sa/s\"\n"),
             map, "--channel", "winding"});
  EXPECT_EQ(odd.status, 1);
  EXPECT_NE(odd.output.find("the field can have 500 or 489.796"), std::string::npos) << odd.output;
}

}  // namespace
}  // namespace tamlo::testing
