// SPDX-License-Identifier: Apache-2.0
#include "bench.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstdio>

#include "tamlo/io/diagnostics.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/quantity/notation.hpp"

namespace tamlo::tool {

void declare_meter(Options& options, MeterArguments& a, bool needs_readings) {
  options.board(a, {.file = {"READINGS.csv", "readings of the board beside a meter, as CSV"},
                    .file_needed = needs_readings});
  options.option("--meter", a.meter,
                 {"NAME", "the meter of the board that was used", "by its ranges"});
  options.option("--meter-accuracy", a.meter_accuracy,
                 {"LIMITS", "of a meter that the board does not describe: \"±0.5 % ±2 digits\""});
  options.repeated("--column", a.columns,
                   {"NAME=HEADING", "a column under another heading: \"meter=Value (V)\""});
  if (!needs_readings) return;
  options.input("--join", a.join.log,
                {"LOG.csv", "a log of the meter by a clock of its own; READINGS.csv has none"});
  options.option("--clock-offset", a.join.clock_offset,
                 {"TIME", "that the clock of that log is ahead", "found from steps"});
  options.option("--clock-drift", a.join.clock_drift,
                 {"PART", "that it runs faster, such as \"20 ppm\"", "found with the offset"});
  options.option("--rest", a.join.rest,
                 {"VALUE", "the most that the meter moves at rest", "by its digits and noise"});
  options.only_with("--join", {"--clock-offset", "--clock-drift", "--rest"});
}

io::ReadingsFile readings_of(const std::string& path, const model::Board& board,
                             const MeterArguments& arguments) {
  const auto& channels = arguments.channels;
  const auto& [log, offset, drift, rest] = arguments.join;
  io::ReadingsForm form{.channel = channels.size() == 1 ? channels.front() : "",
                        .columns = arguments.columns,
                        .meter_log = log,
                        .rest = rest};
  if (!offset.empty()) form.clock_offset = value_of("--clock-offset", offset, quantity::unit("s"));
  if (!drift.empty()) form.clock_drift = value_of("--clock-drift", drift, quantity::unit("ppm"));
  auto file = io::load_readings(path, board, form);
  for (const auto& note : file.notes) fmt::print(stderr, "{}: {}\n", path, note);
  for (const auto& column : file.ignored) {
    fmt::print(stderr, "{}: column \"{}\" is not used\n", path, column);
  }
  return file;
}

io::ReadingsFile further_readings_of(const std::string& path, const model::Board& board,
                                     MeterArguments arguments) {
  arguments.join = {};
  return readings_of(path, board, arguments);
}

std::vector<io::ChannelReadings> wanted(const io::ReadingsFile& file,
                                        const BoardArguments& arguments) {
  if (arguments.channels.empty()) return file.channels;
  std::vector<std::string> known;
  for (const auto& channel : file.channels) known.push_back(channel.channel);
  known.erase(std::unique(known.begin(), known.end()), known.end());
  std::vector<io::ChannelReadings> result;
  for (const auto& name : arguments.channels) {
    const auto before = result.size();
    std::ranges::copy_if(file.channels, std::back_inserter(result),
                         [&](const auto& part) { return part.channel == name; });
    if (result.size() > before) continue;
    throw io::BadInput({{.file = file.path,
                         .line = 1,
                         .column = 1,
                         .path = "channel",
                         .problem = fmt::format("no readings of \"{}\"", name),
                         .hint = io::one_of(name, known)}});
  }
  return result;
}

namespace {

model::Meter undescribed(const model::Board& board, const io::ChannelReadings& readings,
                         const std::string& accuracy) {
  const auto& unit = model::span_named(board, readings.channel)->unit;
  try {
    return io::undescribed_meter(readings, unit, accuracy);
  } catch (const quantity::NotationError& error) {
    refuse("--meter-accuracy", error.problem, error.hint);
  }
}

}  // namespace

void provide_meters(model::Board& board, const std::vector<io::ChannelReadings>& channels,
                    const MeterArguments& arguments) {
  const auto& accuracy = arguments.meter_accuracy;
  if (!accuracy.empty() && !arguments.meter.empty()) {
    refuse("--meter-accuracy", "--meter beside it", "one of the two");
  }
  for (const auto& channel : channels) {
    if (accuracy.empty() && (!arguments.meter.empty() || io::has_meter_for(board, channel)))
      continue;
    auto meter = undescribed(board, channel, accuracy);
    if (model::find(board.meters, meter.name) != nullptr) continue;
    if (accuracy.empty()) {
      fmt::print(stderr,
                 "{}: the board has no meter for it: its readings are assumed exact to the last "
                 "digit; give its accuracy, --meter-accuracy \"±0.5 % ±2 digits\"\n",
                 channel.channel);
    }
    board.meters.push_back(std::move(meter));
  }
}

Bench bench_of(const model::Board& board, const io::ReadingsFile& file,
               const io::ChannelReadings& readings, const MeterArguments& arguments,
               double coverage) {
  auto name = arguments.meter;
  if (!arguments.meter_accuracy.empty()) {
    name = undescribed(board, readings, arguments.meter_accuracy).name;
  }
  return io::beside_meter(board, arguments.boards.front(), name, file, readings, coverage);
}

}  // namespace tamlo::tool
