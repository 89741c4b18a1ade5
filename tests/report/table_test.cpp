// SPDX-License-Identifier: Apache-2.0
#include "tamlo/report/table.hpp"

#include <gtest/gtest.h>

#include <algorithm>

namespace tamlo::report {
namespace {

Report sample() {
  return {.verdict = {{"ALL WELL", Tone::good}},
          .tables = {{.title = "Figures",
                      .columns = {{"name", false}, {"±"}},
                      .rows = {{"a, b", {"1.0", "1.0000000000000002"}}, {"µ", "12"}}}},
          .remarks = {{"the end"}}};
}

TEST(Table, TextIsAlignedByCharacters) {
  EXPECT_EQ(render(sample(), false),
            "ALL WELL\n"
            "\n"
            "Figures\n"
            "  name     ±\n"
            "  a, b   1.0\n"
            "  µ       12\n"
            "\n"
            "the end\n");
}

// On a terminal the heading of a long table comes again; in a file it stands once.
TEST(Table, ALongOneHasItsHeadingAgain) {
  const struct {
    std::size_t rows, width, headings;
  } cases[] = {{40, 80, 1}, {41, 80, 2}, {100, 80, 3}, {100, 0, 1}, {0, 80, 1}};
  for (const auto& of : cases) {
    Report report{.tables = {{.columns = {{"number"}, {"square"}}}}};
    auto& rows = report.tables.front().rows;
    for (std::size_t i = 1; i <= of.rows; ++i) {
      rows.push_back({std::to_string(i), std::to_string(i * i)});
    }
    const auto text = render(report, false, of.width);
    EXPECT_EQ(std::ranges::count(text, 'q'), static_cast<std::ptrdiff_t>(of.headings));
    EXPECT_EQ(std::ranges::count(text, '\n'), static_cast<std::ptrdiff_t>(of.rows + of.headings));
    if (of.headings < 2) continue;
    EXPECT_NE(text.find("40     1600\n  number   square\n      41"), std::string::npos) << text;
  }
}

TEST(Table, CsvHasAllDigitsAndNoProse) {
  EXPECT_EQ(result::csv(sample().tables[0]),
            "# Figures\nname,±\n\"a, b\",1.0000000000000002\nµ,12\n");
}

TEST(Table, Markdown) {
  EXPECT_EQ(
      markdown(sample().verdict) + result::markdown(sample().tables[0]),
      "ALL WELL\n\n### Figures\n\n| name | ± |\n| --- | ---: |\n| a, b | 1.0 |\n| µ | 12 |\n");
}

TEST(Table, ColourOnlyWhereItIsAskedFor) {
  EXPECT_EQ(render(Line{"bad", Tone::bad}, true), "\033[31;1mbad\033[0m");
  EXPECT_EQ(render(Line{"bad", Tone::bad}, false), "bad");
  EXPECT_EQ(render(Line{"plain"}, true), "plain");
}

}  // namespace
}  // namespace tamlo::report
