// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/record_file.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "records.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/detail/overlays.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/names.hpp"
#include "tamlo/report/plot.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

using record::Input;
using record::Shows;

// A chart holds all channels, any other picture one.
std::string picture_of(const Taken& taken, const RecordArguments& arguments) {
  const auto& [results, captures, read] = taken;
  const auto& v = results.front().verdict;
  const auto picture = arguments.picture.empty() ? report::usual_picture(v) : arguments.picture;
  const auto image = *report::image_of(arguments.plot);
  if (picture == "chart") {
    std::vector<report::Charted> charts;
    for (std::size_t i = 0; i < results.size(); ++i) {
      charts.push_back({results[i].verdict, captures[i].capture.chart(), results[i].unit});
    }
    std::optional<quantity::Range> scale;
    if (!arguments.scale.empty()) {
      const bool codes = v.shows == Shows::codes;
      scale = range_of("--scale", arguments.scale, codes ? quantity::Unit{} : results.front().unit);
    }
    return report::plot_charts(charts, scale, image);
  }
  const auto chart = report::chart_of(v, captures.front().capture, results.front().unit, picture);
  if (chart) return report::draw(*chart, image);
  refuse("--plot-kind",
         fmt::format("\"{}\" of a {} record that does not have it", picture, name(v.feed.input)),
         "another picture, or a longer record");
}

int run_record(const RecordArguments& arguments) {
  check_ending("--write", arguments.write, ".toml");
  io::OutputFiles outputs({arguments.plot, arguments.write});
  const auto taken = arguments.boards.empty() ? take_alone(arguments)
                                              : take(io::load_board(arguments.boards), arguments);
  const auto& [results, captures, read] = taken;
  if (!arguments.plot.empty()) {
    outputs.write(arguments.plot, picture_of(taken, arguments));
  }
  io::MeasuredFiles measured;
  if (!arguments.write.empty()) {
    measured = io::overlay_of(results.front().verdict, captures.front().chain, arguments.write);
    outputs.write(arguments.write, measured.overlay);
  }
  if (!measured.table.empty()) {
    outputs.add(measured.table_path, measured.table_begins);
    outputs.write(measured.table_path, measured.table);
  }
  outputs.finish();
  std::vector<report::Report> reports;
  for (const auto& result : results) reports.push_back(report::of(result));
  if (!arguments.write.empty()) {
    reports.back().remarks.push_back(
        {fmt::format("written: {}{}; try: tamlo budget {} {} --channel {}", arguments.write,
                     measured.table.empty() ? "" : " and " + measured.table_path,
                     arguments.boards.front(), arguments.write, results.front().verdict.channel)});
  }
  show(result::Records{results}, reports, arguments.format);
  if (!read.damage.empty()) {
    fmt::print(stderr, "{}\nonly the {} samples before it were used\n", read.damage, read.samples);
    return damaged;
  }
  return std::ranges::all_of(results, [](const auto& r) { return r.verdict.meets_prediction(); })
             ? done
             : missed;
}

void declare_record(Options& options, RecordArguments& a) {
  options.board(a, {.file = {"RECORD", "CSV, WAV or raw numbers; - reads standard input"},
                    .board_needed = false});
  options.repeated("--column", a.columns,
                   {"NAME", "the column of each channel, where it is called otherwise"});
  options.option("--layout", a.layout, {"LAYOUT", io::record_layouts, "by the name"});
  options.choice("--data", a.shows, {"codes", "readings"},
                 {"KIND", "what was captured", "by the heading"});
  options.option("--rate", a.rate,
                 {"RATE", "of the samples, such as \"1 kSa/s\"", "by the file or the board"});
  options.group("What the channel was fed with");
  options.choice("--input", a.input, names_of<Input>(), {"KIND", "of input", "steady"});
  options.option("--low", a.low, {"VALUE", "low end of a ramp, a sine or a step"});
  options.option("--high", a.high, {"VALUE", "high end of it"});
  options.option("--step-at", a.step_at, {"SAMPLE", "at which the step came", "by the record"});
  options.group("Analysis");
  options.option("--inl-uncertainty", a.wanted,
                 {"LSB", "standard uncertainty of INL that is asked for", "0.1 LSB"});
  options.choice("--window", a.window, names_of<signal::Window>(),
                 {"WINDOW", "of the spectrum", "blackman-harris"});
  options.repeated("--averages", a.averages,
                   {"SAMPLES", "also the stability of such averages; may be repeated"});
  options.coverage(a.coverage);
  options.group("Output");
  options.output("--write", a.write, {"FILE", "write what was measured to FILE.toml"});
  options.plot(a.plot, a.picture,
               {"histogram", "spectrum", "stability", "linearity", "step", "chart"},
               "by the input");
  options.option("--scale", a.scale, {"RANGE", "of a chart, such as \"0..60 V\"", "by the values"});
  options.only_with("--plot", {"--scale"});
  options.format(a.format);
}

}  // namespace

extern const Command record_command{
    .name = "record",
    .question = "what do captured samples show about noise, linearity, stability?",
    .examples = {R"(record demo/board.toml demo/steady.raw --layout int16 --channel pack_voltage)",
                 R"(record demo/sine.wav --input sine)"},
    .describe = [](Options& options) {
      return described<RecordArguments>(options, declare_record, run_record);
    }};

}  // namespace tamlo::tool
