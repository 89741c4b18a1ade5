// SPDX-License-Identifier: Apache-2.0
// Commands on readings beside a meter: what they say, and their exit status.
#include <gtest/gtest.h>

#include "tool/expect.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

TEST(BenchCommands, TheBenchSaysWhatIsWrongAndWhatACalibrationBuys) {
  const auto units = demo("readings_units.csv"), later = demo("readings_later.csv");
  expect({
      {{"compare", demo_board, demo_readings, "--channel", "pack_voltage"},
       1,
       {"these readings cannot tell which side is wrong", "the fault matches no known pattern",
        "divider top tolerance (-13.5 limits)", "cannot tell them apart",
        "what would decide 22.00 V"}},
      {{"compare", demo_board, demo_readings, "--channel", "auxiliary_supply"},
       0,
       {"no fault on either side", "no fault indicated", "accuracy ratio 3.9"}},
      {{"compare", demo_board, later, "--since", demo_readings, "--elapsed", "1 year", "--channel",
        "auxiliary_supply"},
       0,
       {"in 1 year it CHANGED BY MORE than the ageing", "the target is missed in 4.47 years"}},
      {{"compare", demo_board, units},
       0,
       {"of all units 100.0 % (12 of 12) would meet the target as built",
        "as the datasheet limits allow", "unit 22: auxiliary_supply: PASS"}},
      {{"calibrate", demo_board, demo_readings, "--channel", "pack_voltage"},
       0,
       {"weighted-line correction: ±0.0754 V remains at 60.00 V, ±0.134 V before",
        "polynomial of order 4", "3 of 10 rows passed before, 10 after"}},
      {{"calibrate", demo_board, demo_readings, "--channel", "auxiliary_supply", "--model",
        "two-point", "--held-out", later},
       0,
       {"two-point correction", "readings_later.csv: largest difference"}},
      {{"calibrate", demo_board, demo_readings, "--channel", "pack_voltage", "--model", "piecewise",
        "--format", "csv"},
       0,
       {"reading [V],corrected [V]", "weighted-line,", "piecewise,"}},
  });
}

// What calibrate writes, the other commands read: the same demo_readings are then right, and codes
// too.
TEST(BenchCommands, ACorrectionIsHandedOn) {
  const Folder folder;
  for (const std::string model : {"weighted-line", "polynomial", "piecewise"}) {
    const auto measured = folder.path(model + ".toml");
    EXPECT_EQ(tamlo({"calibrate", demo_board, demo_readings, "--channel", "pack_voltage", "--model",
                     model, "--write", measured})
                  .status,
              0);
    expect({
        {{"compare", demo_board, measured, demo_readings, "--channel", "pack_voltage"},
         0,
         {"pack_voltage: PASS: all 10 readings within the target", "AGREE with the budget"}},
        {{"budget", demo_board, measured, "pack_voltage"}, 0, {"TARGET MET", "calibration "}},
        {{"channel", demo_board, measured, "pack_voltage"}, 0, {"pack_voltage"}},
        {{"check", demo_board, measured}, 0, {}},
    });
    const auto refused =
        tamlo({"calibrate", demo_board, measured, demo_readings, "--channel", "pack_voltage"});
    EXPECT_EQ(refused.status, 2);
    EXPECT_NE(refused.errors.find("a correction already"), std::string::npos) << refused.errors;
  }
  // Of code 2048, which reads 31.25 V uncorrected, the line makes 0.98739 * 31.25 - 0.017.
  const auto back = tamlo(
      {"convert", demo_board, folder.path("weighted-line.toml"), "pack_voltage", "--code", "2048"});
  EXPECT_NE(back.output.find("code 2048 reads 30.8"), std::string::npos) << back.output;
  // Once the firmware adds it, demo_readings have it already.
  const auto programmed =
      folder.write("programmed.toml", replaced(read(folder.path("weighted-line.toml")),
                                               "in_firmware  = false", "in_firmware  = true"));
  EXPECT_EQ(
      tamlo({"compare", demo_board, programmed, demo_readings, "--channel", "pack_voltage"}).status,
      1);
}

// A meter at the pin, of a channel in another unit; what the file says of range, repeats and time.
TEST(BenchCommands, ReadingsOfEveryKind) {
  const Folder folder;
  const auto pin = folder.write("pin.toml",
                                "[meter.probe]\ntouches = \"pin\"\ninput_resistance = \"10 Mohm\"\n"
                                "ranges = [ { full_scale = \"3 V\", digits = 30000, accuracy = "
                                "\"±0.05 % ±2 digits\" } ]\n");
  const auto flow = folder.write("flow.csv",
                                 "channel, meter [V], reading [l/min]\ncoolant_flow, 1.25, 6.01\n"
                                 "coolant_flow, 2.0, 10.52\n");
  const auto rich = folder.write(
      "rich.csv",
      "channel, meter [V], reading [V], repeats, spread [V], direction, temperature [degC], time, "
      "meter_range\n"
      "pack_voltage, 10.00, 10.02, 10, 0.01, rising, 24, 2026-11-25T10:00, 60 V\n"
      "pack_voltage, 30.00, 30.05, 10, 0.02, rising, 24, 2026-11-25T10:20:30, 60 V\n"
      "pack_voltage, 40.00, 40.04, 10, 0.015, falling, 25, 2026-11-25 11:45, 60 V\n"
      "pack_voltage, 20.00, 20.02, 10, 0.01, falling, 25, 2026-11-26, 60 V\n");
  const auto raw = folder.write("raw.csv",
                                "channel, meter [V], code, time [h]\npack_voltage, 30.00, 1966, 1\n"
                                "pack_voltage, 30.01, 1968, 2\npack_voltage, 30.00, 1967, 3\n");
  expect({
      {{"compare", demo_board, pin, flow},
       0,
       {"row by row beside the meter probe", " 6.000", "10.500"}},
      {{"compare", demo_board, rich}, 0, {"rising less falling", "noise  ", "MORE THAN PREDICTED"}},
      {{"compare", demo_board, raw}, 0, {"all 1 readings", "noise  ", "by 2 repeats"}},
      {{"budget", demo_board, pin, "pack_voltage", "--at", "48 V", "--set",
        "channel.pack_voltage.loaded_by=probe"},
       0,
       {"pack_voltage: TARGET MET", "±0.161 V at 48.00 V"}},
  });
}

// The demo board without its meters: what the meter showed is then exact, in words, or as good as
// the command line says: 1.96 / sqrt(3) of 0.5 %, of two digits of 1 mV and of half a digit.
TEST(BenchCommands, AMeterThatTheBoardDoesNotDescribe) {
  const Folder folder;
  const auto whole = read(demo_board);
  const auto board = folder.write("board.toml", whole.substr(0, whole.find("[meter.")));
  const std::string aux = "auxiliary_supply", accuracy = "--meter-accuracy";
  expect({
      {{"compare", board, demo_readings, "--channel", aux, accuracy, "±0.5 % ±2 digits"},
       0,
       {"the meter of ±0.5 % ±2 digits [V]", "15.000    14.981       -0.019", "0.031     0.085"}},
      {{"calibrate", board, demo_readings, "--channel", "pack_voltage", accuracy, "±0.05 %"},
       0,
       {"pack_voltage: weighted-line correction"}},
  });
  const auto exact = tamlo({"compare", board, demo_readings, "--channel", aux});
  EXPECT_NE(exact.errors.find("assumed exact to the last digit"), std::string::npos);
  EXPECT_NE(exact.output.find("beside the meter taken as exact [V]"), std::string::npos);
  EXPECT_NE(exact.output.find(" 0.0006\n"), std::string::npos) << exact.output;
  for (const auto* text : {"±0.5 fish", "5 V", "±1 % of range"}) {
    const auto result = tamlo({"compare", board, demo_readings, accuracy, text});
    EXPECT_EQ(result.status, 2) << text;
    EXPECT_NE(result.errors.find("--meter-accuracy: found "), std::string::npos) << text;
  }
  EXPECT_EQ(tamlo({"compare", board, demo_readings, accuracy, "±1 %", "--meter", "bench"}).status,
            2);
}

TEST(BenchCommands, UnusedColumnsAreMentionedAside) {
  const Folder folder;
  const auto path =
      folder.write("r.csv", "channel,who,meter [V],reading [V]\nauxiliary_supply,me,5,5.001\n");
  const auto result = tamlo({"compare", demo_board, path});
  EXPECT_EQ(result.status, 0);
  EXPECT_EQ(result.errors, path + ": column \"who\" is not used\n");
  EXPECT_NE(result.output.find("gain   cannot be estimated: all readings are at one position"),
            std::string::npos);
}

// A quantity of several channels beside a meter of it has its own verdict; what is a channel's
// alone is refused in words.
TEST(Compare, QuantitiesOfSeveralChannels) {
  const Folder folder;
  const auto board = example("cell_stack.toml");
  const auto readings = folder.write("cells.csv",
                                     "channel,meter [V],meter [W],reading [V],reading [W]\n"
                                     "cell_2,2.700,,2.742,\ncell_2,3.300,,3.345,\n"
                                     "cell_2,4.100,,4.149,\npack_power,,100.0,,100.2\n");
  const std::vector<std::string> words{"compare", board, readings, "--meter-accuracy",
                                       "±0.1 % ±2 digits"};
  const auto result = tamlo(words);
  EXPECT_EQ(result.status, 1) << result.errors;
  EXPECT_NE(result.output.find("cell_2: FAIL: 3 of 3 readings outside the target"),
            std::string::npos)
      << result.output;
  EXPECT_NE(result.output.find("compare its channels one by one"), std::string::npos);
  EXPECT_NE(result.output.find("pack_power: PASS"), std::string::npos) << result.output;
  const auto refused = [&](std::vector<std::string> more, const char* says) {
    const auto other = tamlo(more);
    EXPECT_EQ(other.status, 2) << other.output;
    EXPECT_NE(other.errors.find(says), std::string::npos) << other.errors;
  };
  refused({"calibrate", board, readings, "--channel", "cell_2", "--meter-accuracy", "±0.1 %"},
          "a correction is a channel's");
  const auto codes = folder.write("codes.csv", "channel,meter [V],code\ncell_2,3.3,100\n");
  refused({"compare", board, codes, "--meter-accuracy", "±0.1 %"},
          "codes.csv:2:12: code: found 100, expected a reading");
  const auto beyond = folder.write("beyond.csv", "channel,meter [V],reading [V]\ncell_2,33,33\n");
  refused({"compare", board, beyond, "--meter-accuracy", "±0.1 %"}, "no readings of its channels");
}

// The same changes are judged by a quantity's own budget.
TEST(Budget, WhatIfOfAQuantity) {
  const auto result = tamlo({"budget", example("cell_stack.toml"), "--channel", "cell_2", "--set",
                             "channel.tap_2.frontend[0].divider.top=33 kohm ±0.5 % ±50 ppm/K"});
  EXPECT_EQ(result.status, 1);
  EXPECT_NE(result.output.find("cell_2: TARGET MET"), std::string::npos) << result.output;
  EXPECT_NE(result.output.find("cell_2: TARGET MISSED"), std::string::npos) << result.output;
  EXPECT_NE(result.output.find("tap_2: divider top tolerance"), std::string::npos) << result.output;
}

}  // namespace
}  // namespace tamlo::testing
