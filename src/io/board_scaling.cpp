// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <utility>

#include "board_parts.hpp"

namespace tamlo::io {
namespace {

constexpr std::int64_t most_operand = std::int64_t{1} << 40;

// The pieces of a curve.
std::vector<model::IntegerLine> read_lines(Fields& fields) {
  std::vector<model::IntegerLine> result;
  for (auto& of : fields.tables("lines")) {
    auto& line = result.emplace_back();
    for (const auto& [key, into] :
         {std::pair{"from", &line.from}, std::pair{"multiply", &line.multiply},
          std::pair{"add", &line.add}}) {
      of.require(key, "{ from = 0, multiply = 3, add = 250 }");
      *into = of.integer(key, -most_operand, most_operand).value_or(0);
    }
    of.finish();
  }
  const auto not_rising = [](const auto& a, const auto& b) { return a.from >= b.from; };
  if (result.empty() || std::ranges::adjacent_find(result, not_rising) != result.end()) {
    fields.report("lines", "lines that do not rise", "one line or more, by rising from");
    result = {{}};
  }
  return result;
}

model::IntegerStep read_step(Fields fields) {
  static const std::vector<std::pair<std::string, model::Operation>> operations{
      {"multiply", model::Operation::multiply},
      {"add", model::Operation::add},
      {"divide", model::Operation::divide},
      {"shift_right", model::Operation::shift_right}};
  model::IntegerStep result;
  int found = 0;
  if (auto limits = fields.table("clamp")) {
    ++found;
    result.operation = model::Operation::clamp;
    for (const auto* key : {"least", "most"}) limits->require(key, "{ least = 0, most = 20000 }");
    if (auto v = limits->integer("least", -most_operand, most_operand)) result.operand = *v;
    if (auto v = limits->integer("most", result.operand, most_operand)) result.most = *v;
    limits->finish();
  }
  if (fields.has("lines")) {
    ++found;
    result.operation = model::Operation::lines;
    result.lines = read_lines(fields);
  }
  if (fields.has("polynomial")) {
    ++found;
    result.operation = model::Operation::polynomial;
    const Bounds whole{.low = -std::ldexp(1.0, 40),
                       .high = std::ldexp(1.0, 40),
                       .text = "whole numbers",
                       .whole = true};
    for (const double c : fields.numbers("polynomial", whole)) {
      result.coefficients.push_back(static_cast<std::int64_t>(c));
    }
    if (result.coefficients.empty()) result.coefficients = {0};
    fields.require("shift", "bits that each product is shifted right: shift = 16");
    result.operand = fields.integer("shift", 0, 62).value_or(0);
  }
  for (const auto& [key, operation] : operations) {
    const bool shift = operation == model::Operation::shift_right;
    const auto operand = fields.integer(key, shift ? 0 : -most_operand, shift ? 62 : most_operand);
    if (!fields.has(key)) continue;
    ++found;
    if (operand == 0 && operation == model::Operation::divide) {
      fields.report(key, "a division by 0", "a divisor that is not 0");
    }
    result.operation = operation;
    result.operand = operand.value_or(1);
  }
  const bool rounds = result.operation == model::Operation::divide ||
                      result.operation == model::Operation::shift_right;
  if (auto v = fields.flag("round")) result.round = *v;
  if (result.round && !rounds) {
    fields.report("round", "rounding of what loses nothing", "round beside divide or shift_right");
  }
  if (found != 1) {
    fields.report("", fmt::format("{} operations in one step", found),
                  "one of multiply, add, divide, shift_right, clamp, lines, polynomial in each");
  }
  fields.finish();
  return result;
}

model::IntegerScaling read_integer(Fields& fields, const quantity::Unit& quantity_unit,
                                   int resolution) {
  model::IntegerScaling integer;
  fields.require("steps", "steps = [ { multiply = 15259 }, { divide = 1000 } ]");
  for (auto& step : fields.tables("steps")) integer.steps.push_back(read_step(std::move(step)));
  fields.require("count", "what one count of the result is worth, such as \"1 mV\"");
  if (auto v = fields.difference("count", quantity_unit, above_zero())) integer.count = *v;
  const std::vector<std::string> words{"16 bit signed", "16 bit unsigned", "32 bit signed",
                                       "32 bit unsigned", "64 bit signed"};
  fields.require("word", one_of("", words));
  if (auto v = fields.choice("word", words)) {
    integer.bits = *v < 2 ? 16 : *v < 4 ? 32 : 64;
    integer.is_signed = *v % 2 == 0;
  }
  if (auto v = fields.number("per_code", above_zero())) integer.per_code = *v;
  if (auto v = fields.difference("filter_rounding", quantity_unit, not_negative())) {
    integer.filter_rounding = *v;
  }
  if (auto v = fields.flag("corrects")) integer.corrects = *v;
  if (resolution > 24) {
    fields.report("arithmetic", fmt::format("integers for {} bit", resolution),
                  "a converter of up to 24 bit, of which every code is tried");
  }
  return integer;
}

// The two points that the firmware was taught: a code, and what it shows for it.
std::optional<model::TaughtLine> read_taught(Fields& fields, const quantity::Unit& unit) {
  if (!fields.has("taught")) return {};
  auto points = fields.tables("taught");
  model::TaughtLine result;
  if (points.size() != 2) {
    fields.report(
        "taught", fmt::format("{} points", points.size()),
        "two: [ { code = 312, reading = \"0 %\" }, { code = 3810, reading = \"100 %\" } ]");
    return {};
  }
  for (auto& point : points) {
    const bool low = &point == &points.front();
    for (const auto* key : {"code", "reading"}) point.require(key, "{ code = 312, reading = ... }");
    if (auto v = point.number("code")) (low ? result.low_code : result.high_code) = *v;
    if (auto v = point.plain("reading", unit))
      (low ? result.low_reading : result.high_reading) = *v;
    point.finish();
  }
  if (result.low_code == result.high_code || result.low_reading == result.high_reading) {
    fields.report("taught", "one point twice", "two codes and two readings that differ");
    return {};
  }
  return result;
}

}  // namespace

model::Scaling read_scaling(Fields fields, const quantity::Unit& quantity_unit, int resolution) {
  model::Scaling result;
  if (fields.choice("arithmetic", {"float", "integer"}) == 1U) {
    result.integer = read_integer(fields, quantity_unit, resolution);
  }
  result.taught = read_taught(fields, quantity_unit);
  result.tare = fields.plain("tare", quantity_unit);
  if (auto v = fields.integer("decimals", 0, 12)) result.decimals = static_cast<int>(*v);
  const bool given = fields.has("convention");
  if (auto v = fields.choice("convention", {"full scale", "last code"})) {
    result.convention = *v == 0 ? model::Convention::full_scale : model::Convention::last_code;
  }
  if (static_cast<int>(result.integer.has_value()) + static_cast<int>(fields.has("taught")) +
          static_cast<int>(given) >
      1) {
    fields.report(given ? "convention" : "taught", "two ways to scale",
                  "one of convention, integer steps and taught points");
  }
  fields.finish();
  return result;
}

}  // namespace tamlo::io
