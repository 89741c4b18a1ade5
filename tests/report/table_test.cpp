// SPDX-License-Identifier: Apache-2.0
#include "tamlo/report/table.hpp"

#include <gtest/gtest.h>

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
  EXPECT_EQ(render(sample(), Format::text, false),
            "ALL WELL\n"
            "\n"
            "Figures\n"
            "  name     ±\n"
            "  a, b   1.0\n"
            "  µ       12\n"
            "\n"
            "the end\n");
}

TEST(Table, CsvHasAllDigitsAndNoProse) {
  EXPECT_EQ(render(sample(), Format::csv, true),
            "# Figures\nname,±\n\"a, b\",1.0000000000000002\nµ,12\n");
}

TEST(Table, Markdown) {
  EXPECT_EQ(
      render(sample(), Format::markdown, true),
      "ALL WELL\n\n\n### Figures\n\n| name | ± |\n| --- | ---: |\n| a, b | 1.0 |\n| µ | 12 |\n"
      "\nthe end\n\n");
}

TEST(Table, ColourOnlyWhereItIsAskedFor) {
  EXPECT_EQ(render(Line{"bad", Tone::bad}, true), "\033[31;1mbad\033[0m");
  EXPECT_EQ(render(Line{"bad", Tone::bad}, false), "bad");
  EXPECT_EQ(render(Line{"plain"}, true), "plain");
}

}  // namespace
}  // namespace tamlo::report
