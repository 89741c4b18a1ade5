// SPDX-License-Identifier: Apache-2.0
// Each command on the demo board: what it says first, and its exit status.
#include <gtest/gtest.h>

#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

struct Case {
  std::vector<std::string> arguments;
  int status;
  std::vector<std::string> says;
};

void expect(const std::vector<Case>& cases) {
  for (const auto& [arguments, status, says] : cases) {
    const auto result = tamlo(arguments);
    SCOPED_TRACE(arguments.front() + " " + arguments.back());
    EXPECT_EQ(result.status, status) << result.errors;
    EXPECT_EQ(result.errors, "");
    for (const auto& text : says) {
      EXPECT_NE(result.output.find(text), std::string::npos) << text << " in\n" << result.output;
    }
    EXPECT_EQ(result.output.find('\033'), std::string::npos);  // no colour into a file
    EXPECT_EQ(result.output.find("nan"), std::string::npos);
  }
}

const std::string board = demo("board.toml");
const std::string readings = demo("readings.csv");

TEST(Commands, SayTheVerdictFirst) {
  expect({
      {{"check", board}, 0, {"SOUND: nothing found in 3 channels"}},
      {{"channel", board, "pack_voltage"},
       0,
       {"610.3515625 uV", "96 %, 3932 codes", "first transition   0.5 LSB", "default",
        "full scale: volts = code * 2.5 V / 4096", "±0.5 % of span"}},
      {{"budget", board, "pack_voltage"},
       0,
       {"pack_voltage: TARGET MET", "divider top tolerance dominates", "two-point"}},
      {{"budget", board, "coolant_flow"},
       1,
       {"coolant_flow: TARGET MISSED", "remedy: a two-point adjustment meets the target"}},
      {{"budget", board, "auxiliary_supply", "--at", "12 V", "--at", "500 mV"},
       0,
       {"12.00 ", "0.50 "}},
      {{"compare", board, readings, "--channel", "auxiliary_supply"},
       0,
       {"auxiliary_supply: PASS: all 8 readings", "the readings AGREE with the budget"}},
      {{"compare", board, readings},
       1,
       {"pack_voltage: FAIL: 6 of 10 readings outside the target",
        "the readings DO NOT AGREE with the budget", "MORE THAN EXPECTED"}},
  });
}

TEST(Commands, ConvertShowsEveryStepBothWays) {
  expect({
      {{"convert", board, "pack_voltage", "--at", "48 V"},
       0,
       {"48 V reads 48.00415 V as code 3146", "after divider", "1.92   V"}},
      {{"convert", board, "pack_voltage", "--pin", "1.25 V"}, 0, {"as code 2048"}},
      {{"convert", board, "pack_voltage", "--pin", "2.5 V"}, 0, {"code 4095", "CLIPPED"}},
      {{"convert", board, "pack_voltage", "--code", "2048"},
       0,
       {"code 2048 reads 31.25 V; it stands for from 31.242371 V up to 31.257629 V"}},
      {{"convert", board, "pack_voltage", "--code", "0x800", "--code", "0b100000000000"},
       0,
       {"code 2048 reads 31.25 V"}},
      {{"convert", board, "coolant_flow"}, 0, {"0 l/min reads", "12 l/min reads"}},
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
      {{"channel", path}, 0, {"one code is 610.3515625 uV", "CLIPPED: 2.5 V is beyond"}},
      {{"convert", path, "bare", "--at", "1.25 V"}, 0, {"1.25 V reads 1.25 V as code 2048"}},
      {{"convert", path, "bare", "--at", "2.5 V"}, 0, {"as code 4095", "CLIPPED: beyond"}},
      {{"check", path}, 1, {"UNSOUND: 1 error", "span-beyond-range", "remedy"}},
      {{"budget", path}, 0, {"the channel has no target", "CLIPPED at 2.500 V"}},
  });
}

// A target in % of reading allows nothing at zero; that is said in the unit, not as a percentage of
// 0.
TEST(Commands, ATargetThatAllowsNothing) {
  const Folder folder;
  const auto strict = folder.write(
      "strict.toml", "[channel.pack_voltage]\ntarget = { accuracy = \"±1 % of reading\" }\n");
  expect({{{"budget", board, strict, "pack_voltage"},
           1,
           {"TARGET MISSED by 0.0443 V: ±0.0443 V at 0.00 V of ±0 V allowed"}},
          {{"budget", board, strict, "pack_voltage", "--at", "30 V"},
           0,
           {"TARGET MET, 75 % to spare"}}});
}

TEST(Commands, SignedCodesAndCelsius) {
  const std::string boards = std::string(TAMLO_SOURCE) + "/examples/boards/";
  expect({
      {{"convert", boards + "crank_torque.toml", "crank_torque", "--code", "-100000"},
       0,
       {"code -100000 reads -5.9604645 N m"}},
      {{"convert", boards + "temperatures.toml", "winding", "--at", "-20 degC"},
       0,
       {"-20 degC reads -19.99", "after sensor in divider"}},
      {{"channel", boards + "coolant_pressure.toml"},
       0,
       {"sensor, shunt, pin; 150 ohm at the pin", "third: 0.333 ±0.3 %, serves 0..3.2 V"}},
  });
}

TEST(Commands, OverridesAreWhatIf) {
  const Folder folder;
  const auto better = folder.write(
      "better.toml",
      "[channel.coolant_flow]\n"
      "frontend = [ { divider = { top = \"10 kohm ±0.1 %\", bottom = \"10 kohm ±0.1 %\" } } ]\n");
  expect({{{"budget", board, "coolant_flow"}, 1, {"TARGET MISSED"}},
          {{"budget", board, better, "coolant_flow"}, 0, {"TARGET MET"}}});
}

TEST(Commands, FormatsForSpreadsheetsAndPages) {
  expect({
      {{"budget", board, "pack_voltage", "--format", "csv"},
       0,
       {"# pack_voltage: how wrong a reading can be, ± in V\nat [V],bias [V]", "\n60,"}},
      {{"compare", board, readings, "--channel", "auxiliary_supply", "--format", "markdown"},
       0,
       {"| meter | reading |", "| ---: |", "| pass |"}},
      {{"check", board, "--format", "csv"}, 0, {}},
  });
}

TEST(Commands, HelpAndVersion) {
  expect(
      {{{"--version"}, 0, {"tamlo 0.1.0"}},
       {{"--help"}, 0, {"demo", "check", "channel", "convert", "budget", "compare", "Exit status"}},
       {{"budget", "--help"}, 0, {"--at", "--coverage"}}});
}

TEST(Commands, UnusedColumnsAreMentionedAside) {
  const Folder folder;
  const auto path =
      folder.write("r.csv", "channel,who,meter [V],reading [V]\nauxiliary_supply,me,5,5.001\n");
  const auto result = tamlo({"compare", board, path});
  EXPECT_EQ(result.status, 0);
  EXPECT_EQ(result.errors, path + ": column \"who\" is not used\n");
  EXPECT_NE(result.output.find("gain   not to be told: all readings are at one position"),
            std::string::npos);
}

TEST(Commands, AFullDiskIsNotSilent) {
  const auto result =
      run("/bin/sh", {"-c", std::string(TAMLO_TOOL) + " budget " + board + " >/dev/full"});
  EXPECT_EQ(result.status, 3);
  EXPECT_NE(result.errors.find("standard output cannot be written"), std::string::npos);
}

}  // namespace
}  // namespace tamlo::testing
