// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>
#include <algorithm>
#include <chrono>
#include <cmath>
#include <limits>
#include <memory>
#include <optional>

#include "bench.hpp"
#include "console.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/detail/log.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/link/detail/measuring.hpp"
#include "tamlo/meter/bench_plan.hpp"
#include "tamlo/quantity/notation.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

using link::Position;

struct MeasureArguments : BoardArguments {
  std::string meter, source, write, positions, longest = "20 s", coverage = "0.95";
  Form format{};
  std::vector<std::string> at, units;
  bool plan = false, both_ways = false, by_hand = false;
};

// What is measured, beside what.
struct Task {
  io::LoadedBoard board;
  std::string channel{};
  const model::Meter* meter = nullptr;
  const model::SourceInstrument* source = nullptr;
  quantity::Unit unit{};
};

Task task_of(const MeasureArguments& arguments) {
  Task task{.board = io::load_board(arguments.boards)};
  const auto chains = chains_of(task.board, arguments);
  if (chains.size() != 1) {
    refuse("measure", fmt::format("{} channels", chains.size()), "one: name it with --channel");
  }
  task.channel = chains.front().channel.name;
  task.unit = chains.front().channel.span.unit;
  task.meter = &io::choose_meter(task.board, arguments.boards.front(), arguments.meter, {},
                                 {.channel = task.channel});
  if (arguments.by_hand || task.board.sources.empty()) return task;
  task.source = arguments.source.empty() && task.board.sources.size() == 1
                    ? &task.board.sources.front()
                    : &named_in(task.board.sources, "--source", arguments.source);
  if (task.source->range.unit.dimension != task.unit.dimension) {
    refuse("--source",
           fmt::format("{}, which sets {}", task.source->name, task.source->range.unit.symbol),
           fmt::format("a source of {}, or --by-hand", task.unit.symbol));
  }
  return task;
}

std::vector<Position> positions_of(const MeasureArguments& arguments, const Task& task) {
  std::vector<double> places;
  const auto& span = model::find(task.board.channels, task.channel)->span;
  for (const auto& text : arguments.at) places.push_back(value_of("--at", text, task.unit));
  if (places.empty() && !arguments.positions.empty()) {
    places = meter::even_positions(span, whole_of("--positions", arguments.positions, 1, 1000));
  } else if (places.empty()) {
    for (const auto& row : meter::plan_bench(task.board, task.channel, *task.meter).positions) {
      places.push_back(row.at);
    }
  }
  std::vector<Position> result;
  using meter::Direction;
  const auto units = arguments.units.empty() ? std::vector<std::string>{""} : arguments.units;
  for (const auto& unit : units) {
    for (const double at : places) {
      result.push_back({.at = at,
                        .direction = arguments.both_ways ? Direction::rising : Direction::unknown,
                        .unit = unit});
    }
    if (!arguments.both_ways) continue;
    for (auto at = places.rbegin(); at != places.rend(); ++at) {
      result.push_back({.at = *at, .direction = Direction::falling, .unit = unit});
    }
  }
  return result;
}

std::string range_text(const model::Meter& meter, std::size_t range) {
  return quantity::to_string(meter.ranges[range].full_scale);
}

// The file that grows row by row, and what stands in it.
class ReadingsLog {
 public:
  ReadingsLog(const MeasureArguments& arguments, const Task& task)
      : path_(arguments.write), task_(task), log_(arguments.write, heading()) {
    if (log_.torn() > 0) {
      print(fmt::format("{}: a torn row of {} bytes at its end was cut off\n", path_, log_.torn()));
    }
  }

  /// What is still to be measured: a position is done once for each row near it.
  std::vector<Position> remaining(std::vector<Position> positions, double tolerance) const {
    if (log_.rows() == 0) return positions;
    const auto chain = meter::chain_as_metered(task_.board, task_.channel, *task_.meter);
    for (const auto& each : io::load_readings(path_, task_.board).channels) {
      if (each.channel != task_.channel) continue;
      for (const auto& row : each.readings) {
        const double at = meter::quantity_of(chain, *task_.meter, row.meter);
        const auto off = [&](const Position& position) {
          const bool other = position.unit != each.unit || position.direction != row.direction;
          return other ? std::numeric_limits<double>::infinity() : std::abs(at - position.at);
        };
        const auto nearest = std::ranges::min_element(positions, {}, off);
        if (nearest != positions.end() && off(*nearest) <= tolerance) positions.erase(nearest);
      }
    }
    return positions;
  }
  std::uint64_t rows() const { return log_.rows(); }

  /// On the disk when it returns.
  void add(const link::Taken& taken) {
    const auto& r = taken.reading;
    const auto difference = quantity::difference_unit(task_.unit);
    const auto shown = meter_unit();
    const char* const direction = r.direction == meter::Direction::rising    ? "rising"
                                  : r.direction == meter::Direction::falling ? "falling"
                                                                             : "";
    log_.row(fmt::format(
        "{},{:.12g},{},{:.12g},{},{},{},{},{},{}", task_.channel, quantity::in_unit(r.meter, shown),
        r.meter_range ? range_text(*task_.meter, *r.meter_range) : "",
        quantity::in_unit(r.reading, task_.unit), r.repeats,
        r.spread ? fmt::format("{:.6g}", quantity::in_unit(*r.spread, difference)) : "",
        r.meter_repeats.value_or(1), direction, io::utc_now(), io::csv_cell(r.unit)));
    log_.sync();
  }

 private:
  std::string path_;
  const Task& task_;
  io::Log log_;

  quantity::Unit meter_unit() const {
    return task_.meter->touches == model::Touches::pin ? quantity::unit("V") : task_.unit;
  }
  std::string heading() const {
    return fmt::format(
        "channel,meter [{}],meter_range,reading [{}],repeats,spread "
        "[{}],meter_repeats,direction,time,unit",
        meter_unit().symbol, task_.unit.symbol, quantity::difference_unit(task_.unit).symbol);
  }
};

// Lines that a user types; nobody where standard input is no terminal.
class Typed {
 public:
  bool entered() {
    std::string line;
    return listened_ && listened_->read_line(line, link::Clock::now());
  }
  /// False where nobody answers.
  bool ask(const std::string& text) {
    print(text);
    auto from = listened_
                    ? nullptr
                    : link::open({.name = "standard input", .at = model::StreamFile{.path = "-"}});
    auto& stream = listened_ ? *listened_ : *from;
    std::string line;
    while (!interrupted()) {
      if (stream.read_line(line, link::Clock::now() + std::chrono::milliseconds(100))) return true;
      if (stream.ended()) return false;
    }
    return false;
  }

 private:
  std::unique_ptr<link::Stream> listened_ =
      is_terminal(stdin) ? link::open({.name = "keyboard", .at = model::StreamFile{.path = "-"}})
                         : nullptr;
};

// Says what is to be done, and what it waits for.
class Guide {
 public:
  Guide(const Task& task, const MeasureArguments& arguments)
      : task_(task), quiet_(arguments.format != "text"), live_(is_terminal(stdout) && !quiet_) {}

  void begin(const Position& position, std::size_t number, std::size_t index) {
    if (quiet_) return;
    say(report::instruction(task_.channel, position.at, task_.unit, position.direction, number,
                            index, task_.source != nullptr));
  }
  void watch(const link::Progress& progress) {
    if (live_) say_over(in_words(progress));
  }
  void taken(const link::Taken& taken) {
    if (quiet_) return;
    const auto& range = taken.reading.meter_range;
    say((live_ ? "\r\x1b[K" : "") + std::string("   ") + report::line_of(taken.row, task_.unit) +
        (range ? ", the meter on its range of " + range_text(*task_.meter, *range) : "") + "\n");
  }
  void left(const link::Progress& progress) {
    if (quiet_) return;
    say((live_ ? "\r\x1b[K" : "") + std::string("   not taken: ") + in_words(progress) + "\n");
  }

 private:
  const Task& task_;
  bool quiet_, live_;

  std::string in_words(const link::Progress& progress) const {
    if (!progress.lost.empty()) return "the source cannot be set: " + progress.lost;
    return report::waiting(progress.waits, progress.shown, progress.reading, progress.position.at,
                           progress.elsewhere, task_.unit);
  }
};

// Links that were lost, by their names.
void say_losses(const std::vector<link::LinkState>& links) {
  for (const auto& link : links) {
    if (link.lost == 0) continue;
    fmt::print(stderr, "{}\n", report::line_of_loss(link.name, link.lost, link.problem));
  }
}

struct Measured {
  std::size_t left = 0;    // positions that could not be taken
  std::uint64_t rows = 0;  // of the file
};

// All positions that are left.
Measured measure_all(const MeasureArguments& arguments, const Task& task) {
  if (task.meter->link.empty()) {
    refuse("measure", fmt::format("meter {}, which has no link", task.meter->name),
           "link = \"NAME\" in its section, and a [link.NAME]");
  }
  catch_interrupts();
  const auto all = positions_of(arguments, task);
  link::Measuring measuring(
      task.board, task.channel, *task.meter,
      {.longest = value_of("--longest", arguments.longest, quantity::unit("s")),
       .source = task.source});
  ReadingsLog log(arguments, task);
  const auto positions = log.remaining(all, measuring.tolerance());
  Guide guide(task, arguments);
  Typed typed;
  if (positions.size() < all.size() && arguments.format == "text") {
    print(fmt::format("{}: {} of {} positions are there already\n", arguments.write,
                      all.size() - positions.size(), all.size()));
  }
  std::size_t taken_now = 0, number = all.size() - positions.size();
  std::string unit = positions.empty() ? "" : positions.front().unit;
  for (const auto& position : positions) {
    if (position.unit != unit &&
        !typed.ask(fmt::format("connect unit {}, then Enter\n", position.unit))) {
      break;
    }
    unit = position.unit;
    guide.begin(position, ++number, all.size());
    const auto taken = measuring.take(position, [&](const link::Progress& progress) {
      guide.watch(progress);
      if (interrupted()) return link::Measuring::Wish::leave;
      return typed.entered() ? link::Measuring::Wish::take : link::Measuring::Wish::go_on;
    });
    if (taken) {
      log.add(*taken);
      guide.taken(*taken);
      ++taken_now;
    } else {
      guide.left(measuring.progress());
    }
    if (interrupted()) break;
  }
  say_losses(measuring.links());
  return {.left = positions.size() - taken_now, .rows = log.rows()};
}

int run_measure(const MeasureArguments& arguments) {
  const auto task = task_of(arguments);
  const double coverage = coverage_of(arguments.coverage);
  if (arguments.plan) {
    const auto count =
        arguments.positions.empty() ? 0 : whole_of("--positions", arguments.positions, 1, 1000);
    const auto plan = meter::plan_bench(task.board, task.channel, *task.meter, count, coverage);
    show(plan, {report::of(plan)}, arguments.format);
    return done;
  }
  if (arguments.write.empty()) refuse("--write", "no file", "--write readings.csv, or --plan");
  Measured measured;
  try {
    measured = measure_all(arguments, task);
  } catch (const link::LinkError& error) {
    throw io::EnvironmentError(error.what());
  }
  if (measured.left > 0) {
    fmt::print(stderr, "{} position{} not taken; run it again to continue with them\n",
               measured.left, measured.left == 1 ? " was" : "s were");
  }
  if (measured.rows == 0) return damaged;
  MeterArguments as_compared;
  static_cast<BoardArguments&>(as_compared) = arguments;
  as_compared.meter = task.meter->name;
  const int verdict =
      show_comparisons(task.board, arguments.write, as_compared, coverage, arguments.format);
  return measured.left == 0 ? verdict : damaged;
}

void declare_measure(Options& options, MeasureArguments& a) {
  options.board(a);
  options.option("--meter", a.meter,
                 {"NAME", "the meter of the board, which has a link", "by its ranges"});
  options.option("--source", a.source,
                 {"NAME", "that sets the positions", "the only one of the board"});
  options.flag("--by-hand", a.by_hand,
               {"", "the positions are set by hand, whatever the board has"});
  options.group("Positions");
  options.repeated("--at", a.at, {"VALUE", "a position; may be repeated", "those of the plan"});
  options.option("--positions", a.positions,
                 {"NUMBER", "number of positions, evenly over the span"});
  options.flag("--both-ways", a.both_ways, {"", "up and then down, for hysteresis"});
  options.repeated("--unit", a.units, {"NAME", "of the board; several, one after the other"});
  options.flag("--plan", a.plan, {"", "print the plan alone: what decides, which faults it shows"});
  options.not_with("--at", {"--positions", "--plan"});
  options.not_with("--plan", {"--both-ways"});
  options.option("--longest", a.longest, {"TIME", "for one position", "20 s"});
  options.group("Output");
  options.output("--write", a.write,
                 {"FILE", "write readings to FILE; resumes an interrupted run"});
  options.coverage(a.coverage);
  options.format(a.format);
}

}  // namespace

extern const Command measure_command{
    .name = "measure",
    .question = "take readings beside a meter, position by position",
    .examples = {"measure demo/board.toml --channel pack_voltage --plan",
                 "measure demo/board.toml --channel pack_voltage --plan --positions 8"},
    .describe = [](Options& options) {
      return described<MeasureArguments>(options, declare_measure, run_measure);
    }};

}  // namespace tamlo::tool
