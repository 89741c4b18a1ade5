// SPDX-License-Identifier: Apache-2.0
#include "tamlo/link/detail/line_parser.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "tamlo/error.hpp"
#include "tamlo/io/board_file.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

using link::Holds, link::Value;

model::Link of_form(model::LineForm form, const std::string& pattern = "") {
  return {.name = "lines", .form = form, .pattern = pattern};
}

// What a line holds, as "NAME.code=VALUE" words; or "!" and the problem.
std::string read_by(link::LineParser& parser, const model::Board& board, const std::string& line) {
  std::vector<Value> values;
  if (!parser.parse(line, values)) return "!" + parser.problem();
  std::string result;
  for (const auto& value : values) {
    const auto& channel = board.channels.at(value.of.index);
    const double number = value.of.holds == Holds::code
                              ? *value.value
                              : quantity::in_unit(*value.value, channel.span.unit);
    result += (result.empty() ? "" : " ") + channel.name + "." +
              std::string(link::name(value.of.holds)) + "=" +
              std::to_string(std::llround(number * 1000.0));
  }
  return result;
}

TEST(LineParser, ReadsEveryForm) {
  const auto board = io::load_board({demo_board});
  using enum model::LineForm;
  struct Case {
    model::LineForm form;
    const char *pattern, *line, *holds;
  };
  const Case cases[] = {
      {pattern, "raw {pack_voltage.code} flow {coolant_flow.reading}", "raw 0x7ae flow 3.25",
       "pack_voltage.code=1966000 coolant_flow.reading=3250"},
      {pattern, "raw {pack_voltage.code} flow {coolant_flow.reading}", "  raw 0b11 flow -1e-1\r",
       "pack_voltage.code=3000 coolant_flow.reading=-100"},
      {pattern, "{},{pack_voltage.code};", "12:30,17;", "pack_voltage.code=17000"},
      {pattern, "U={pack_voltage.reading}V", "U=48.125V", "pack_voltage.reading=48125"},
      {pattern, "U={pack_voltage.reading}V", "U=48.125", "!a line that is not the pattern"},
      {pattern, "U={pack_voltage.reading}V", "U=nanV", "!a reading that is no number within ±1e30"},
      {pattern, "raw {pack_voltage.code}", "raw 12 13", "!a line that goes on behind the pattern"},
      {pattern, "raw {pack_voltage.code}", "row 12", "!a line that is not the pattern"},
      {pattern, "raw {pack_voltage.code}", "raw 12.5", "!a code that is no whole number"},
      {pattern, "raw {pack_voltage.code}", "# a comment", ""},
      {pattern, "raw {pack_voltage.code}", "", ""},
      {pairs, "", "t=5 pack_voltage.code=77, coolant_flow.reading=1.5;",
       "pack_voltage.code=77000 coolant_flow.reading=1500"},
      {pairs, "", "t=5", "!a line without NAME.code=... or NAME.reading=..."},
      {pairs, "", "pack_voltage.code=x", "!a code that is no whole number"},
      {number, "pack_voltage.code", " 2048 ", "pack_voltage.code=2048000"},
      {number, "pack_voltage.code", "-0x10", "pack_voltage.code=-16000"},
      {number, "pack_voltage.reading", "+1.5e1", "pack_voltage.reading=15000"},
      {number, "pack_voltage.code", "99999999999999999999", "!a code that is no whole number"},
  };
  for (const auto& [form, text, line, holds] : cases) {
    link::LineParser parser(of_form(form, text), board);
    EXPECT_EQ(read_by(parser, board, line), holds) << text << " | " << line;
  }
}

TEST(LineParser, ACsvHasAHeading) {
  const auto board = io::load_board({demo_board});
  link::LineParser parser(of_form(model::LineForm::csv), board);
  const std::pair<const char*, const char*> lines[] = {
      {"time,volts", "!a heading without NAME.code or NAME.reading"},
      {"time,pack_voltage.code,coolant_flow.reading", ""},
      {"0.1,100,2", "pack_voltage.code=100000 coolant_flow.reading=2000"},
      {"0.2,100", "!fewer cells than the heading has"},
      {"0.3,100,2,3", "!more cells than the heading has"},
      {"0.4, 0x64 ,2.5", "pack_voltage.code=100000 coolant_flow.reading=2500"},
  };
  for (const auto& [line, holds] : lines) EXPECT_EQ(read_by(parser, board, line), holds) << line;
}

TEST(LineParser, RefusesPatternsThatNameNothing) {
  const auto board = io::load_board({demo_board});
  for (const auto* pattern : {"raw", "raw {pack_voltage.code", "{pack_volt.code}", "{pack_voltage}",
                              "{pack_voltage.volts}"}) {
    EXPECT_THROW(link::LineParser(of_form(model::LineForm::pattern, pattern), board), ArgumentError)
        << pattern;
  }
  EXPECT_THROW(link::LineParser(of_form(model::LineForm::number, "x"), board), ArgumentError);
}

TEST(LineParser, TheLastPlaceOfADisplay) {
  const std::pair<const char*, double> cases[] = {{"12.50", 0.01}, {"-0.125", 0.001}, {"12", 1.0},
                                                  {"+7.", 1.0},    {"1.25E+01", 0.0}, {"", 0.0},
                                                  {"OL", 0.0}};
  for (const auto& [text, place] : cases) EXPECT_DOUBLE_EQ(link::last_place(text), place) << text;
  const auto board = io::load_board({demo_board});
  link::LineParser parser(of_form(model::LineForm::number, "bench.shown"), board);
  std::vector<Value> values;
  ASSERT_TRUE(parser.parse("5.25", values));
  EXPECT_DOUBLE_EQ(values.at(0).place, 0.01);
  ASSERT_TRUE(parser.parse("OL", values));
  EXPECT_TRUE(values.at(0).overload());
}

}  // namespace
}  // namespace tamlo::testing
