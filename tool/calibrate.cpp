// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/calibrate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "bench.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/correction.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/io/output_file.hpp"
#include "tamlo/report/plot.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

const std::vector<meter::Model> models{meter::Model::offset,        meter::Model::gain,
                                       meter::Model::two_point,     meter::Model::line,
                                       meter::Model::weighted_line, meter::Model::both_axes,
                                       meter::Model::polynomial,    meter::Model::piecewise};

meter::CalibrationRequest request_of(const Arguments& arguments) {
  meter::CalibrationRequest request{.coverage = coverage_of(arguments)};
  for (const auto model : models) {
    if (name(model) == arguments.model) request.model = model;
  }
  request.order = static_cast<int>(whole_of("--order", arguments.order, 2, 6));
  return request;
}

// The rows of a file beside the meter, as they are and with the correction.
struct BothWays {
  meter::Comparison before, after;
};
BothWays both_ways(const Bench& bench, const model::Board& board, const std::string& channel,
                   const model::Correction& correction, double coverage) {
  auto changed = board;
  std::ranges::find(changed.channels, channel, &model::Channel::name)->correction = correction;
  const auto chain =
      meter::chain_as_metered(changed, channel, *model::find(changed.meters, bench.meter.name));
  return {.before = meter::compare(bench.chain, bench.meter, bench.rows, coverage),
          .after = meter::compare(chain, bench.meter, meter::corrected(correction, bench.rows),
                                  coverage)};
}

}  // namespace

int run_calibrate(const Arguments& arguments) {
  auto board = io::load_board(arguments.boards);
  const auto request = request_of(arguments);
  const auto file = readings_of(arguments.readings, board, arguments);
  const auto channels = wanted(file, arguments);
  provide_meters(board, channels, arguments);
  if (channels.size() != 1) {
    refuse("calibrate", fmt::format("readings of {} channels or units", channels.size()),
           "one: name it with --channel, in a file of one unit");
  }
  check_picture("--plot", arguments.plot, 1);
  io::OutputFiles outputs({arguments.plot, arguments.write});
  if (!arguments.write.empty() && !arguments.write.ends_with(".toml")) {
    refuse("--write", fmt::format("\"{}\"", arguments.write), "a file that ends in .toml");
  }
  const auto bench = bench_of(board, file, channels.front(), arguments);
  if (bench.chain.channel.correction) {
    refuse("calibrate", "a channel that has a correction already",
           "the board without it: the correction is made from readings as they were");
  }
  const auto& name = channels.front().channel;
  const auto calibration = meter::calibrate(bench.chain, bench.meter, bench.rows, request);
  const auto ways = both_ways(bench, board, name, calibration.correction, request.coverage);
  result::ChannelCalibration result{
      .calibration = calibration,
      .before_after = {result::before_after(arguments.readings, ways.before, ways.after)}};
  if (!arguments.held_out.empty()) {
    auto other = arguments;
    other.channels = {name};
    const auto held = readings_of(arguments.held_out, board, arguments);
    for (const auto& of : wanted(held, other)) {
      const auto both = both_ways(bench_of(board, held, of, arguments), board, name,
                                  calibration.correction, request.coverage);
      result.before_after.push_back(
          result::before_after(arguments.held_out, both.before, both.after));
    }
  }
  if (!arguments.plot.empty()) {
    const auto image = *report::image_of(arguments.plot);
    outputs.write(arguments.plot,
                  arguments.picture == "residuals"
                      ? report::plot_residuals(calibration, ways.after, image)
                      : report::plot_before_after(ways.before, ways.after, calibration, image));
  }
  if (!arguments.write.empty()) outputs.write(arguments.write, io::overlay_of(calibration));
  outputs.finish();
  auto report = report::of(result);
  if (!arguments.write.empty()) {
    report.remarks.push_back(
        {fmt::format("written: {}; try: tamlo budget {} {} {}", arguments.write,
                     arguments.boards.front(), arguments.write, name)});
  }
  show(result::Calibrations{{result}}, {report}, arguments);
  const bool met = std::ranges::all_of(
      calibration.residual_uncertainty,
      [](const meter::ResidualUncertainty& r) { return !r.limit || r.after <= *r.limit; });
  return met ? done : missed;
}

}  // namespace tamlo::tool
