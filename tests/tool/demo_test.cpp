// SPDX-License-Identifier: Apache-2.0
#include <gtest/gtest.h>

#include <algorithm>
#include <tuple>

#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

// The shipped readings and records are what demo/make_data makes, to the byte.
TEST(Demo, DataComesFromTheTool) {
  const Folder folder;
  const auto result = run("/bin/bash", {demo("make_data"), TAMLO_TOOL, folder.path("")});
  EXPECT_EQ(result.status, 0) << result.errors;
  for (const char* file :
       {"first_unit.csv", "readings.csv", "readings_later.csv", "readings_units.csv", "steady.raw",
        "sine.wav", "step.csv", "lines.txt", "firmware_log.csv", "meter_log.csv"}) {
    EXPECT_EQ(read(folder.path(file)), read(demo(file))) << file;
  }
}

// One screenful that names the command of each step, and each of those commands runs as written.
TEST(Demo, TellsTheStoryAndNamesEveryCommand) {
  const auto result = tamlo({"demo"});
  EXPECT_EQ(result.status, 0) << result.errors;
  EXPECT_EQ(result.errors, "");
  EXPECT_LE(std::ranges::count(result.output, '\n'), 67);
  for (const char* text : {"auxiliary_supply: PASS", "pack_voltage: FAIL",
                           "coolant_flow: TARGET MISSED", "DO NOT AGREE", "MORE THAN EXPECTED",
                           "it looks like: swapped reference: the converter runs on \"internal\"",
                           "a meter at the converter's pin would"}) {
    EXPECT_NE(result.output.find(text), std::string::npos) << text;
  }
  const Folder folder;
  int commands = 0;
  for (std::size_t at = result.output.find("$ tamlo "); at != std::string::npos;
       at = result.output.find("$ tamlo ", at + 1)) {
    auto line = result.output.substr(at + 8, result.output.find('\n', at) - at - 8);
    if (line.find("my-board.toml") != std::string::npos) continue;
    for (const std::string made : {"differences.svg", "measured.toml"}) {
      const auto at_name = line.find(made);
      if (at_name != std::string::npos) line.replace(at_name, made.size(), folder.path(made));
    }
    const auto step = run("/bin/sh", {"-c", std::string(TAMLO_TOOL) + " " + line});
    EXPECT_EQ(step.status, status_said(step.output)) << line << "\n" << step.errors;
    EXPECT_EQ(step.errors, "") << line;
    ++commands;
  }
  EXPECT_GE(commands, 5);
}

// The named fault and its cure: with the reference that the first unit really runs on, the same
// readings agree, and no part of either channel is suspected.
TEST(Demo, ThePlantedFaultIsNamedAndTheCureAgrees) {
  const auto readings = demo("first_unit.csv");
  const auto faulty = tamlo({"compare", demo_board, readings});
  EXPECT_EQ(faulty.status, 1);
  const auto cured = tamlo({"compare", demo_board, demo("first_unit.toml"), readings});
  EXPECT_EQ(cured.status, 0) << cured.errors;
  for (const auto& [output, text, times] :
       {std::tuple{&faulty.output, "it looks like: swapped reference", 2},
        std::tuple{&faulty.output, "the readings DO NOT AGREE", 2},
        std::tuple{&cured.output, "it looks like", 0},
        std::tuple{&cured.output, "the readings AGREE", 2},
        std::tuple{&cured.output, "no fault indicated", 2}}) {
    int found = 0;
    for (auto at = output->find(text); at != std::string::npos; at = output->find(text, at + 1)) {
      ++found;
    }
    EXPECT_EQ(found, times) << text << " in\n" << *output;
  }
}

TEST(Demo, TheExampleInCodeRuns) {
  const auto result = run(std::string(TAMLO_EXAMPLES) + "/tamlo_example_budget_in_code", {});
  EXPECT_EQ(result.status, 0);
  // Standard uncertainties in mV: supply 30 / sqrt 3 = 17.3; offset and INL 2 * 3.22 / sqrt 3
  // = 3.72 each; gain 465/1024 of that, 1.69; quantisation 0.93. Root sum of squares 18.2,
  // without quantisation 18.18, of which the supply has 0.907: times 1.738 (of a uniform law and a
  // normal one, by a sum of its own), and half a step, 1.61.
  EXPECT_EQ(result.output.substr(0, result.output.find('\n')),
            "at 1.5 V: ±33.2 mV, of which supply voltage tolerance makes 91 %");
  EXPECT_NE(result.output.find("target missed"), std::string::npos);
}

// Standard uncertainties at 3 V in mV: a supply of 0.5 % 8.66, of 0.1 % 1.73; offset and INL 3.72
// each, gain 3.38, quantisation 0.93: 10.7 and 6.55 together, of the 30 mV that are allowed.
TEST(Demo, TheDesignInCodeRuns) {
  const auto result = run(std::string(TAMLO_EXAMPLES) + "/tamlo_example_design_in_code", {});
  EXPECT_EQ(result.status, 0) << result.errors;
  EXPECT_EQ(result.output.find("shunt reference, average of 1: price 0.30, uses 72 % "), 0U)
      << result.output;
  EXPECT_NE(result.output.find("\nprecise reference, average of 1: price 1.10, uses 44 % "),
            std::string::npos);
  EXPECT_NE(result.output.find("; at most 0.50 mV off\n"), std::string::npos);
}

// A supply that is 4 % low, twice its limit: of the rows up to 30 mV / 0.04 = 0.75 V one passes.
TEST(Demo, TheBenchInCodeRuns) {
  const auto result = run(std::string(TAMLO_EXAMPLES) + "/tamlo_example_bench_in_code", {});
  EXPECT_EQ(result.status, 0) << result.errors;
  EXPECT_EQ(result.output.find("1 of 5 rows pass; gain +4.00 %\n"
                               "first suspect: supply voltage tolerance\n"),
            0U)
      << result.output;
  EXPECT_NE(result.output.find("after a gain"), std::string::npos);
}

TEST(Demo, TheEngineAloneRuns) {
  const auto result = run(std::string(TAMLO_EXAMPLES) + "/tamlo_example_propagate_in_code", {});
  EXPECT_EQ(result.status, 0);
  // 48.2 * 12.1 * cos 0.21 = 570.42 W. Contributions: 11.83 * 0.05, 47.14 * 0.2 / sqrt 3 and
  // -48.2 * 12.1 * sin 0.21 * 0.02; 36.19 + 2 * -0.4 * 0.59 * -2.43 = 37.0, root 6.09.
  // Voltage and phase, of one series: 37.0 - 5.44^2 = 7.42 of it; 9 / (7.42 / 37.0)^2 = 225.
  EXPECT_EQ(result.output.substr(0, result.output.find('\n')),
            "closed form: 570.4 W, ±12.0 W (k = 1.97, 225 degrees of freedom)");
  EXPECT_NE(result.output.find("voltage  +0.59 W"), std::string::npos);
  EXPECT_NE(result.output.find("phase    -2.43 W"), std::string::npos);
}

TEST(Demo, TheRecordInCodeRuns) {
  const auto result = run(std::string(TAMLO_EXAMPLES) + "/tamlo_example_record_in_code", {});
  EXPECT_EQ(result.status, 0);
  EXPECT_EQ(result.output.find("819200 codes, 19"), 0U);
  // White noise of sqrt(2.5^2 + 1/12) over sqrt(m), and sqrt(m / 3) of the steps of the drift, are
  // least together at m = sqrt(3) 2.52 / 0.002 = 2180, where they make 0.054 sqrt 2 = 0.076; 400
  // averages tell that to 4 %.
  const std::string says = "\naverage 2048 of them, for ";
  const auto at = result.output.find(says);
  ASSERT_NE(at, std::string::npos) << result.output;
  EXPECT_NEAR(std::stod(result.output.substr(at + says.size())), 0.076, 3 * 0.04 * 0.076);
}

}  // namespace
}  // namespace tamlo::testing
