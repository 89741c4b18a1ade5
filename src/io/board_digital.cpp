// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <utility>

#include "board_parts.hpp"

namespace tamlo::io {
namespace {

using quantity::unit;

constexpr std::int64_t longest = 65536;

// "length = 16" or "time = "20 ms"".
model::Length read_length(Fields& fields, const char* key, std::int64_t most) {
  model::Length result;
  if (fields.has(key) == fields.has("time")) {
    fields.report("", fields.has("time") ? fmt::format("both {} and time", key) : "no length",
                  fmt::format("{} = 16, or time = \"20 ms\"", key));
  }
  if (auto v = fields.integer(key, 1, most)) result.count = static_cast<int>(*v);
  result.time = fields.plain("time", unit("s"), above_zero());
  return result;
}

model::DigitalStage exponential(Fields& fields) {
  model::Exponential of;
  if (fields.has("weight") == fields.has("time_constant")) {
    fields.report("", "not one weight", "weight = 0.1, or time_constant = \"50 ms\"");
  }
  if (auto v = fields.number(
          "weight", {.low = 0.0, .high = 1.0, .without_low = true, .text = "above 0, up to 1"})) {
    of.weight = *v;
  }
  of.time_constant = fields.plain("time_constant", unit("s"), above_zero());
  return of;
}

model::DigitalStage sinc(Fields& fields) {
  model::Sinc of;
  fields.require("order", "an order from 1 to 5");
  fields.require("decimation", "how many samples make one, such as 32");
  if (auto v = fields.integer("order", 1, 5)) of.order = static_cast<int>(*v);
  if (auto v = fields.integer("decimation", 1, 4096)) of.decimation = static_cast<int>(*v);
  return of;
}

model::DigitalStage median(Fields& fields) {
  model::Median of;
  fields.require("length", "an odd length, such as 5");
  if (auto v = fields.integer("length", 1, 255)) of.length = static_cast<int>(*v);
  if (of.length % 2 == 0) {
    fields.report("length", fmt::format("the integer {}", of.length),
                  "an odd length, which has a middle");
  }
  return of;
}

model::DigitalStage butterworth(Fields& fields) {
  model::Butterworth of;
  fields.require("cutoff", "a frequency, such as \"10 Hz\"");
  if (auto v = fields.integer("order", 1, 8)) of.order = static_cast<int>(*v);
  if (auto v = fields.plain("cutoff", unit("Hz"), above_zero())) of.cutoff = *v;
  return of;
}

model::DigitalStage notch(Fields& fields) {
  model::Notch of;
  fields.require("frequency", "a frequency, such as \"50 Hz\"");
  fields.require("width", "the distance of its -3 dB points, such as \"4 Hz\"");
  if (auto v = fields.plain("frequency", unit("Hz"), above_zero())) of.frequency = *v;
  if (auto v = fields.plain("width", unit("Hz"), above_zero())) of.width = *v;
  return of;
}

model::DigitalStage taps(Fields& fields) {
  model::FirFilter of;
  fields.require("taps", "taps = [0.25, 0.5, 0.25]");
  double sum = 0.0;
  for (const double tap : fields.numbers("taps", {})) {
    of.taps.push_back(tap);
    sum += tap;
  }
  if (fields.has("taps") && !(std::abs(sum) > 1e-9)) {
    fields.report("taps", "taps whose sum is 0", "taps that let a steady value through");
  }
  if (of.taps.empty()) of.taps = {1.0};
  return of;
}

model::DigitalStage read_stage(Fields fields) {
  fields.require("kind", "a kind of filter");
  const auto kind = fields.choice("kind", {"moving average", "block average", "exponential", "sinc",
                                           "median", "Butterworth", "notch", "taps"});
  model::DigitalStage result = model::MovingAverage{};
  if (kind == 0U) result = model::MovingAverage{read_length(fields, "length", longest)};
  if (kind == 1U) result = model::BlockAverage{read_length(fields, "length", longest)};
  if (kind == 2U) result = exponential(fields);
  if (kind == 3U) result = sinc(fields);
  if (kind == 4U) result = median(fields);
  if (kind == 5U) result = butterworth(fields);
  if (kind == 6U) result = notch(fields);
  if (kind == 7U) result = taps(fields);
  if (kind) fields.finish();
  return result;
}

}  // namespace

void read_digital(Fields& fields, model::Channel& channel) {
  if (fields.is_table("average")) {
    auto of = fields.table("average");
    auto length = read_length(*of, "count", 1 << 20);
    const bool running = of->flag("running").value_or(false);
    length.truncated = of->flag("truncated").value_or(false);
    if (length.truncated && (running || fields.has("filter"))) {
      of->report("truncated", "a truncated mean that goes through more filters",
                 "truncated beside count or time alone, without running and without a filter");
    }
    of->finish();
    if (running) {
      channel.filter.emplace_back(model::MovingAverage{length});
    } else {
      channel.average = length;
    }
  } else if (auto v = fields.integer("average", 1, 1 << 20)) {
    channel.average.count = static_cast<int>(*v);
  }
  if (fields.is_table("filter")) {
    channel.filter.push_back(read_stage(*fields.table("filter")));
  } else {
    for (auto& stage : fields.tables("filter"))
      channel.filter.push_back(read_stage(std::move(stage)));
  }
}

}  // namespace tamlo::io
