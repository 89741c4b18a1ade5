// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/calibrate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "bench.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/detail/overlays.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/names.hpp"
#include "tamlo/report/plot.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

struct CalibrateArguments : MeterArguments {
  std::string model = "best", order = "2", held_out, write;
  std::string coverage = "0.95", plot, picture;
  Form format{};
};

meter::CalibrationRequest request_of(const CalibrateArguments& arguments) {
  meter::CalibrationRequest request{.coverage = coverage_of(arguments.coverage)};
  request.model = named<meter::Model>(arguments.model);
  if (arguments.order != "2" && arguments.model != "polynomial")
    refuse("--order", "a model that is no polynomial", "--model polynomial");
  request.order = static_cast<int>(whole_of("--order", arguments.order, 2, 6));
  return request;
}

}  // namespace

BothWays both_ways(const Bench& bench, const model::Board& board, const std::string& channel,
                   const model::Correction& correction, double coverage) {
  auto changed = board;
  std::ranges::find(changed.channels, channel, &model::Channel::name)->correction = correction;
  const auto chain =
      meter::chain_as_metered(changed, channel, *model::find(changed.meters, bench.meter.name));
  return {
      .before = meter::compare(bench.evidence),
      .after = meter::compare(chain, bench.meter,
                              meter::corrected(correction, bench.evidence.readings()), coverage)};
}

namespace {

int run_calibrate(const CalibrateArguments& arguments) {
  auto board = io::load_board(arguments.boards);
  const auto request = request_of(arguments);
  const auto file = readings_of(arguments.data, board, arguments);
  const auto channels = wanted(file, arguments);
  provide_meters(board, channels, arguments);
  if (channels.size() != 1) {
    refuse("calibrate", fmt::format("readings of {} channels or units", channels.size()),
           "one: name it with --channel, in a file of one unit");
  }
  check_picture("--plot", arguments.plot, 1);
  io::OutputFiles outputs({arguments.plot, arguments.write});
  check_ending("--write", arguments.write, ".toml");
  const auto bench = bench_of(board, file, channels.front(), arguments, request.coverage);
  if (bench.evidence.of_quantity()) {
    refuse("calibrate", channels.front().channel + ", a quantity of several channels",
           "one of its channels: a correction is a channel's");
  }
  if (bench.evidence.chain().channel.correction) {
    refuse("calibrate", "a channel that has a correction already",
           "the board without it: the correction is made from readings as they were");
  }
  const auto& name = channels.front().channel;
  const auto calibration = meter::calibrate(bench.evidence, request);
  const auto ways = both_ways(bench, board, name, calibration.correction, request.coverage);
  result::ChannelCalibration result{
      .calibration = calibration,
      .before_after = {meter::before_after(arguments.data, ways.before, ways.after)}};
  if (!arguments.held_out.empty()) {
    BoardArguments other;
    other.channels = {name};
    const auto held = further_readings_of(arguments.held_out, board, arguments);
    for (const auto& each : wanted(held, other)) {
      const auto both = both_ways(bench_of(board, held, each, arguments, request.coverage), board,
                                  name, calibration.correction, request.coverage);
      result.before_after.push_back(
          meter::before_after(arguments.held_out, both.before, both.after));
    }
  }
  if (!arguments.plot.empty()) {
    const auto chart = arguments.picture == "residuals"
                           ? report::chart_of_residuals(calibration, ways.after)
                           : report::chart_of_before_after(ways.before, ways.after, calibration);
    outputs.write(arguments.plot, report::draw(chart, *report::image_of(arguments.plot)));
  }
  if (!arguments.write.empty()) outputs.write(arguments.write, io::overlay_of(calibration));
  outputs.finish();
  auto report = report::of(result);
  if (!arguments.write.empty()) {
    report.remarks.push_back(
        {fmt::format("written: {}; try: tamlo budget {} {} --channel {}", arguments.write,
                     arguments.boards.front(), arguments.write, name)});
  }
  show(result::Calibrations{{result}}, {report}, arguments.format);
  const bool met = std::ranges::all_of(
      calibration.residual_uncertainty,
      [](const meter::ResidualUncertainty& r) { return !r.limit || r.after <= *r.limit; });
  return met ? done : missed;
}

void declare_calibrate(Options& options, CalibrateArguments& a) {
  declare_meter(options, a);
  options.input("--held-out", a.held_out, {"FILE", "other readings to try the correction on"});
  options.group("Model");
  auto models = names_of<meter::Model>();
  models.insert(models.begin(), "best");
  options.choice("--model", a.model, models,
                 {"MODEL", "of the correction, best predicts rows best", "best"});
  options.option("--order", a.order, {"NUMBER", "of a polynomial, 2 to 6", "2"});
  options.group("Output");
  options.output("--write", a.write, {"FILE", "write the correction to FILE.toml"});
  options.coverage(a.coverage);
  options.plot(a.plot, a.picture, {"before-after", "residuals"}, "before-after");
  options.format(a.format);
}

}  // namespace

extern const Command calibrate_command{
    .name = "calibrate",
    .question = "what correction, how good is it, what remains?",
    .examples =
        {R"(calibrate demo/board.toml demo/readings.csv --channel pack_voltage)",
         R"(calibrate demo/board.toml demo/readings.csv --channel pack_voltage --model piecewise)"},
    .describe = [](Options& options) {
      return described<CalibrateArguments>(options, declare_calibrate, run_calibrate);
    }};

}  // namespace tamlo::tool
