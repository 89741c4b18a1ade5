// SPDX-License-Identifier: Apache-2.0
// Values in columns, as pipes and small files bring them; limits times a factor; choices of a
// board.
#include <gtest/gtest.h>

#include <sstream>

#include "tamlo/io/board_file.hpp"
#include "tamlo/io/choices_file.hpp"
#include "tamlo/io/detail/columns.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

using Lines = std::vector<std::size_t>;

// The lines of what is wrong; none where nothing is.
template <class Read>
Lines wrong_lines(Read read) {
  Lines result;
  try {
    read();
  } catch (const io::BadInput& error) {
    for (const auto& of : error.problems) result.push_back(of.line);
  }
  return result;
}

TEST(Columns, ValuesInTheirUnits) {
  const struct {
    const char *text, *unit;
    std::vector<double> values;
  } cases[] = {
      {"48 V\n1.5 kV\n# a comment\n\n  20 mV \n", "V", {48.0, 1500.0, 0.02}},
      {"48 V\r\n-3 V\r\n", "V", {48.0, -3.0}},
      {"voltage [mV]\n1\n2.5\n-1e3\n", "V", {1e-3, 2.5e-3, -1.0}},
      {"23 degC\n0 K\n", "degC", {296.15, 0.0}},
      {"t [degC]\n-40\n", "degC", {233.15}},
      {"flow [bar]\n6\n", "bar", {6e5}},
      {"", "V", {}},
      {"# nothing\n", "V", {}},
  };
  for (const auto& [text, unit, values] : cases) {
    std::istringstream from(text);
    const auto found = io::read_column(from, quantity::unit(unit));
    ASSERT_EQ(found.size(), values.size()) << text;
    for (std::size_t i = 0; i < values.size(); ++i) {
      EXPECT_NEAR(found[i], values[i], 1e-12 * (1.0 + std::abs(values[i]))) << text;
    }
  }
}

TEST(Columns, EachLineThatIsWrongIsNamed) {
  const struct {
    const char* text;
    Lines lines;
  } cases[] = {
      {"48 V\n5 A\n6 V\nx\n", {2, 4}},
      {"voltage [A]\n1\n", {1}},
      {"voltage\n1\n", {1}},
      {"48 V ±1 %\n", {1}},
      {"1..2 V\n", {1}},
      {"voltage [V]\n1\n2 V\n", {3}},
      {"# one\n\nvoltage [V]\n1,5\n", {4}},
      {"1e400 V\n", {1}},
  };
  for (const auto& [text, lines] : cases) {
    std::istringstream from(text);
    EXPECT_EQ(wrong_lines([&] { io::read_column(from, quantity::unit("V")); }), lines) << text;
  }
}

TEST(Columns, WordsAreTheLines) {
  std::istringstream with("code\n 12 \n# no\n\n0x1F\n-3\n"), without("12\ncode\n"), none("");
  EXPECT_EQ(io::read_words(with), (std::vector<std::string>{"12", "0x1F", "-3"}));
  EXPECT_EQ(io::read_words(without), (std::vector<std::string>{"12", "code"}));
  EXPECT_TRUE(io::read_words(none).empty());
}

// Straight between the rows, and as at the ends beyond them.
TEST(Columns, AProfileIsStraightBetweenItsRows) {
  const Folder folder;
  const auto path = folder.write(
      "course.csv", "# of a test\ntime [min],temperature [degC]\n0,20\n1,80\n1.5,80\n3,-40\n");
  const auto profile = io::load_profile(path, quantity::unit("degC"));
  const struct {
    double seconds, celsius;
  } cases[] = {{-1e9, 20.0}, {0.0, 20.0},   {30.0, 50.0},   {60.0, 80.0}, {75.0, 80.0},
               {90.0, 80.0}, {135.0, 20.0}, {180.0, -40.0}, {1e9, -40.0}};
  for (const auto& [seconds, celsius] : cases) {
    EXPECT_NEAR(profile.at(seconds), celsius + 273.15, 1e-9) << seconds;
  }
  const struct {
    const char* text;
    Lines lines;
  } wrong[] = {
      {"time [s],x [degC]\n0,20\n", {1}},
      {"time [s],x [degC]\n0,20\n0,30\n-1,30\n", {3, 4}},
      {"time [s],x [degC]\n0,20,4\n1,2\n2,y\n", {2, 4}},
      {"time [V],x [s]\n0,20\n1,20\n", {1, 1}},
      {"time,x [degC]\n0,20\n1,20\n", {1}},
      {"", {1}},
  };
  for (const auto& [text, lines] : wrong) {
    const auto file = folder.write("wrong.csv", text);
    EXPECT_EQ(wrong_lines([&] { io::load_profile(file, quantity::unit("degC")); }), lines) << text;
  }
}

TEST(Columns, LimitsTimesAFactor) {
  const struct {
    const char* text;
    double factor;
    const char* result;
  } cases[] = {
      {"10 kohm ±1 % ±25 ppm/K", 2.0, "10 kohm ±2 % ±50 ppm/K"},
      {"2.5 V ±0.05 % ±10 ppm/K ±40 ppm/year", 0.5, "2.5 V ±0.025 % ±5 ppm/K ±20 ppm/year"},
      {"±2 LSB", 3.0, "±6 LSB"},
      {"±2 LSB ±4 ppm/K", 1.0, "±2 LSB ±4 ppm/K"},
      {"0.5 V ±10 mV", 0.25, "0.5 V ±2.5 mV"},
      {"±10 mV ±0.5 uV/K", 2.0, "±20 mV ±1 uV/K"},
      {"±0.1 l/min ±1 % of span", 0.5, "±0.05 l/min ±0.5 % of span"},
      {"12 l/min ±0.25 l/min", 3.0, "12 l/min ±0.75 l/min"},
      {"23 degC ±1.5 K", 2.0, "23 degC ±3 K"},
      {"1 V ±1 mV (k=2)", 3.0, "1 V ±3 mV (k=2)"},
  };
  for (const auto& [text, factor, result] : cases) {
    EXPECT_EQ(io::with_limits_times(text, factor, "a.key"), result) << text;
  }
  EXPECT_EQ(io::with_limits_times("4.5 V ±0.5 % ±3 mV", 0.56369, "a.key", 3),
            "4.5 V ±0.281 % ±1.69 mV");
  EXPECT_EQ(io::with_limits_times("10 kohm ±1 % ±25 ppm/K", 1.0, "a.key", 3),
            "10 kohm ±1 % ±25 ppm/K");
  for (const char* const none : {"9 uV rms", "5 V", "", "text", "±", "5 V ±1 ohm", "±1 degC"}) {
    EXPECT_THROW(io::with_limits_times(none, 2.0, "a.key"), io::BadInput) << none;
  }
}

// What each option sets, what it is called and what it amounts to.
TEST(Columns, ChoicesAreSettings) {
  const Folder folder;
  const auto file = io::load_choices(folder.write("choices.toml", R"(format = 1
[limit]
price = 2.5
[[choice]]
name = "average"
key = "channel.v.average"
values = [1, { is = 16, price = 0.5, label = "slow" }]
[[choice]]
name = "divider"
keys = ["channel.v.frontend[0].divider.top", "channel.v.frontend[0].divider.bottom"]
values = [{ is = ["10 kohm ±1 %", "1 kohm ±1 %"], price = 1, power = "2 mW" }]
[[choice]]
name = "resistor"
key = "channel.v.frontend[1].shunt.resistance"
values = { series = "E6", from = "100 ohm", to = "330 ohm", limits = "±1 %" }
[[choice]]
name = "bits"
key = "converter.adc.resolution"
values = { from = 8, to = 12, step = 2 }
)"));
  const auto& choices = file.space.choices;
  ASSERT_EQ(choices.size(), 4u);
  const auto count = [&](std::size_t i) { return choices[i].options.size(); };
  EXPECT_EQ((std::vector{count(0), count(1), count(2), count(3)}),
            (std::vector<std::size_t>{2, 1, 4, 3}));
  EXPECT_EQ(choices[0].options[1].label, "slow");
  EXPECT_EQ(file.space.goals, std::vector<std::string>{"price"});
  const auto set = io::settings_of(file, {1, 0, 2, 2});
  EXPECT_EQ(set, (std::vector<std::string>{"channel.v.average=16",
                                           "channel.v.frontend.0.divider.top=\"10 kohm ±1 %\"",
                                           "channel.v.frontend.0.divider.bottom=\"1 kohm ±1 %\"",
                                           "channel.v.frontend.1.shunt.resistance=\"220 ohm ±1 %\"",
                                           "converter.adc.resolution=12"}));
  // What is not picked is not set.
  EXPECT_EQ(io::settings_of(file, {{}, {}, {}, 0}),
            std::vector<std::string>{"converter.adc.resolution=8"});
}

}  // namespace
}  // namespace tamlo::testing
