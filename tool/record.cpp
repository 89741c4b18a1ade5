// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/record_file.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <stdexcept>

#include "records.hpp"
#include "tamlo/error.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/detail/measured.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/names.hpp"
#include "tamlo/report/plot.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

using record::Input;
using record::Shows;

// Says on a terminal how far a long record has been read.
class Progress {
 public:
  void count(std::size_t samples) {
    samples_ += samples;
    const auto now = std::chrono::steady_clock::now();
    if (!shown_ || now - last_ < std::chrono::milliseconds(500)) return;
    last_ = now;
    said_ = true;
    fmt::print(stderr, "\r{} samples ", samples_);
  }
  ~Progress() {
    if (said_) fmt::print(stderr, "\r{:30}\r", "");
  }

 private:
  bool shown_ = isatty(STDERR_FILENO) == 1, said_ = false;
  std::uint64_t samples_ = 0;
  std::chrono::steady_clock::time_point last_ = std::chrono::steady_clock::now();
};

std::vector<std::uint64_t> averages_of(const RecordArguments& arguments) {
  std::vector<std::uint64_t> result;
  for (const auto& text : arguments.averages) {
    result.push_back(whole_of("--averages", text, 1, signal::StabilityParts::most_held / 2));
  }
  return result;
}

std::vector<Captured> captures_of(const io::LoadedBoard& board, const io::RecordFile& file,
                                  const io::RecordLayout& layout, RecordArguments arguments) {
  if (arguments.channels.empty()) arguments.channels = file.names();
  std::vector<Captured> result;
  const auto chains = chains_of(board, arguments);
  for (std::size_t i = 0; i < chains.size(); ++i) {
    const auto& span = chains[i].channel.span;
    const auto& symbol = file.units()[i];
    bool readings = arguments.shows.empty() ? layout.real : arguments.shows == "readings";
    auto unit = span.unit;
    if (!symbol.empty() && symbol != "code") {
      unit = quantity::find_unit(symbol).value_or(quantity::label_unit(symbol));
      if (unit.dimension != span.unit.dimension || arguments.shows == "codes") {
        refuse(file.names()[i] + " [" + symbol + "]", "a unit that is not the channel's",
               "[code] or [" + span.unit.symbol + "]");
      }
      readings = true;
    }
    const auto shows = readings ? Shows::readings : Shows::codes;
    auto options = record::capture_options(chains[i], shows, input_of(arguments.input));
    options.averages = averages_of(arguments);
    if (const auto window = named<signal::Window>(arguments.window)) options.window = *window;
    result.push_back(
        {.chain = chains[i], .shows = shows, .unit = unit, .capture = signal::Capture(options)});
  }
  return result;
}

record::Feed feed_of(const RecordArguments& arguments, const chain::Chain& chain) {
  record::Feed feed{.input = input_of(arguments.input)};
  const auto& unit = chain.channel.span.unit;
  if (!arguments.low.empty()) feed.low = value_of("--low", arguments.low, unit);
  if (!arguments.high.empty()) feed.high = value_of("--high", arguments.high, unit);
  if (!arguments.step_at.empty()) feed.step_at = value_of("--step-at", arguments.step_at, {});
  feed.wanted = value_of("--inl-uncertainty", arguments.wanted, quantity::unit("LSB"));
  if (!(feed.wanted > 0.0)) refuse("--inl-uncertainty", arguments.wanted, "an uncertainty above 0");
  if (feed.low.has_value() != feed.high.has_value()) {
    refuse("--low", "one end of the input", "both: --low and --high");
  }
  return feed;
}

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
  auto drawn = report::plot(v, captures.front().capture, results.front().unit, picture, image);
  if (drawn) return *drawn;
  refuse("--plot-kind",
         fmt::format("\"{}\" of a {} record that does not have it", picture, name(v.feed.input)),
         "another picture, or a longer record");
}

}  // namespace

void Captured::add(std::span<const double> samples) {
  if (mistake) return;
  std::vector<double> si;
  if (shows == Shows::codes) {
    const auto odd =
        std::ranges::find_if(samples, [&](double x) { return !chain::occurs(chain.report, x); });
    if (odd != samples.end()) {
      mistake = *odd;
      return;
    }
  } else {
    si.resize(samples.size());
    quantity::to_si(samples, unit, si);
    samples = si;
  }
  try {
    capture.add(samples);
  } catch (const DataError& error) {
    refuse(chain.channel.name, fmt::format("cannot be computed: {}", error.what()),
           fmt::format("within four spans of it, {:.6g} to {:.6g} {}",
                       quantity::in_unit(chain.channel.span.low, unit),
                       quantity::in_unit(chain.channel.span.high, unit), unit.symbol));
  }
}

Taken take(const io::LoadedBoard& board, const RecordArguments& arguments) {
  const auto layout = layout_of(arguments.layout, arguments.data);
  auto wanted = arguments.columns.empty() ? arguments.channels : arguments.columns;
  if (!arguments.columns.empty() && arguments.columns.size() != arguments.channels.size()) {
    refuse("--column", "not one for each channel", "--channel and --column in pairs");
  }
  if (wanted.empty() && board.channels.size() == 1) wanted = {board.channels.front().name};
  const double coverage = coverage_of(arguments.coverage);
  io::RecordFile file(arguments.data, layout, wanted);
  for (const auto& note : file.notes()) fmt::print(stderr, "{}: {}\n", arguments.data, note);
  Taken result{.captures = captures_of(board, file, layout, arguments)};
  auto& captures = result.captures;
  check_picture("--plot", arguments.plot, arguments.picture == "chart" ? 1 : captures.size());
  if (!arguments.write.empty() && captures.size() != 1) {
    refuse("--write", "several channels", "one: name it with --channel");
  }
  {
    Progress progress;
    result.read = file.read([&](std::size_t which, std::span<const double> samples) {
      captures[which].add(samples);
      progress.count(samples.size());
    });
  }
  for (auto& capture : captures) {
    if (capture.mistake) {
      refuse(capture.chain.channel.name,
             fmt::format("{:.10g}, which is no code of it", *capture.mistake),
             "codes that occur, or --data readings");
    }
    double rate = result.read.rate.value_or(record::rate_of(capture.chain, capture.shows));
    if (!arguments.rate.empty()) {
      rate = value_of("--rate", arguments.rate, quantity::unit("Sa/s"));
    }
    try {
      result.channels.push_back(
          {.verdict = record::judge(capture.chain, capture.shows, feed_of(arguments, capture.chain),
                                    capture.capture, rate, coverage),
           .unit = capture.chain.channel.span.unit,
           .damage = result.read.damage,
           .times = result.read.times});
    } catch (const DataError& error) {
      refuse(capture.chain.channel.name, fmt::format("cannot be judged: {}", error.what()),
             "a record that shows it, or another --input");
    }
  }
  return result;
}

namespace {

int run_record(const RecordArguments& arguments) {
  const auto board = io::load_board(arguments.boards);
  check_ending("--write", arguments.write, ".toml");
  io::OutputFiles outputs({arguments.plot, arguments.write});
  const auto taken = take(board, arguments);
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
  options.board(a, {.file = {"RECORD", "CSV, WAV or raw numbers; - reads standard input"}});
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
  options.format(a.format);
}

}  // namespace

const Command record_command{
    .name = "record",
    .question = "what do captured samples show about noise, linearity, stability?",
    .examples = {R"(record demo/board.toml demo/steady.raw --layout int16 --channel pack_voltage)",
                 R"(record demo/board.toml demo/step.csv --input step)"},
    .describe = [](Options& options) {
      return described<RecordArguments>(options, declare_record, run_record);
    }};

}  // namespace tamlo::tool
