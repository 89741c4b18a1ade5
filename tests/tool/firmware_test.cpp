// SPDX-License-Identifier: Apache-2.0
// tamlo firmware as its user runs it, and what its code does beyond a reading: texts, zones,
// filters that settle.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <sstream>

#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/firmware/plan.hpp"
#include "tamlo/io/board_file.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

namespace fs = std::filesystem;

// Runs a main beside the code of one channel, and gives what it prints.
std::string ran(const Folder& folder, const std::string& name, const std::string& body,
                const std::vector<std::string>& more = {}) {
  const auto source = folder.write(
      "main.c", fmt::format("#include <stdio.h>\n#include <string.h>\n#include \"{}.h\"\n"
                            "int main(void) {{\n{}  return 0;\n}}\n",
                            name, body));
  const auto program = folder.path("main");
  std::vector<std::string> words{"-std=c99",
                                 "-Wall",
                                 "-Wextra",
                                 "-Wconversion",
                                 "-Werror",
                                 "-fsanitize=address,undefined",
                                 "-fno-sanitize-recover",
                                 source,
                                 folder.path(name + ".c"),
                                 "-o",
                                 program};
  words.insert(words.end(), more.begin(), more.end());
  const auto built = run("/usr/bin/gcc", words);
  EXPECT_EQ(built.status, 0) << built.errors;
  const auto result = run(program, {});
  EXPECT_EQ(result.status, 0) << result.errors;
  return result.output;
}

void make(const Folder& folder, const std::vector<std::string>& arguments) {
  std::vector<std::string> words{"firmware"};
  words.insert(words.end(), arguments.begin(), arguments.end());
  words.insert(words.end(), {"--write", folder.path("")});
  const auto result = tamlo(words);
  ASSERT_LE(result.status, 1) << result.errors;
}

// Every reading that can come up, and some that cannot: the text is that of printf, and no byte
// beyond its size is touched.
TEST(Firmware, ATextIsThatOfPrintf) {
  struct Case {
    std::string board, channel, count;
    int decimals;
  };
  const Case cases[] = {{demo_board, "pack_voltage", "10 mV", 2},
                        {demo_board, "coolant_flow", "0.005 l/min", 3},
                        {example("bipolar.toml"), "vibration", "1 mV", 3},
                        {example("temperatures.toml"), "winding", "0.1 K", 1},
                        {example("eight_channels.toml"), "rail_12", "5 V", 0}};
  for (const auto& [board, channel, count, decimals] : cases) {
    const Folder folder;
    make(folder, {board, "--channel", channel, "--count", count, "--text", "--arithmetic-error",
                  count == "5 V" ? "3 V" : "0.5 of target"});
    const auto chain = chain::build(io::load_board({board}), channel);
    firmware::PlanRequest request{.count = std::stod(count), .of_target = 0.5};
    if (count == "5 V") request.error = 3.0;
    if (count.ends_with("mV")) *request.count *= 1e-3;
    if (count.ends_with("l/min")) *request.count *= chain.channel.span.unit.scale();
    const auto plan = firmware::plan(chain, request);
    const double factor =
        std::round(*request.count / chain.channel.span.unit.scale() * std::pow(10.0, decimals));
    const auto size = fmt::format("{}_TEXT_SIZE", [&channel = channel] {
      auto upper = channel;
      for (auto& c : upper) c = static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
      return upper;
    }());
    const auto said = ran(
        folder, channel,
        fmt::format("  char text[{0} + 2], wanted[64];\n"
                    "  for (long r = {1}; r <= {2}; ++r) {{\n"
                    "    memset(text, 'x', sizeof text);\n"
                    "    {3}_text(text, (int32_t)r);\n"
                    "    snprintf(wanted, sizeof wanted, \"%*.{4}f {5}\", (int)({0} - 2 - {6}), "
                    "(double)r * {7:.0f} / {8:.0f});\n"
                    "    if (strcmp(text, wanted) != 0 || text[{0}] != 'x') "
                    "printf(\"%ld: '%s' '%s'\\n\", r, text, wanted);\n"
                    "  }}\n"
                    "  {3}_text(text, INT32_MIN);\n  {3}_text(text, INT32_MAX);\n",
                    size, plan.lowest, plan.highest, channel, decimals,
                    chain.channel.span.unit.symbol == "%" ? "%%" : chain.channel.span.unit.symbol,
                    chain.channel.span.unit.symbol.size(), factor, std::pow(10.0, decimals)));
    EXPECT_EQ(said, "") << channel;
  }
}

// The check program runs every register value, says the worst, and fails where the bound does not
// hold.
TEST(Firmware, TheCheckProgramChecks) {
  const Folder folder;
  make(folder, {demo_board, "--channel", "pack_voltage", "--check-program"});
  const auto check = [&](const char* code) {
    const auto built =
        run("/usr/bin/gcc", {"-std=c99", "-Wall", "-Wextra", "-Werror", "-o", folder.path("check"),
                             folder.path("pack_voltage_check.c"), folder.path(code)});
    EXPECT_EQ(built.status, 0) << built.errors;
    return run(folder.path("check"), {});
  };
  const auto sound = check("pack_voltage.c");
  EXPECT_EQ(sound.status, 0) << sound.output;
  EXPECT_NE(sound.output.find("pack_voltage: worst error"), std::string::npos) << sound.output;
  folder.write("wrong.c", replaced(read(folder.path("pack_voltage.c")), "625u", "624u"));
  EXPECT_EQ(check("wrong.c").status, 1);
}

// In floating point it is the same reading: the float that is nearest to the decimal number.
TEST(Firmware, AValueIsTheNearestFloat) {
  const Folder folder;
  make(folder, {demo_board, "--channel", "pack_voltage", "--style", "float"});
  EXPECT_EQ(ran(folder, "pack_voltage",
                "  for (long r = 0; r <= 6248; ++r)\n"
                "    if (pack_voltage_value((int32_t)r) != (float)((double)r / 100.0))\n"
                "      printf(\"%ld \", r);\n"),
            "");
  make(folder, {demo_board, "--channel", "pack_voltage"});
  EXPECT_EQ(read(folder.path("pack_voltage.c")).find("float"), std::string::npos);
}

// The zone of every reading from every zone before: that of a loop over the edges of the board.
TEST(Firmware, AZoneIsEnteredAndLeftAtItsEdges) {
  const Folder folder;
  make(folder, {example("eight_channels.toml"), "--channel", "throttle", "--count", "0.01 %"});
  const auto board = io::load_board({example("eight_channels.toml")});
  const auto& zones = *model::find(board.channels, "throttle")->zones;
  std::istringstream said(
      ran(folder, "throttle",
          "  for (int before = 0; before < 4; ++before)\n"
          "    for (long r = -50; r <= 10050; ++r)\n"
          "      printf(\"%d\\n\", throttle_zone((uint8_t)before, (int32_t)r));\n"));
  for (std::size_t before = 0; before < 4; ++before) {
    for (long r = -50; r <= 10050; ++r) {
      const double x = static_cast<double>(r) * 1e-4;
      auto zone = before;
      while (zone < zones.edges.size() && x >= zones.edges[zone] - 1e-9) ++zone;
      while (zone > 0 && x < zones.edges[zone - 1] - zones.hysteresis - 1e-9) --zone;
      std::size_t of_code = 9;
      said >> of_code;
      ASSERT_EQ(of_code, zone) << before << " " << r;
    }
  }
}

// Zones that a few readings in a row must say: those of a loop over the same readings.
TEST(Firmware, AZoneIsTakenOnceReadingsInARowSayIt) {
  const Folder folder;
  const auto overlay = folder.write("debounce.toml", "channel.throttle.zones.debounce = 3\n");
  make(folder,
       {example("eight_channels.toml"), overlay, "--channel", "throttle", "--count", "0.01 %"});
  std::istringstream said(ran(
      folder, "throttle",
      "  struct throttle_switch state = {0, 0, 0};\n  unsigned long seed = 1;\n"
      "  int zone = 0, last = -1, row = 0;\n  for (long i = 0; i < 200000; ++i) {\n"
      "    seed = (seed * 1103515245ul + 12345ul) % 2147483648ul;\n"
      "    const int32_t r = (int32_t)(i / 20 % 10000 + (long)(seed / 65536ul % 400ul));\n"
      "    const int now = throttle_zone((uint8_t)zone, r);\n"
      "    row = now == zone ? 0 : now == last ? row + 1 : 1;\n    last = now;\n"
      "    if (row >= 3) { zone = now; row = 0; }\n"
      "    if (throttle_debounced(&state, r) != zone) { printf(\"%ld differs\", i); return 1; }\n"
      "  }\n  printf(\"same %d\", zone);\n"));
  std::string word;
  said >> word;
  EXPECT_EQ(word, "same");
  const auto channel = tamlo({"channel", example("eight_channels.toml"), overlay, "throttle"});
  EXPECT_NE(channel.output.find("it switches once 3 readings in a row say so"), std::string::npos)
      << channel.output;
}

// The codes of an edge, by every register value: the first that reads in the zone, the last that
// reads below the hysteresis.
TEST(Firmware, EdgesAreTheFirstCodesThatReadSo) {
  for (const auto* name : {"throttle", "brake"}) {
    const auto chain = chain::build(io::load_board({example("eight_channels.toml")}), name);
    const auto& zones = *chain.channel.zones;
    const auto edges = chain::zone_edges(chain);
    ASSERT_EQ(edges.size(), zones.edges.size());
    for (std::size_t i = 0; i < edges.size(); ++i) {
      std::int64_t on = 0, off = 0;
      while (chain::reading(chain, static_cast<double>(on)) < zones.edges[i] - 1e-9) ++on;
      while (chain::reading(chain, static_cast<double>(off)) <
             zones.edges[i] - zones.hysteresis - 1e-9) {
        ++off;
      }
      EXPECT_EQ(edges[i].on_code, static_cast<double>(on)) << name << i;
      EXPECT_EQ(edges[i].off_code, static_cast<double>(off - 1)) << name << i;
      // One in two conversions is at least that code half a code below it.
      EXPECT_NEAR(chain::code(chain, edges[i].on, chain.nominal), edges[i].on_code - 0.5,
                  chain.firmware.digital.stages.empty() ? 1e-6 : 0.51);
    }
  }
}

// An edge that no register value reaches is never entered, and one that all have reached is never
// left; both are said, and no code is made up.
TEST(Firmware, AnEdgeBeyondTheCodesIsSaid) {
  const Folder folder;
  const auto zones = folder.write(
      "zones.toml",
      "[channel.throttle]\nspan = \"-0.5..3.3 V\"\nrate = \"100 Sa/s\"\n"
      "zones = { edges = [\"-0.2 V\", \"1 V\", \"2.5 V\"], hysteresis = \"0.1 V\" }\n");
  const std::vector<std::string> asked{"channel", example("small_inputs.toml"), zones};
  auto words = asked;
  words.insert(words.end(), {"--format", "json"});
  const auto result = tamlo(words);
  ASSERT_EQ(result.status, 0) << result.errors;
  const auto edges = nlohmann::json::parse(result.output)["channels"][0]["zone_edges"];
  EXPECT_EQ(edges[0]["on_code"], 0);
  EXPECT_TRUE(edges[0]["off_code"].is_null() && edges[0]["off"].is_null());
  EXPECT_TRUE(edges[0]["on"].is_null());
  EXPECT_EQ(edges[1]["on_code"], 569);
  EXPECT_EQ(edges[1]["off_code"], 511);
  EXPECT_TRUE(edges[2]["on_code"].is_null() && edges[2]["on"].is_null());
  EXPECT_TRUE(edges[2]["false_changes"].is_null());
  EXPECT_NE(tamlo(asked).output.find("never"), std::string::npos);
}

// A hysteresis lies below the edge, above it, as of an alarm that comes at it downward, or about
// it: in the code, and in the figures, which are those of an edge that is moved by as much.
TEST(Firmware, AHysteresisLiesOnTheSideThatIsAsked) {
  struct Case {
    const char* side;
    int up, down;  // counts of 1 mV
  };
  for (const auto& [side, up, down] :
       {Case{"below", 1000, 800}, {"about", 1100, 900}, {"above", 1200, 1000}}) {
    const Folder folder;
    const auto with = [&](const std::string& edge, const char* where) {
      return folder.write(std::string(where) + ".toml",
                          fmt::format("[channel.throttle]\nrate = \"100 Sa/s\"\nzones = {{ edges = "
                                      "[\"{}\"], hysteresis = \"0.2 V\", side = \"{}\" }}\n",
                                      edge, where));
    };
    const auto zones = with("1 V", side);
    make(folder, {example("small_inputs.toml"), zones, "--channel", "throttle", "--count", "1 mV"});
    const auto printed = ran(folder, "throttle",
                             "  int up = 0, down = 3000;\n"
                             "  while (throttle_zone(0, up) == 0) up++;\n"
                             "  while (throttle_zone(1, down) == 1) down--;\n"
                             "  printf(\"%d %d\", up, down + 1);\n");
    EXPECT_EQ(printed, fmt::format("{} {}", up, down)) << side;
    const auto edges_of = [&](const std::string& overlay) {
      const auto result =
          tamlo({"channel", example("small_inputs.toml"), overlay, "throttle", "--format", "json"});
      EXPECT_EQ(result.status, 0) << result.errors;
      return nlohmann::json::parse(result.output)["channels"][0]["zone_edges"];
    };
    const auto shown = edges_of(zones);
    EXPECT_EQ(shown, edges_of(with(fmt::format("{} mV", up), "below"))) << side;
    EXPECT_NEAR(shown[0]["on"].get<double>() - shown[0]["off"].get<double>(), 0.2, 0.003);
  }
}

// A target of the reading allows nothing at zero, where the middle of a span may be.
TEST(Firmware, ATargetOfTheReadingAboutZero) {
  const Folder folder;
  const auto target =
      folder.write("t.toml", "[channel.vibration]\ntarget = { accuracy = \"±1 %\" }\n");
  const auto result = tamlo({"firmware", example("bipolar.toml"), target, "vibration"});
  EXPECT_LE(result.status, 1) << result.errors;
  EXPECT_NE(result.output.find("is allowed"), std::string::npos) << result.errors;
}

// From below and from above, every recursive filter comes to a quarter of a register value of a
// steady one, and stays.
TEST(Firmware, FiltersSettleFromBothSides) {
  struct Case {
    std::string board, channel;
    long readings;
  };
  const Case cases[] = {{demo_board, "coolant_flow", 400},
                        {example("eight_channels.toml"), "throttle", 3000},
                        {example("process_inputs.toml"), "coolant_pressure", 4000},
                        {example("eight_channels.toml"), "vibration", 500},
                        {example("process_inputs.toml"), "gear_oil", 4000}};
  for (const auto& [board, channel, readings] : cases) {
    const Folder folder;
    // So many counts that a quarter of a register value is seen.
    const auto chain = chain::build(io::load_board({board}), channel);
    const double width = chain::code_width_at(chain, chain.channel.span.middle());
    const auto count = fmt::format(
        "{:.3g} {}", width / 100.0 / quantity::difference_unit(chain.channel.span.unit).scale(),
        quantity::difference_unit(chain.channel.span.unit).symbol);
    make(folder, {board, "--channel", channel, "--count", count, "--arithmetic-error", count});
    const long middle = static_cast<long>(chain.report.last_reported / 2);
    const auto said = ran(
        folder, channel,
        fmt::format("  static struct {0}_filter filter;\n  int32_t r = 0;\n"
                    "  const long from[2] = {{0, {1}}};\n"
                    "  for (int side = 0; side < 2; ++side) {{\n"
                    "    {0}_start(&filter);\n    long due = 0, far = 0;\n"
                    "    while (due < 3) due += {0}_add(&filter, (uint16_t)from[side], &r);\n"
                    "    for (due = 0; due < {2};) {{\n"
                    "      if (!{0}_add(&filter, (uint16_t){3}, &r)) continue;\n"
                    "      const double off = (double)(r - {0}_reading({3})) / 100.0;\n"
                    "      if (++due > {2} / 2 && (off > 0.25 || off < -0.25)) ++far;\n"
                    "    }}\n"
                    "    if (far > 0) printf(\"%s: %ld\\n\", side ? \"above\" : \"below\", far);\n"
                    "  }}\n",
                    channel, chain.report.last_reported, readings, middle));
    EXPECT_EQ(said, "") << channel;
  }
}

TEST(Firmware, SaysWhatItChoseInEveryForm) {
  const auto result = tamlo({"firmware", demo_board, "--format", "json"});
  EXPECT_EQ(result.status, 1) << result.errors;  // the flow misses its target, with any firmware
  const auto json = nlohmann::json::parse(result.output);
  for (const auto& of : json["channels"]) {
    EXPECT_LE(of["bound"], of["allowed"]);
    EXPECT_EQ(of["form"], "straight");
    EXPECT_EQ(of["target_met"], of["channel"] != "coolant_flow");
  }
}

// The overlay is a board file: the commands see the firmware as it is written.
TEST(Firmware, TheOverlayIsTheFirmware) {
  const Folder folder;
  make(folder, {demo_board, "--channel", "pack_voltage"});
  const auto overlay = folder.path("pack_voltage.toml");
  const auto converted =
      tamlo({"convert", demo_board, overlay, "pack_voltage", "--code", "1966", "--format", "json"});
  ASSERT_EQ(converted.status, 0) << converted.errors;
  const double reading =
      nlohmann::json::parse(converted.output)["channels"][0]["back"][0]["reading"];
  EXPECT_EQ(ran(folder, "pack_voltage", "  printf(\"%ld\", (long)pack_voltage_reading(1966));\n"),
            fmt::format("{:.0f}", reading / 0.01));
  for (const auto* command : {"check", "budget", "channel"}) {
    const auto result = tamlo({command, demo_board, overlay});
    EXPECT_LE(result.status, 1) << command << result.errors;
    EXPECT_EQ(result.errors, "") << command;
  }
  // A calibration's correction is in the numbers, and is not added twice.
  const auto measured = folder.path("measured.toml");
  ASSERT_EQ(tamlo({"calibrate", demo_board, demo_readings, "--channel", "pack_voltage", "--write",
                   measured})
                .status,
            0);
  make(folder, {demo_board, measured, "--channel", "pack_voltage"});
  const auto both = chain::build(io::load_board({demo_board, measured, overlay}), "pack_voltage");
  const auto plain = chain::build(io::load_board({demo_board, measured}), "pack_voltage");
  for (const double code : {100.0, 2000.0, 3900.0}) {
    EXPECT_NEAR(chain::reading(both, code), chain::reading(plain, code), 0.03) << code;
    EXPECT_GT(std::abs(chain::reading(plain, code) - chain::exact_reading(plain, code)), 0.0);
  }
}

TEST(Firmware, RefusesWhatCannotBe) {
  const Folder folder;
  const auto foreign = folder.write("pack_voltage.c", "int mine;\n");
  struct Case {
    std::vector<std::string> arguments;
    int status;
    const char* says;
  };
  const Case cases[] = {
      {{"--arithmetic-error", "0.1 mV", "--count", "1 mV"}, 2, "is 0.5"},
      {{"--arithmetic-error", "2 of target"}, 2, "up to \"1 of target\""},
      {{"--arithmetic-error", "-1 V"}, 2, "a value above 0"},
      {{"--count", "0 V"}, 2, "a value above 0"},
      {{"--count", "1 A"}, 2, "--count"},
      {{"--write", folder.path("")}, 2, "pack_voltage.c"},
      {{"--write", "/proc/nowhere"}, 3, "/proc/nowhere"},
      {{"--text", "--count", "0.0123456789 V", "--write", folder.path("texts")},
       2,
       "a power of ten of the unit"},
  };
  for (const auto& [arguments, status, says] : cases) {
    std::vector<std::string> words{"firmware", demo_board, "--channel", "pack_voltage"};
    words.insert(words.end(), arguments.begin(), arguments.end());
    const auto result = tamlo(words);
    EXPECT_EQ(result.status, status) << arguments.back() << result.errors << result.output;
    EXPECT_NE(result.errors.find(says), std::string::npos) << result.errors;
  }
  EXPECT_EQ(read(foreign), "int mine;\n");
  EXPECT_FALSE(fs::exists(folder.path("pack_voltage.h")));  // all or none
}

// Quantities of several channels, compiled: as near to the exact formula of the readings as is
// said, and not far nearer.
TEST(Firmware, QuantitiesKeepTheirBounds) {
  struct Case {
    const char* formula;
    const char* span;
    double (*exact)(double, double);  // of tap 4 in V and of a current in A
  };
  const Case cases[] = {
      {"tap_4 * pack_current", "0..40 W", [](double v, double a) { return v * a; }},
      {"-tap_4 + 2 * (tap_4 - 0.25 * tap_4)", "0..10 V", [](double v, double) { return 0.5 * v; }},
      {"tap_4 * pack_current / 3 + min(tap_4 * pack_current, tap_4 * max(pack_current, "
       "pack_current / 2)) * 2 ^ 3 / 7",
       "0..40 W", [](double v, double a) { return v * a * (1.0 / 3.0 + 8.0 / 7.0); }},
      {"sqrt(tap_4 * tap_4 + 2.5 * tap_4 ^ 2)", "0..30 V",
       [](double v, double) { return std::sqrt(3.5) * v; }},
      {"abs(tap_4 - 2 * tap_4)", "0..20 V", [](double v, double) { return v; }},
      // A divisor, a root that may come to nothing or below, and what has no code.
      {"tap_4 * pack_current / pack_current", "0..20 V", nullptr},
      {"sqrt(tap_4 * tap_4 - tap_4 * tap_4 / 2)", "0..20 V", nullptr},
      {"tap_4 > tap_3 ? tap_4 : 2 * tap_4", "0..20 V", nullptr}};
  for (const auto& [formula, span, exact] : cases) {
    const Folder folder;
    const auto overlay = folder.write(
        "q.toml", fmt::format("[quantity.q]\nis = \"{}\"\nspan = \"{}\"\n", formula, span));
    const auto made = tamlo({"firmware", example("cell_stack.toml"), overlay, "--channel", "q",
                             "--format", "json", "--write", folder.path("")});
    ASSERT_LE(made.status, 1) << formula << made.errors;
    const auto said = nlohmann::json::parse(made.output)["quantities"][0];
    if (exact == nullptr) {
      EXPECT_FALSE(said["without_code"].is_null()) << formula;
      EXPECT_FALSE(fs::exists(folder.path("q.c")));
      continue;
    }
    const bool with_current = std::string(formula).find("pack_current") != std::string::npos;
    const auto printed =
        ran(folder, "q",
            with_current
                ? "  for (int32_t v = 0; v <= 200000; v += 977)\n"
                  "    for (int32_t a = 0; a <= 200000; a += 1013)\n"
                  "      printf(\"%ld %ld %.9g\\n\", (long)v, (long)a, (double)q_value(v, a));\n"
                : "  for (int32_t v = 0; v <= 200000; v += 7)\n"
                  "    printf(\"%ld 0 %.9g\\n\", (long)v, (double)q_value(v));\n",
            {"-lm"});
    std::istringstream lines(printed);
    double v = 0.0, a = 0.0, value = 0.0, worst = 0.0;
    while (lines >> v >> a >> value)
      worst = std::max(worst, std::abs(value - exact(v / 1e4, a / 1e4)));
    const double bound = said["bound"].get<double>();
    EXPECT_LE(worst, bound) << formula;
    // The root of what comes to nothing has a bound by its worst place alone.
    if (std::string(formula).find("sqrt") == std::string::npos) {
      EXPECT_GT(worst, bound / 12.0) << formula;
    }
  }
}

// The tool writes them beside code that is the same for all units.
TEST(Firmware, WritesTheCalibrationOfAUnitAsData) {
  const Folder folder;
  const auto unit = folder.path("unit.toml");
  ASSERT_EQ(tamlo({"calibrate", demo_board, demo("readings.csv"), "--channel", "pack_voltage",
                   "--write", unit})
                .status,
            0);
  const auto write = [&](const std::string& into, std::vector<std::string> more) {
    std::vector<std::string> words{"firmware",     demo_board, "--channel",
                                   "pack_voltage", "--write",  folder.path(into)};
    words.insert(words.end(), more.begin(), more.end());
    return tamlo(words);
  };
  const auto result = write("a", {"--unit-data", unit, "--unit-day", "2026-11-30"});
  ASSERT_EQ(result.status, 0) << result.errors;
  EXPECT_NE(result.output.find("adds -1.7812 counts and -1.26 % of the reading"), std::string::npos)
      << result.output;
  ASSERT_EQ(write("b", {"--units"}).status, 0);
  for (const char* file : {"pack_voltage.c", "pack_voltage.h"}) {
    EXPECT_EQ(read(folder.path(std::string("a/") + file)),
              read(folder.path(std::string("b/") + file)));
  }
  EXPECT_EQ(read(folder.path("a/pack_voltage_unit.bin")).size(), 20u);
  EXPECT_NE(read(folder.path("a/pack_voltage_unit.h")).find("25, 78, 55, 42,"), std::string::npos);
  EXPECT_EQ(write("c", {"--unit-data", demo_board}).status, 2);
  const auto date = write("c", {"--unit-data", unit, "--unit-day", "2026-13-30"});
  EXPECT_EQ(date.status, 2);
  EXPECT_NE(date.errors.find("a date such as 2026-11-30"), std::string::npos) << date.errors;
}

}  // namespace
}  // namespace tamlo::testing
