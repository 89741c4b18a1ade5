// SPDX-License-Identifier: Apache-2.0
// Small files that ask for as much work as they can: each is refused with the number that would
// fit, or done for the price of some forty budgets of the demo, 2 s where that takes 50 ms; sixty,
// for what else the machine does.
#include <gtest/gtest.h>

#include <algorithm>

#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

// Elements of an array; a comma may stand behind the last.
std::string times(int count, const std::string& element) { return repeated(element + ", ", count); }

// A channel of so many bits with these keys, and these sections behind it.
std::string board(const std::string& bits, const std::string& keys, const std::string& more = "",
                  const std::string& reference = "2.5 V ±0.1 %") {
  return "format = 1\n[conditions]\ntemperature = \"15..45 degC\"\n[reference.r]\nvoltage = \"" +
         reference + "\"\n[converter.a]\nresolution = \"" + bits +
         " bit\"\nreference = \"r\"\noffset = \"±2 LSB\"\nnoise = \"0.6 LSB rms\"\n" + more +
         "[channel.v]\nspan = \"0..2 V\"\nconverter = \"a\"\nrate = \"1 kSa/s\"\n"
         "target = { accuracy = \"±1 % of span\" }\n" +
         keys + "\n";
}

std::string filters(int count, const std::string& one) {
  return "filter = [ " + times(count, "{ kind = " + one + " }") + " ]";
}

std::string integers(int count, const std::string& step) {
  return "scaling = { arithmetic = \"integer\", word = \"64 bit signed\", count = \"1 uV\", steps "
         "= "
         "[ " +
         times(count, step) + " ] }";
}

std::string frontend(int count, const std::string& part) {
  return "frontend = [ " + times(count, part) + " ]";
}

struct Costly {
  const char* name;
  std::string text;
};

std::vector<Costly> costly() {
  const std::string median = "\"median\", length = 255", mean = "\"moving average\", length = ",
                    one_lowpass =
                        "{ lowpass = { resistor = \"1 kohm ±1 %\", capacitor = \"1 uF\" } }",
                    one_sine = "{ frequency = \"50 Hz\", amplitude = \"5 mV\" }";
  return {
      {"64 integer steps of 24 bits", board("24", integers(64, "{ add = 1 }"))},
      {"16 integer steps of 24 bits", board("24", integers(16, "{ add = 1 }"))},
      {"16 divisions of 32 bits", board("32", integers(16, "{ divide = 3 }"))},
      {"a polynomial of 16 terms",
       board("24", integers(1, "{ polynomial = [ " + times(16, "1") + " ], shift = 20 }"))},
      {"16 polynomials",
       board("20", integers(16, "{ polynomial = [ " + times(16, "1") + " ], shift = 20 }"))},
      {"a polynomial of 4000 terms",
       board("16", integers(1, "{ polynomial = [ " + times(4000, "1") + " ], shift = 1 }"))},
      {"64 means", board("12", filters(64, mean + "64"))},
      {"64 long means", board("12", filters(64, mean + "65536"))},
      {"64 exponentials", board("12", filters(64, "\"exponential\", weight = 0.01"))},
      {"a slow exponential", board("12", filters(1, "\"exponential\", weight = 5e-6"))},
      {"a median", board("12", filters(1, median))},
      {"a median between means", board("12", "filter = [ { kind = " + median + " }, { kind = " +
                                                 mean + "1000 }, { kind = " + median + " } ]")},
      {"a median before a mean",
       board("12", "filter = [ { kind = " + median + " }, { kind = " + mean + "130 } ]")},
      {"64 medians", board("12", filters(64, median))},
      {"64 medians of 3", board("12", filters(64, "\"median\", length = 3"))},
      {"1024 taps", board("12", filters(1, "\"taps\", taps = [ " + times(1024, "1.0") + " ]"))},
      {"4096 taps", board("12", filters(1, "\"taps\", taps = [ " + times(4096, "1.0") + " ]"))},
      {"64 filters of 64 taps",
       board("12", filters(64, "\"taps\", taps = [ " + times(64, "1.0") + " ]"))},
      {"60000 taps", board("12", filters(1, "\"taps\", taps = [ " + times(60000, "1.0") + " ]"))},
      {"sinc of order 5", board("12", filters(1, "\"sinc\", order = 5, decimation = 4096"))},
      {"64 sincs", board("12", filters(64, "\"sinc\", order = 5, decimation = 2"))},
      {"a narrow notch",
       board("12", filters(1, "\"notch\", frequency = \"10 Hz\", width = \"0.01 Hz\""))},
      {"64 notches",
       board("12", filters(64, "\"notch\", frequency = \"50 Hz\", width = \"1 Hz\""))},
      {"a slow Butterworth",
       board("12", filters(1, "\"Butterworth\", order = 8, cutoff = \"0.01 Hz\""))},
      {"the longest average", board("12", "average = 1048576")},
      {"the longest average of 24 bits", board("24", "average = 1048576")},
      {"the longest mean", board("12", filters(1, mean + "1048576"))},
      {"64 low-passes", board("12", frontend(64, one_lowpass))},
      {"64 low-passes and interferers",
       board("12", frontend(64, one_lowpass) + "\ninterference = [ " + times(64, one_sine) + " ]")},
      {"64 interferers", board("12", "interference = [ " + times(64, one_sine) + " ]")},
      {"64 amplifiers", board("24", frontend(64,
                                             "{ amplifier = { gain = \"1 ±0.1 %\", offset = "
                                             "\"±1 mV\", noise = \"1 uV rms\" } }"))},
      {"16 exponentials", board("12", filters(16, "\"exponential\", weight = 0.01"))},
      {"16 medians of 3", board("12", filters(16, "\"median\", length = 3"))},
      {"8 low-passes", board("12", frontend(8, one_lowpass))},
      {"16 interferers", board("12", "interference = [ " + times(16, one_sine) + " ]")},
      {"64 dividers", board("24", frontend(64,
                                           "{ divider = { top = \"1 ohm ±1 %\", bottom = \"1 "
                                           "Mohm ±1 %\" } }"))},
      {"64 limits of a value", board("12", "", "", "2.5 V" + repeated(" ±0.1 %", 64))},
      {"20000 limits of a value", board("12", "", "", "2.5 V" + repeated(" ±0.1 %", 20000))},
      {"a name of 200 kB",
       board("12", "", "[converter." + std::string(200'000, 'a') + "]\nresolution = \"12 bit\"\n")},
      {"8000 attenuations",
       [] {
         std::string all;
         for (int i = 0; i < 8000; ++i) {
           all += "[converter.a.attenuation.x" + std::to_string(i) + "]\nratio = \"1\"\n";
         }
         return board("12", "attenuation = \"x1\"", all);
       }()},
      {"a correction of 60000 terms",
       board("12", "correction = { coefficients = [ " + times(60000, "0.1") + " ] }")},
      {"a correction of 32 terms",
       board("12", "correction = { coefficients = [ 0.0, 1.0, " + times(30, "1e-3") + " ] }")},
      {"32 bits", board("32", "")},
      {"32 bits, a long mean", board("32", filters(1, mean + "100000"))},
      {"255 zones",
       [] {
         std::string edges;
         for (int i = 1; i < 255; ++i) {
           edges += (i > 1 ? ", \"" : "\"") + std::to_string(0.0078 * i) + " V\"";
         }
         return board("16", "zones = { edges = [ " + edges + " ] }");
       }()},
  };
}

TEST(CostlyBoards, AreRefusedOrCostNoMoreThanSixtyBudgets) {
  const Folder folder;
  double ordinary = 0.0;
  for (int i = 0; i < 3; ++i) {
    ordinary = std::max(ordinary, tamlo({"budget", demo_board}).cpu_seconds);
  }
  ASSERT_GT(ordinary, 0.0);
  const auto boards = costly();
  EXPECT_GE(boards.size(), 40u);
  int refused = 0;
  for (const auto& [name, text] : boards) {
    const auto path = folder.write("board.toml", text);
    const auto result = tamlo({"budget", path});
    SCOPED_TRACE(name);
    EXPECT_TRUE(result.status >= 0 && result.status <= 2) << result.status;
    EXPECT_LT(result.cpu_seconds, 60.0 * ordinary) << result.errors;
    EXPECT_LT(result.megabytes, 256.0);
    EXPECT_EQ((result.output + result.errors).find("nan"), std::string::npos) << result.output;
    if (result.status != 2) continue;
    ++refused;
    EXPECT_GT(result.errors.size(), 40u);
    EXPECT_LT(result.errors.size(), 5000u);
  }
  EXPECT_GT(refused, 10);
}

}  // namespace
}  // namespace tamlo::testing
