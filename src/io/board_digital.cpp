// SPDX-License-Identifier: Apache-2.0
// The average, the filters and the scaling of a channel.
#include <fmt/format.h>

#include <utility>

#include "board_parts.hpp"
#include "tamlo/names.hpp"

namespace tamlo::io {
namespace {

// Of a key and its form as a time exactly one is given.
void one_of_two(Fields& fields, const char* key, const char* time, const char* allowed) {
  if (fields.has(key) != fields.has(time)) return;
  fields.report("",
                fields.has(time) ? fmt::format("both {} and {}", key, time)
                                 : fmt::format("neither {} nor {}", key, time),
                allowed);
}

model::DigitalStage read_stage(Fields fields, const Scope& scope) {
  const auto& kinds = model::filter_kinds();
  std::vector<std::string> names;
  for (const auto& kind : kinds) names.emplace_back(kind.name);
  fields.require("kind", "a kind of filter");
  model::DigitalStage result = model::MovingAverage{};
  const auto at = fields.choice("kind", names);
  if (!at) return result;
  read_keys(fields, kinds[*at].keys(), kinds[*at].make(&result), scope);
  if (names[*at].ends_with("average")) {
    one_of_two(fields, "length", "time", "length = 16, or time = \"20 ms\"");
  } else if (std::holds_alternative<model::Exponential>(result)) {
    one_of_two(fields, "weight", "time_constant", "weight = 0.1, or time_constant = \"50 ms\"");
  }
  fields.finish();
  return result;
}

void read_average(Fields fields, model::Channel& channel, const Scope& scope) {
  model::Length length;
  read_keys(fields, model::average_keys(), &length, scope);
  one_of_two(fields, "count", "time", "count = 16, or time = \"20 ms\"");
  const bool running = fields.flag("running").value_or(false);
  fields.finish();
  if (running) {
    channel.filter.emplace_back(model::MovingAverage{length});
  } else {
    channel.average = length;
  }
}

}  // namespace

void read_digital(Fields& fields, model::Channel& channel, const Scope& scope) {
  if (fields.is_table("average")) {
    read_average(*fields.table("average"), channel, scope);
  } else {
    auto key = model::average_keys()["count"];
    key.name = "average";
    read_key(fields, key, &channel.average, scope);
  }
  if (fields.is_table("filter")) {
    channel.filter.push_back(read_stage(*fields.table("filter"), scope));
  } else {
    for (auto& stage : fields.tables("filter"))
      channel.filter.push_back(read_stage(std::move(stage), scope));
  }
}

namespace {

// One operation of integers.
model::IntegerStep read_step(Fields fields, const Scope& scope) {
  using model::Operation;
  const auto& keys = model::step_keys();
  model::IntegerStep result;
  int found = 0;
  const auto reads = [&](const char* name) {
    read_key(fields, keys[name], &result, scope);
    return fields.has(name);
  };
  for (const auto& name : names_of<Operation>()) {
    if (name == "clamp") {
      auto limits = fields.table(name);
      if (!limits) continue;
      read_keys(*limits, keys[name].inner.keys(), &result, scope);
      limits->finish();
    } else if (!reads(name.c_str())) {
      continue;
    }
    ++found;
    result.operation = *named<Operation>(name);
  }
  if (result.operation == Operation::polynomial) {
    fields.require("shift", "bits that each product is shifted right: shift = 16");
    auto shift = keys["shift_right"];
    shift.name = "shift";
    read_key(fields, shift, &result, scope);
    if (result.coefficients.empty()) result.coefficients = {0};
  }
  if (result.operation == Operation::lines && result.lines.empty()) {
    fields.report("lines", "no lines", "one line or more, by rising from");
    result.lines = {{}};
  }
  if (result.operation == Operation::divide && result.operand == 0) {
    fields.report("divide", "a division by 0", "a divisor that is not 0");
    result.operand = 1;
  }
  (void)reads("round");
  const bool rounds =
      result.operation == Operation::divide || result.operation == Operation::shift_right;
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

void read_integer(Fields& fields, model::Scaling& scaling, int resolution, const Scope& scope) {
  const auto& keys = model::scaling_keys();
  auto& integer = scaling.integer.emplace();
  fields.require("steps", "steps = [ { multiply = 15259 }, { divide = 1000 } ]");
  for (auto& step : fields.tables("steps")) {
    integer.steps.push_back(read_step(std::move(step), scope));
  }
  fields.require("count", "what one count of the result is worth, such as \"1 mV\"");
  for (const auto* key : {"count", "per_code", "filter_rounding", "corrects"}) {
    read_key(fields, keys[key], &scaling, scope);
  }
  fields.require("word", one_of("", keys["word"].words));
  if (auto v = fields.choice("word", keys["word"].words)) {
    integer.bits = *v < 2 ? 16 : *v < 4 ? 32 : 64;
    integer.is_signed = *v % 2 == 0;
  }
  if (resolution > 24) {
    fields.report("arithmetic", fmt::format("integers for {} bit", resolution),
                  "a converter of up to 24 bit, of which every code is tried");
  }
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
    for (const auto& key : model::taught_keys().keys) {
      point.require(std::string(key.name), std::string(key.required));
    }
    if (auto v = point.number("code")) (low ? result.low_code : result.high_code) = *v;
    if (auto v = point.plain("reading", unit))
      (low ? result.low_reading : result.high_reading) = *v;
    point.finish();
  }
  return result;
}

}  // namespace

model::Scaling read_scaling(Fields fields, int resolution, const Scope& scope) {
  model::Scaling result;
  read_keys(fields, model::scaling_keys(), &result, scope);
  if (fields.choice("arithmetic", {"float", "integer"}) == 1U) {
    read_integer(fields, result, resolution, scope);
  }
  result.taught = read_taught(fields, scope.channel->span.unit);
  const bool given = fields.has("convention");
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
