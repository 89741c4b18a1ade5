// SPDX-License-Identifier: Apache-2.0
// Each command on the demo board: what it says first, and its exit status.
#include <gtest/gtest.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>
#include <sstream>

#include "tool/expect.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

TEST(Commands, SayTheVerdictFirst) {
  expect({
      {{"check", demo_board}, 0, {"SOUND: nothing found in 3 channels"}},
      {{"channel", demo_board, "pack_voltage"},
       0,
       {"610.4 uV", "3932 codes", "0.5 LSB", "default", "full scale: volts = code * 2.5 V / 4096",
        "±0.5 % of span"}},
      {{"budget", demo_board, "pack_voltage"},
       0,
       {"pack_voltage: TARGET MET", "divider top tolerance dominates", "two-point"}},
      {{"budget", demo_board, "coolant_flow"},
       1,
       {"coolant_flow: TARGET MISSED", "remedy: a two-point adjustment meets the target"}},
      {{"budget", demo_board, "auxiliary_supply", "--at", "12 V", "--at", "500 mV"},
       0,
       {"12.00 ", "0.50 "}},
      {{"compare", demo_board, demo_readings, "--channel", "auxiliary_supply"},
       0,
       {"auxiliary_supply: PASS: all 8 readings", "the readings AGREE with the budget"}},
      {{"compare", demo_board, demo_readings},
       1,
       {"pack_voltage: FAIL: 6 of 10 readings outside the target",
        "the readings DO NOT AGREE with the budget", "MORE THAN EXPECTED"}},
  });
}

TEST(Commands, ConvertShowsEveryStepBothWays) {
  expect({
      {{"convert", demo_board, "pack_voltage", "--at", "48 V"},
       0,
       {"48 V reads 48.00415 V as code 3146", "after divider", "1.92   V"}},
      {{"convert", demo_board, "pack_voltage", "--pin", "1.25 V"}, 0, {"as code 2048"}},
      {{"convert", demo_board, "pack_voltage", "--pin", "2.5 V"}, 0, {"code 4095", "CLIPPED"}},
      {{"convert", demo_board, "pack_voltage", "--code", "2048"},
       0,
       {"code 2048 reads 31.25 V; it represents 31.242371 V to 31.257629 V"}},
      {{"convert", demo_board, "pack_voltage", "--code", "0x800", "--code", "0b100000000000"},
       0,
       {"code 2048 reads 31.25 V"}},
      {{"convert", demo_board, "coolant_flow"}, 0, {"0 l/min reads", "12 l/min reads"}},
  });
}

// "1.25 V is code 2048; 2.5 V clips to 4095 and says so", on a channel without a front end.
TEST(Commands, TwelveBitsOnTwoAndAHalfVolts) {
  const Folder folder;
  const auto path = folder.write("bare.toml",
                                 "format = 1\n[reference.r]\nvoltage = \"2.5 V\"\n"
                                 "[converter.c]\nresolution = \"12 bit\"\nreference = \"r\"\n"
                                 "[channel.bare]\nspan = \"0..2.5 V\"\nconverter = \"c\"\n");
  expect({
      {{"channel", path}, 0, {"one code is 610.4 uV", "CLIPPED: 2.5 V is beyond"}},
      {{"convert", path, "bare", "--at", "1.25 V"}, 0, {"1.25 V reads 1.25 V as code 2048"}},
      {{"convert", path, "bare", "--at", "2.5 V"}, 0, {"as code 4095", "CLIPPED: beyond"}},
      {{"check", path}, 0, {"USABLE: 0 errors", "ends-at-full-scale", "remedy"}},
      {{"budget", path}, 0, {"the channel has no target", "CLIPPED at 2.500 V"}},
  });
}

// A target in % of reading allows nothing at zero; that is said in the unit, not as a percentage of
// 0.
TEST(Commands, ATargetThatAllowsNothing) {
  const Folder folder;
  const auto strict = folder.write(
      "strict.toml", "[channel.pack_voltage]\ntarget = { accuracy = \"±1 % of reading\" }\n");
  expect(
      {{{"budget", demo_board, strict, "pack_voltage"},
        1,
        // 4000 virtual units, conversion by conversion: 0.0351 V on average, 95 % within 0.0229 V.
        {"TARGET MISSED by 0.0578 V: ±0.0578 V at 0.00 V of ±0 V allowed"}},
       {{"budget", demo_board, strict, "pack_voltage", "--at", "30 V"},
        0,
        {"TARGET MET, 74 % to spare"}}});
}

TEST(Commands, SignedCodesAndCelsius) {
  expect({
      {{"convert", example("crank_torque.toml"), "crank_torque", "--code", "-100000"},
       0,
       {"code -100000 reads -5.9604645 N m"}},
      {{"convert", example("temperatures.toml"), "winding", "--at", "-20 degC"},
       0,
       {"-20 degC reads -19.99", "after sensor in divider"}},
      {{"channel", example("coolant_pressure.toml")},
       0,
       {"sensor, shunt, pin; 150 ohm at the pin", "third: 0.333 ±0.3 %, serves 0..3.2 V"}},
  });
}

// What each kind of system says of itself: one line that its user would look for.
TEST(Commands, EveryKindOfSystemShowsItsTraps) {
  expect({
      {{"channel", example("eight_channels.toml"), "winding"},
       0,
       {"200 us, up to 5 kSa/s each", "2 MHz, divider 8",
        "6.48 codes of a full step remain after 1 us"}},
      {{"check", example("eight_channels.toml"), "winding"},
       0,
       {"sampling-too-short", "sample for 1.4 us, 3 cycles"}},
      {{"budget", example("eight_channels.toml"), "winding"}, 0, {"rest of rail_3"}},
      {{"channel", example("process_inputs.toml"), "tank_level"},
       0,
       {"average of 20", "moving average of 10", "first valid reading   number 10",
        "10 mains periods: rejects the mains"}},
      {{"channel", example("weighing.toml"), "load"},
       0,
       {"10 Sa/s behind a sinc filter of order 4", "tared at 0 N; shown with 2 decimals"}},
      {{"check", example("weighing.toml")}, 0, {"sensor-not-ratiometric", "latency-above-target"}},
      {{"channel", example("registers.toml"), "divided", "--ramp", "10 mV/s"},
       0,
       {"divided by 16; 0 to 511, of which 512 values occur: 16 codes to a step",
        "a step of 0.0977 V every 9.766 s"}},
      {{"channel", example("registers.toml"), "module_live"},
       0,
       {"4000 to 20000 counts over the span", "failure, at or above                21.0   21000"}},
      {{"channel", example("coolant_pressure.toml")},
       0,
       {"levels of the loop (NAMUR NE 43)", "10.85 V left for the wires at 21 mA"}},
      {{"channel", example("lamp_light.toml")},
       0,
       {"3.99 kohm would move it by 2.578 V", "daylight: threshold", "threshold: true within ±",
        "of hysteresis would do"}},
      {{"channel", example("old_multiplexer.toml"), "lamp"},
       0,
       {"lamp, horn: 200 us, up to 5 kSa/s each"}},
      {{"budget", example("grip.toml")}, 1, {"TARGET MISSED", "sensor accuracy tolerance"}},
      {{"convert", example("integer_firmware.toml"), "--at", "12 V"},
       0,
       {"after multiply      49152000", "after shift_right      12000"}},
      {{"convert", example("registers.toml"), "widened", "--at", "24 V", "--code", "0xffff"},
       0,
       {"reported                   31463", "code 65535 reads 50 V"}},
  });
}

TEST(Commands, ConvertReadsColumnsFromStandardInput) {
  const Folder folder;
  const auto piped = [&](const std::string& input, const std::string& options) {
    const auto path = folder.write("column.txt", input);
    return run("/bin/sh", {"-c", std::string(TAMLO_TOOL) + " convert " + demo_board +
                                     " pack_voltage " + options + " < " + path});
  };
  auto result = piped("pack [V]\n# a comment\n12\n48\n", "--at - --step code --format csv");
  EXPECT_EQ(result.output, "pack voltage [V],code\n12,787\n48,3146\n") << result.errors;
  result = piped("12 V\n48000 mV\n70 V\n", "--at -");
  EXPECT_NE(result.output.find("48                1.92 "), std::string::npos) << result.output;
  EXPECT_NE(result.output.find("CLIPPED: 1 of 3 values"), std::string::npos);
  result = piped("0x800\n2048\n0o4000\n0b100000000000\n", "--code - --step reading --format csv");
  EXPECT_EQ(result.output, "code,reading [V]\n2048,31.25\n2048,31.25\n2048,31.25\n2048,31.25\n");
  result = piped("12\n48 A\n", "--at -");
  EXPECT_EQ(result.status, 2);
  EXPECT_EQ(result.output, "");
  EXPECT_NE(result.errors.find("standard input:1:3: no unit"), std::string::npos) << result.errors;
  EXPECT_NE(result.errors.find("standard input:2:4: found \"A\""), std::string::npos)
      << result.errors;
  result = piped("12 V\n", "--at - --step volts");
  EXPECT_EQ(result.status, 2);
  EXPECT_NE(result.errors.find("volts by the firmware"), std::string::npos) << result.errors;
}

TEST(Commands, OverridesAreWhatIf) {
  const Folder folder;
  const auto better = folder.write(
      "better.toml",
      "[channel.coolant_flow]\n"
      "frontend = [ { divider = { top = \"10 kohm ±0.1 %\", bottom = \"10 kohm ±0.1 %\" } } ]\n");
  expect({{{"budget", demo_board, "coolant_flow"}, 1, {"TARGET MISSED"}},
          {{"budget", demo_board, better, "coolant_flow"}, 0, {"TARGET MET"}}});
}

TEST(Commands, BudgetsAdviseAndShowWhatAChangeDoes) {
  const Folder folder;
  const auto better = folder.write("better.toml",
                                   "[channel.coolant_flow]\nsensor = { linear = { at_low = \"0.5 V "
                                   "±10 mV\", at_high = \"4.5 V ±0.1 %\" } }\n");
  expect({
      {{"budget", demo_board, "coolant_flow"},
       1,
       {"limits that would meet the target, each alone", "31.7                    0.56",
        "a two-point adjustment           0.025        11.62   met"}},
      {{"budget", demo_board, "coolant_flow", "--trials", "20000"},
       1,
       {"by trials of the whole chain (JCGM 101)", "20000", "agrees, "}},
      // A power law bends: the error is lopsided, and the closed form cannot see that.
      {{"budget", example("lamp_light.toml"), "--at", "5 lx", "--trials", "200000"},
       0,
       {"DIFFERS: trust the trials"}},
      {{"budget", demo_board, "pack_voltage", "--at", "12 V", "--over", "temperature", "--over",
        "age"},
       0,
       {"worst place of the span: ±0.134 V at 60.00 V", "over temperature", "over age",
        "bits at 12.00 V"}},
      {{"budget", demo_board, "coolant_flow", "--set", "converter.main.inl=±9 LSB"},
       1,
       {"changed:", "0.0159"}},
      {{"budget", demo_board, "coolant_flow", "--what-if", better},
       0,
       {"TARGET MISSED", "changed:", "TARGET MET", "goes from ±0.136 l/min"}},
  });
}

TEST(Commands, FormatsForSpreadsheetsAndPages) {
  expect({
      {{"budget", demo_board, "pack_voltage", "--format", "csv"},
       0,
       {"# pack_voltage: points\nat [V],reading [V],bias [V]", "\n60,", "expanded_in_codes [LSB]"}},
      {{"compare", demo_board, demo_readings, "--channel", "auxiliary_supply", "--format",
        "markdown"},
       0,
       {"auxiliary_supply: PASS", "| meter [V] | reading [V] |", "| ---: |", "| pass |",
        "| summary.gain.value | -0.000736641 |"}},
      {{"check", demo_board, "--format", "csv"},
       0,
       {"errors,warnings,advice,checked,checked_quantities\n0,0,0,3,0\n",
        "identifier,severity,channel,key,file,line,column,end_column,found,why,remedy"}},
      {{"check", example("small_inputs.toml"), "--format", "csv"}, 1, {"\nspan-beyond"}},
      {{"convert", demo_board, "pack_voltage", "--at", "48 V", "--step", "after divider",
        "--format", "json"},
       0,
       {"\"stage\": \"after divider\""}},
  });
}

TEST(Commands, TablesGoToFilesBesideAnyForm) {
  const Folder folder;
  const auto tables = folder.path("a/b");
  const auto in = [&](const char* name) { return read(tables + "/" + name); };
  expect({
      {{"budget", demo_board, "--tables", tables}, 1, {"TARGET MET"}},
      {{"compare", demo_board, demo_readings, "--format", "junit", "--tables", tables},
       1,
       {"<testsuite"}},
  });
  expect_refused(tamlo({"convert", demo_board, "pack_voltage", "--step", "code", "--tables", "x"}),
                 "command line: convert", "--format csv");
  const auto no_folder = tamlo({"budget", demo_board, "--tables", demo_board});
  EXPECT_EQ(no_folder.status, 3);
  EXPECT_EQ(no_folder.errors, demo_board + ": Not a directory\n");
  const auto points = in("pack_voltage_points.csv");
  EXPECT_TRUE(points.starts_with("at [V],reading [V],bias [V]")) << points;
  const auto whole = tamlo({"budget", demo_board, "--format", "csv"}).output;
  EXPECT_NE(whole.find("# pack_voltage: points\n" + points), whole.npos);
  EXPECT_TRUE(in("coolant_flow_contributions.csv").starts_with("at [l/min],source,stage,"));
  EXPECT_TRUE(in("pack_voltage_rows.csv").starts_with("meter [V],reading [V],"));
}

TEST(Commands, HelpAndVersion) {
  expect(
      {{{"--version"}, 0, {"tamlo 0.3.0\n", "loops compiled for ", "; in use: "}},
       {{"--help"}, 0, {"demo", "check", "channel", "convert", "budget", "compare", "Exit status"}},
       {{"budget", "--help"}, 0, {"--at VALUE", "--coverage P", "(default: 0.95)", "Examples"}}});
}

// Every help shows each option once, within 105 columns, and two examples that run.
TEST(Commands, HelpsAreWholeAndTheirExamplesRun) {
  for (const char* command : {"check", "channel", "convert", "budget", "compare", "calibrate",
                              "record", "simulate", "serve", "prove", "demo"}) {
    SCOPED_TRACE(command);
    const auto help = tamlo({command, "--help"});
    EXPECT_EQ(help.status, 0);
    std::istringstream lines(help.output);
    std::string line;
    std::set<std::string> options;
    int examples = 0;
    bool in_examples = false;
    while (std::getline(lines, line)) {
      EXPECT_LE(line.size(), 105U) << line;
      EXPECT_EQ(line.find("TEXT"), std::string::npos) << line;
      if (line.starts_with("  --")) {
        const auto name = line.substr(2, line.find(' ', 2) - 2);
        EXPECT_TRUE(options.insert(name).second) << name;
      }
      in_examples = line == "Examples" || (in_examples && line.starts_with("  tamlo "));
      if (!in_examples || line == "Examples") continue;
      ++examples;
      const auto shell = run("/bin/bash", {"-c", "cd " TAMLO_SOURCE " && " TAMLO_TOOL " " +
                                                     line.substr(std::string("  tamlo ").size())});
      EXPECT_EQ(shell.status, std::string_view(command) == "compare" ? 1 : 0) << line << "\n"
                                                                              << shell.errors;
      EXPECT_NE(shell.output, "") << line;
    }
    EXPECT_EQ(examples, 2);
  }
}

// A budget's coverage by counting: of the demo it holds, with the files of a worse board it does
// not.
TEST(Simulate, ProvesTheCoverageOfABudget) {
  const auto held = tamlo({"prove", demo_board, "pack_voltage", "--coverage", "0.9", "--unit",
                           "1..600", "--at", "48 V", "--format", "csv"});
  EXPECT_EQ(held.status, 0) << held.errors;
  EXPECT_NE(held.output.find("within"), std::string::npos) << held.output;
  const Folder folder;
  // The firmware believes in another reference than the board has.
  const auto firmware =
      folder.write("firmware.toml", "[reference.precision]\nvoltage = \"2.6 V\"\n");
  const auto wrong =
      tamlo({"prove", demo_board, "pack_voltage", "--unit", "1..300", "--firmware", firmware});
  EXPECT_EQ(wrong.status, 1) << wrong.errors;
  EXPECT_NE(wrong.output.find("does not hold, counted over 300 virtual units"), std::string::npos)
      << wrong.output;
  struct Case {
    std::vector<std::string> more;
    const char* says;
  };
  for (const auto& [more, says] :
       {Case{{"--coverage", "1.5"}, "a probability from 0.5"}, Case{{"--at", "100 V"}, "span"},
        Case{{"--unit", "5..1"}, "--unit"}}) {
    std::vector<std::string> words{"prove", demo_board, "pack_voltage"};
    words.insert(words.end(), more.begin(), more.end());
    const auto result = tamlo(words);
    EXPECT_EQ(result.status, 2) << says;
    EXPECT_NE(result.errors.find(says), std::string::npos) << result.errors;
  }
}

// A board of every kind is whole, sound, and asks its questions; what stands there is not lost.
TEST(Start, WritesABoardOfEveryKind) {
  const auto list = tamlo({"start"});
  ASSERT_EQ(list.status, 0) << list.errors;
  int kinds = 0;
  for (const auto& file : std::filesystem::directory_iterator(TAMLO_SOURCE "/share/start")) {
    const auto kind = file.path().stem().string();
    ++kinds;
    EXPECT_NE(list.output.find("\n  " + kind + " "), std::string::npos) << kind;
    const Folder folder;
    const auto board = folder.path("board.toml");
    ASSERT_EQ(tamlo({"start", kind, "--write", board}).status, 0) << kind;
    EXPECT_EQ(tamlo({"start", kind}).output, read(board));
    EXPECT_GT(std::ranges::count(read(board), '?'), 5) << kind;
    EXPECT_EQ(tamlo({"check", board}).status, 0) << kind;
    EXPECT_EQ(tamlo({"budget", board}).status, 0) << kind;
    EXPECT_EQ(tamlo({"start", kind, "--write", board}).status, 2);
  }
  EXPECT_EQ(kinds, 12);
  EXPECT_NE(tamlo({"start", "termistor"}).errors.find("did you mean \"thermistor\"?"),
            std::string::npos);
}

// A board beside what it was: the figures of each alone, and channels that came or went.
TEST(Commands, ABudgetIsHeldAgainstAnEarlierBoard) {
  const Folder folder;
  const auto text = read(demo_board);
  const auto earlier = folder.write(
      "earlier.toml", replaced(text, "[channel.auxiliary_supply]", "[channel.supply]"));
  const auto overlay = folder.write("more.toml", "channel.coolant_flow.average = 2\n");
  const auto channels_of = [](const std::vector<std::string>& words) {
    return nlohmann::json::parse(tamlo(words).output)["channels"];
  };
  const auto both = channels_of(
      {"budget", demo_board, "--against", earlier, "--against", overlay, "--format", "json"});
  const auto before = channels_of({"budget", earlier, overlay, "--format", "json"});
  const auto now = channels_of({"budget", demo_board, "--format", "json"});
  std::size_t compared = 0;
  for (const auto& each : both) {
    for (const auto& alone : each["changed"] ? now : before) {
      if (alone["channel"] != each["channel"]) continue;
      EXPECT_EQ(alone["points"], each["points"]) << each["channel"];
      ++compared;
    }
  }
  EXPECT_EQ(compared, 5U);  // two in both, one that came
  const auto printed = tamlo({"budget", demo_board, "--against", earlier});
  EXPECT_EQ(printed.status, 1);  // coolant_flow misses its target
  EXPECT_NE(printed.output.find("supply: is not there any more"), std::string::npos)
      << printed.output;
}

}  // namespace
}  // namespace tamlo::testing
