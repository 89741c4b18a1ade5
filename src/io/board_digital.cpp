// SPDX-License-Identifier: Apache-2.0
// The average and the filters of a channel.
#include <fmt/format.h>

#include <utility>

#include "board_parts.hpp"

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

}  // namespace tamlo::io
