// SPDX-License-Identifier: Apache-2.0
#include "records.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <functional>

#include "console.hpp"
#include "tamlo/error.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/names.hpp"

namespace tamlo::tool {
namespace {

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
  bool shown_ = is_terminal(stderr), said_ = false;
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

signal::Capture::Options with_asked(signal::Capture::Options options,
                                    const RecordArguments& arguments) {
  options.averages = averages_of(arguments);
  if (const auto window = named<signal::Window>(arguments.window)) options.window = *window;
  return options;
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
      unit = quantity::unit_or_label(symbol);
      if (unit.dimension != span.unit.dimension || arguments.shows == "codes") {
        refuse(file.names()[i] + " [" + symbol + "]", "a unit that is not the channel's",
               "[code] or [" + span.unit.symbol + "]");
      }
      readings = true;
    }
    const auto shows = readings ? Shows::readings : Shows::codes;
    result.push_back(
        {.chain = chains[i],
         .shows = shows,
         .unit = unit,
         .capture = signal::Capture(with_asked(
             record::capture_options(chains[i], shows, input_of(arguments.input)), arguments))});
  }
  return result;
}

// Refuses what the input does not have.
void check_input(const RecordArguments& arguments) {
  const auto input = input_of(arguments.input);
  if (input != record::Input::step && !arguments.step_at.empty())
    refuse("--step-at", "an input that is no step", "--input step");
  if (input == record::Input::steady && !arguments.low.empty())
    refuse("--low", "a steady input", "--input ramp, sine or step");
}

record::Feed feed_of(const RecordArguments& arguments, const chain::Chain& chain) {
  check_input(arguments);
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

}  // namespace

void Captured::add(std::span<const double> samples) {
  if (mistake) return;
  std::vector<double> si;
  if (shows == Shows::codes) {
    const auto odd = std::ranges::find_if(samples, [&](double x) {
      return alone ? x != std::floor(x) : !chain::occurs(chain.report, x);
    });
    if (odd != samples.end()) {
      mistake = *odd;
      return;
    }
  } else {
    si.resize(samples.size());
    quantity::to_si(samples, unit, si);
    samples = si;
  }
  if (alone && capture.count() == 0) {
    auto options = record::capture_options(shows, input, samples);
    options.averages = capture.options().averages;
    options.window = capture.options().window;
    capture = signal::Capture(options);
  }
  try {
    capture.add(samples);
  } catch (const DataError& error) {
    refuse(chain.channel.name, fmt::format("cannot be computed: {}", error.what()),
           alone ? std::string("values that lie nearer together")
                 : fmt::format("within four spans of it, {:.6g} to {:.6g} {}",
                               quantity::in_unit(chain.channel.span.low, unit),
                               quantity::in_unit(chain.channel.span.high, unit), unit.symbol));
  }
}

namespace {

// Hands a file to the captures of its columns.
void read_into(Taken& taken, io::RecordFile& file, const RecordArguments& arguments) {
  auto& captures = taken.captures;
  check_picture("--plot", arguments.plot, arguments.picture == "chart" ? 1 : captures.size());
  {
    Progress progress;
    taken.read = file.read([&](std::size_t which, std::span<const double> samples) {
      captures[which].add(samples);
      progress.count(samples.size());
    });
  }
  for (const auto& capture : captures) {
    if (!capture.mistake) continue;
    refuse(capture.chain.channel.name,
           fmt::format("{:.10g}, which is no code of it", *capture.mistake),
           "codes that occur, or --data readings");
  }
}

void add_verdict(Taken& taken, const std::string& name, const quantity::Unit& unit,
                 const std::function<record::Verdict()>& verdict) {
  try {
    taken.channels.push_back({.verdict = verdict(),
                              .unit = unit,
                              .damage = taken.read.damage,
                              .times = taken.read.times});
  } catch (const DataError& error) {
    refuse(name, fmt::format("cannot be judged: {}", error.what()),
           "a record that shows it, or another --input");
  }
}

// The rate that was asked for, else that of the file, else another.
double rate_of(const Taken& taken, const RecordArguments& arguments, double otherwise) {
  if (arguments.rate.empty()) return taken.read.rate.value_or(otherwise);
  return value_of("--rate", arguments.rate, quantity::unit("Sa/s"));
}

}  // namespace

Taken take_alone(const RecordArguments& arguments) {
  if (!(arguments.low.empty() && arguments.high.empty()))
    refuse("--low", "no board", "a board beside the record: it says what its codes stand for");
  if (!arguments.write.empty())
    refuse("--write", "no board", "a board beside the record: what is written overrides its keys");
  check_input(arguments);
  io::RecordFile file(arguments.data, layout_of(arguments.layout, arguments.data),
                      arguments.columns.empty() ? arguments.channels : arguments.columns);
  for (const auto& note : file.notes()) fmt::print(stderr, "{}: {}\n", arguments.data, note);
  Taken result;
  for (std::size_t i = 0; i < file.names().size(); ++i) {
    const auto& symbol = file.units()[i];
    const bool codes =
        arguments.shows.empty() ? file.bits() > 0 || symbol == "code" : arguments.shows == "codes";
    auto& captured = result.captures.emplace_back();
    captured.shows = codes ? Shows::codes : Shows::readings;
    captured.capture = signal::Capture(with_asked({}, arguments));
    captured.alone = true;
    captured.input = input_of(arguments.input);
    captured.chain.channel.name = file.names()[i];
    if (!symbol.empty() && symbol != "code") captured.unit = quantity::unit_or_label(symbol);
  }
  read_into(result, file, arguments);
  record::Feed feed{.input = input_of(arguments.input)};
  if (!arguments.step_at.empty()) feed.step_at = value_of("--step-at", arguments.step_at, {});
  const auto bits = file.bits() > 0 ? std::optional(file.bits()) : std::nullopt;
  for (const auto& captured : result.captures) {
    const auto& name = captured.chain.channel.name;
    add_verdict(result, name, captured.unit, [&] {
      return record::describe(
          name, captured.shows, feed, captured.capture, rate_of(result, arguments, 0.0),
          captured.shows == Shows::codes ? bits : std::nullopt, coverage_of(arguments.coverage));
    });
  }
  return result;
}

Taken take(const io::LoadedBoard& board, const RecordArguments& arguments) {
  const auto layout = layout_of(arguments.layout, arguments.data);
  auto wanted = arguments.columns.empty() ? arguments.channels : arguments.columns;
  if (!arguments.columns.empty() && arguments.columns.size() != arguments.channels.size()) {
    refuse("--column", "not one for each channel", "--channel and --column in pairs");
  }
  if (wanted.empty() && board.channels.size() == 1) wanted = {board.channels.front().name};
  if (wanted.empty() && layout.kind != io::RecordLayout::Kind::csv) {
    refuse("--channel", "no names for the samples", "--channel with the channel that they are of");
  }
  const double coverage = coverage_of(arguments.coverage);
  io::RecordFile file(arguments.data, layout, wanted);
  for (const auto& note : file.notes()) fmt::print(stderr, "{}: {}\n", arguments.data, note);
  Taken result{.captures = captures_of(board, file, layout, arguments)};
  if (!arguments.write.empty() && result.captures.size() != 1) {
    refuse("--write", "several channels", "one: name it with --channel");
  }
  read_into(result, file, arguments);
  for (auto& capture : result.captures) {
    const auto& chain = capture.chain;
    const double rate = rate_of(result, arguments, record::rate_of(chain, capture.shows));
    add_verdict(result, chain.channel.name, chain.channel.span.unit, [&] {
      return record::judge(chain, capture.shows, feed_of(arguments, chain), capture.capture, rate,
                           coverage);
    });
  }
  return result;
}

}  // namespace tamlo::tool
