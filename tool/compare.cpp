// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/compare.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstdio>

#include "job.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/io/json.hpp"
#include "tamlo/io/readings_file.hpp"
#include "tamlo/report/plot.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

// The readings that were asked for; a channel that has none is bad input.
std::vector<io::ChannelReadings> wanted(const io::ReadingsFile& file, const Arguments& arguments) {
  if (arguments.channels.empty()) return file.channels;
  std::vector<std::string> known;
  for (const auto& channel : file.channels) known.push_back(channel.channel);
  std::vector<io::ChannelReadings> result;
  for (const auto& name : arguments.channels) {
    const auto found = std::ranges::find(file.channels, name, &io::ChannelReadings::channel);
    if (found == file.channels.end()) {
      throw io::BadInput({{.file = arguments.readings,
                           .line = 1,
                           .column = 1,
                           .key = "channel",
                           .found = fmt::format("no readings of \"{}\"", name),
                           .allowed = io::one_of(name, known)}});
    }
    result.push_back(*found);
  }
  return result;
}

}  // namespace

int run_compare(const Arguments& arguments) {
  const auto board = io::load_board(arguments.boards);
  if (arguments.readings.empty()) {
    throw io::BadInput({{.file = "command line",
                         .key = "compare",
                         .found = "no readings file",
                         .allowed = "tamlo compare BOARD READINGS"}});
  }
  const double coverage = coverage_of(arguments);
  const auto file = io::load_readings(arguments.readings, board);
  for (const auto& column : file.ignored) {
    fmt::print(stderr, "{}: column \"{}\" is not used\n", arguments.readings, column);
  }
  const auto channels = wanted(file, arguments);
  check_picture("--plot", arguments.plot, channels.size());

  std::vector<meter::Comparison> comparisons;
  for (const auto& of : channels) {
    const auto& meter =
        io::choose_meter(board, arguments.boards.front(), arguments.meter, file, of);
    comparisons.push_back(
        meter::compare(chain::build(board, of.channel), meter, of.readings, coverage));
  }
  if (!arguments.plot.empty()) report::plot(comparisons.front(), arguments.plot);
  if (wants_json(arguments)) {
    print(io::to_json(comparisons));
  } else {
    std::vector<report::Report> reports;
    for (const auto& comparison : comparisons) reports.push_back(report::of(comparison));
    print(reports, arguments);
  }
  const auto fails = [](const meter::Comparison& c) {
    return c.summary.verdict == meter::Verdict::fail;
  };
  return std::ranges::any_of(comparisons, fails) ? missed : done;
}

}  // namespace tamlo::tool
