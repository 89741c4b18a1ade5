// SPDX-License-Identifier: Apache-2.0
// Lines and tables within a width, and in plain letters: what is too wide goes on below.
#include <gtest/gtest.h>

#include "tamlo/report/table.hpp"

namespace tamlo::report {
namespace {

TEST(Fitted, LinesAreBrokenBetweenWords) {
  const struct {
    const char* text;
    std::size_t width;
    const char* fitted;
  } cases[] = {
      {"short", 10, "short"},
      {"as long as it is without a width", 0, "as long as it is without a width"},
      {"one two three", 8, "one two\n  three"},
      {"  indented words go on", 12, "  indented\n    words go\n    on"},
      {"averyveryverylongword stays", 8, "averyveryverylongword\n  stays"},
      {"±1 µV ±2 µV", 5, "±1 µV\n  ±2\n  µV"},  // characters, not bytes
      {"\033[31;1mred text\033[0m here", 9, "\033[31;1mred text\033[0m\n  here"},
      {"kept\n\nlines apart", 6, "kept\n\nlines\n  apart"},
      {"", 5, ""},
  };
  for (const auto& [text, width, expected] : cases) EXPECT_EQ(fitted(text, width), expected);
}

TEST(Fitted, LettersHaveTheirPlainForm) {
  const struct {
    const char *text, *plain;
  } cases[] = {{"±0.1 % of 25 °C", "+-0.1 % of 25 degC"},
               {"10 kΩ, 3 µV, 5 μV", "10 kohm, 3 uV, 5 uV"},
               {"−3 … 4 → 5 × 6", "-3 ... 4 -> 5 x 6"},
               {"m², ≤ √2", "m^2, <= sqrt2"},
               {"ж", "?"},
               {"\xff\xfe", "??"},  // no text at all
               {"plain", "plain"}};
  for (const auto& [text, plain] : cases) EXPECT_EQ(ascii(text), plain);
}

Table sources() {
  return {.title = "where it comes from",
          .columns = {{.heading = "source", .right = false},
                      {.heading = "limit", .right = false},
                      {.heading = "share %", .right = true},
                      {.heading = "what it is, in words that are long", .right = false}},
          .rows = {{"divider top", "±0.1 %", "31.7", "a resistor of the divider, the upper one"},
                   {"reference", "±1 mV", "5.1", "volts"}}};
}

TEST(Fitted, TablesGoOnBelowWithTheirFirstColumn) {
  const Report report{.tables = {sources()}};
  EXPECT_EQ(render(report, false),
            "where it comes from\n"
            "  source        limit    share %   what it is, in words that are long\n"
            "  divider top   ±0.1 %      31.7   a resistor of the divider, the upper one\n"
            "  reference     ±1 mV        5.1   volts\n");
  EXPECT_EQ(render(report, false, 44),
            "where it comes from\n"
            "  source        limit    share %\n"
            "  divider top   ±0.1 %      31.7\n"
            "  reference     ±1 mV        5.1\n"
            "  source        what it is, in words that\n"
            "                  are long\n"
            "  divider top   a resistor of the divider,\n"
            "                  the upper one\n"
            "  reference     volts\n");
  // What is laid out in plain letters has straight columns.
  EXPECT_EQ(render(ascii(report), false, 34),
            "where it comes from\n"
            "  source        limit     share %\n"
            "  divider top   +-0.1 %      31.7\n"
            "  reference     +-1 mV        5.1\n"
            "  source        what it is, in\n"
            "                  words that are\n"
            "                  long\n"
            "  divider top   a resistor of the\n"
            "                  divider, the\n"
            "                  upper one\n"
            "  reference     volts\n");
}

}  // namespace
}  // namespace tamlo::report
