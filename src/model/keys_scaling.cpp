// SPDX-License-Identifier: Apache-2.0
// Keys of the scaling.
#include <algorithm>
#include <cmath>

#include "findings.hpp"
#include "key_rows.hpp"

namespace tamlo::model {
namespace {

constexpr std::int64_t most_operand = std::int64_t{1} << 40;
// Half a step of a long shift, and more, in a word of 64 bits.
constexpr std::int64_t most_added = std::int64_t{1} << 62;

bool has_no_result(const IntegerStep& step) {
  switch (step.operation) {
    case Operation::divide:
      return step.operand == 0;
    case Operation::shift_right:
      return step.operand < 0 || step.operand > 63;
    case Operation::clamp:
      return step.operand > step.most;
    case Operation::lines:
      return step.lines.empty() ||
             std::ranges::adjacent_find(step.lines, std::greater_equal{}, &IntegerLine::from) !=
                 step.lines.end();
    case Operation::polynomial:
      return step.coefficients.empty() || step.operand < 0 || step.operand > 63;
    default:
      return false;
  }
}

void scaling_relations(const Scaling& scaling, const Place& place) {
  if (const auto& integer = scaling.integer) {
    place.findings.within(place.path + ".word", integer->bits, 2, 64);
    for (std::size_t i = 0; i < integer->steps.size(); ++i) {
      if (!has_no_result(integer->steps[i])) continue;
      place.add("steps[" + std::to_string(i) + "]", "a step that has no result",
                "a division by what is not 0, a shift of 0 to 63, a clamp from low to high, lines "
                "that rise");
    }
  }
  const auto& taught = scaling.taught;
  if (!taught) return;
  for (const double number :
       {taught->low_reading, taught->high_reading, taught->low_code, taught->high_code}) {
    place.findings.finite(place.path + ".taught", number);
  }
  if (taught->low_code == taught->high_code || taught->low_reading == taught->high_reading) {
    place.add("taught", "one point twice", "two codes and two readings that differ");
  }
}

// Slot of what only integer steps have.
template <auto member>
Slot of_integer(void* object) {
  auto& integer = static_cast<Scaling*>(object)->integer;
  if (!integer) return {};
  return &((*integer).*member);
}

const Keys& line_keys() {
  constexpr auto all = "{ from = 0, multiply = 3, add = 250 }";
  static const Keys keys{
      {integer("from", -most_operand, most_operand, at<&IntegerLine::from>)
           .needed(all)
           .means("number that the line begins at"),
       integer("multiply", -most_operand, most_operand, at<&IntegerLine::multiply>)
           .needed(all)
           .means("slope of the line"),
       integer("add", -most_added, most_added, at<&IntegerLine::add>)
           .needed(all)
           .means("value of the line at `from`")}};
  return keys;
}

const Keys& clamp_keys() {
  constexpr auto both = "{ least = 0, most = 20000 }";
  static const Keys keys{{integer("least", -most_operand, most_operand, at<&IntegerStep::operand>)
                              .needed(both)
                              .means("smallest result"),
                          integer("most", -most_operand, most_operand, at<&IntegerStep::most>)
                              .needed(both)
                              .means("largest result")}};
  return keys;
}

}  // namespace

const Keys& step_keys() {
  const auto operand = [](std::string_view name, std::int64_t low, std::int64_t high) {
    return integer(name, low, high, at<&IntegerStep::operand>).with_own_reader();
  };
  static const Keys keys{
      {operand("multiply", -most_operand, most_operand).means("multiplies the number"),
       operand("add", -most_added, most_added).means("adds to the number"),
       operand("divide", -most_operand, most_operand)
           .means("divides the number, toward zero; with `round` to the nearest"),
       operand("shift_right", 0, 62).means("shifts the number, downward; with `round` upward"),
       table("clamp", {.keys = clamp_keys})
           .with_own_reader()
           .means("`{ least = 0, most = 60000 }`: holds the number between the two"),
       tables("lines", inner<&IntegerStep::lines>(line_keys))
           .with_own_reader()
           .means("`[ { from = 0, multiply = 3, add = 250 }, ... ]`: multiply * (number - from) + "
                  "add of the last line that begins at or before the number"),
       numbers("polynomial", at<&IntegerStep::coefficients>)
           .at_most(16)
           .within({.low = -static_cast<double>(most_operand),
                    .high = static_cast<double>(most_operand),
                    .text = "whole numbers",
                    .whole = true})
           .with_own_reader()
           .means("coefficients, from the constant on, beside `shift`"),
       integer("shift", 0, 62, nullptr)
           .with_own_reader()
           .means("bits that each product of the polynomial is shifted right"),
       flag("round", at<&IntegerStep::round>)
           .means("rounds, beside divide or shift_right", "false")}};
  return keys;
}

const Keys& taught_keys() {
  constexpr auto both = "{ code = 312, reading = ... }";
  static const Keys keys{
      {number("code", nullptr).with_own_reader().needed(both).means("code at the point"),
       of_span("reading", nullptr)
           .with_own_reader()
           .needed(both)
           .means("what the firmware shows for it")}};
  return keys;
}

const Keys& scaling_keys() {
  static const Keys keys{
      {
          choice("arithmetic", {"float", "integer"}, nullptr)
              .with_own_reader()
              .means("how the firmware computes", "`\"float\"`"),
          tables("steps", {.keys = step_keys})
              .with_own_reader()
              .means("integer steps: `[ { multiply = 15259 }, { divide = 1000 } ]`"),
          of_difference("count", of_integer<&IntegerScaling::count>)
              .above_zero()
              .with_own_reader()
              .means("what one count of the result is worth"),
          choice("word",
                 {"16 bit signed", "16 bit unsigned", "32 bit signed", "32 bit unsigned",
                  "64 bit signed"},
                 nullptr)
              .with_own_reader()
              .means("word that the steps compute in"),
          number("per_code", of_integer<&IntegerScaling::per_code>)
              .above_zero()
              .with_own_reader()
              .means("the steps take the register value, or the mean of average and filter, times "
                     "this",
                     "1"),
          of_difference("filter_rounding", of_integer<&IntegerScaling::filter_rounding>)
              .not_negative()
              .with_own_reader()
              .means("limit of what integer filters round, in the reading", "none"),
          flag("corrects", of_integer<&IntegerScaling::corrects>)
              .with_own_reader()
              .means("the steps hold the channel's correction already", "false"),
          tables("taught", {.keys = taught_keys})
              .with_own_reader()
              .means("`[ { code = 312, reading = \"0 %\" }, { code = 3810, reading = \"100 %\" } "
                     "]`: two points that the firmware was taught on the bench"),
          table("sensor", {})
              .with_own_reader()
              .means(
                  "sensor that the firmware computes with, such as `{ ntc = { r25 = \"10 kohm\", "
                  "beta = \"3950 K\" } }` or `{ table = \"curve.csv\" }`, without limits; integer "
                  "steps and taught points overrule it",
                  "that of the channel"),
          of_span("tare", at<&Scaling::tare>)
              .means("value that the reading is set to, at this value, before use", "none"),
          integer("decimals", 0, 12, at<&Scaling::decimals>)
              .means("decimals that the reading is rounded to, in the unit of the span", "none"),
          choice("convention", names_of<Convention>(), at<&Scaling::convention>)
              .means("what a code is taken for: `\"full scale\"` or `\"last code\"`",
                     "`\"full scale\"`"),
      },
      +scaling_relations};
  return keys;
}

}  // namespace tamlo::model
