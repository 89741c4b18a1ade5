// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <map>
#include <optional>
#include <thread>

#include "job.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/link/line_parser.hpp"
#include "tamlo/link/log.hpp"
#include "tamlo/link/stream.hpp"
#include "tamlo/meter/live.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

using link::Clock;

struct WatchArguments : BoardArguments {
  std::string link, within, duration, every = "1 s", until, log, format = "text";
};

const model::Link& link_of(const model::Board& board, const WatchArguments& arguments) {
  std::vector<std::string> known;
  for (const auto& of : board.links) known.push_back(of.name);
  if (board.links.empty()) {
    refuse("watch", "a board without a link",
           "a section such as [link.board] with tcp = \"host:port\", in it or in a file behind it");
  }
  if (arguments.link.empty() && board.links.size() == 1) return board.links.front();
  if (const auto* link = model::find(board.links, arguments.link)) return *link;
  refuse("--link", fmt::format("\"{}\"", arguments.link), io::one_of(arguments.link, known));
}

// What is watched: the channels asked for, each with what "at rest" means for it.
std::map<std::size_t, meter::Live> channels_of(const model::Board& board,
                                               const WatchArguments& arguments) {
  std::map<std::size_t, meter::Live> result;
  for (auto& chain : chains_of(board, arguments)) {
    const auto& channel = chain.channel;
    const auto index =
        static_cast<std::size_t>(model::find(board.channels, channel.name) - board.channels.data());
    const auto& span = channel.span;
    double uncertainty = meter::wanted_uncertainty(chain);
    if (!arguments.within.empty()) {
      uncertainty = value_of("--within", arguments.within, quantity::difference_unit(span.unit));
      if (!(uncertainty > 0.0)) {
        refuse("--within", fmt::format("\"{}\"", arguments.within), "a value above 0");
      }
    }
    result.emplace(index, meter::Live(std::move(chain), uncertainty));
  }
  return result;
}

// One link, read until it ends, with what is made of its lines.
class Watch {
 public:
  Watch(const model::Board& board, const WatchArguments& arguments)
      : arguments_(arguments),
        link_(link_of(board, arguments)),
        parser_(link_, board),
        channels_(channels_of(board, arguments)) {
    if (arguments.log.empty()) return;
    if (channels_.size() != 1) {
      refuse("--log", fmt::format("{} channels", channels_.size()), "one: name it with --channel");
    }
  }

  void run() {
    const auto every = time_of("--every", arguments_.every);
    const auto begin = Clock::now();
    const auto end = arguments_.duration.empty() ? Clock::time_point::max()
                                                 : begin + time_of("--for", arguments_.duration);
    auto next = begin;
    while (!interrupted() && Clock::now() < end && !done_) {
      const auto until = std::min(end, Clock::now() + std::chrono::milliseconds(50));
      if (!read(until, begin)) break;
      if (arguments_.format != "text" || Clock::now() < next) continue;
      next = Clock::now() + every;
      for (const auto& [index, live] : channels_) {
        const auto state = live.state();
        if (state.readings > 0) print(report::line_of(state) + "\n");
      }
    }
    if (log_) log_->sync();
  }

  result::Watched result() const {
    result::Watched watched{.link = link_.name,
                            .lines = lines_,
                            .malformed = malformed_,
                            .lost = lost_,
                            .problem = parser_problem_};
    for (const auto& [index, live] : channels_) watched.channels.push_back(live.state());
    return watched;
  }

 private:
  const WatchArguments& arguments_;
  const model::Link& link_;
  link::LineParser parser_;
  std::map<std::size_t, meter::Live> channels_;
  std::unique_ptr<link::Stream> stream_{};
  std::optional<link::Log> log_{};
  std::vector<link::Value> values_{};
  std::string line_{}, parser_problem_{};
  std::uint64_t lines_ = 0, malformed_ = 0, lost_ = 0;
  std::chrono::milliseconds pause_{100};
  bool done_ = false;

  // False once nothing comes any more.
  bool read(Clock::time_point until, Clock::time_point begin) {
    try {
      if (!stream_) stream_ = link::open(link_);
      if (!link_.ask.empty()) stream_->write(link_.ask + "\n");
      while (!done_ && stream_->read_line(line_, until)) {
        pause_ = std::chrono::milliseconds(100);
        take(std::chrono::duration<double>(Clock::now() - begin).count());
        if (interrupted() || Clock::now() >= until) break;
      }
      if (!stream_->ended()) return true;
      // A file has an end; a port that ends was lost.
      if (std::holds_alternative<model::StreamFile>(link_.at)) return false;
      throw link::LinkError("the other side closed it");
    } catch (const link::LinkError&) {
      if (lines_ == 0 && lost_ == 0) throw;  // it was never there
      lost_ += stream_ ? 1 : 0;
      stream_.reset();
      std::this_thread::sleep_for(std::min<Clock::duration>(pause_, std::chrono::seconds(5)));
      pause_ *= 2;
      return true;
    }
  }

  void take(double seconds) {
    ++lines_;
    if (!parser_.parse(line_, values_)) {
      ++malformed_;
      parser_problem_ = parser_.problem();
      return;
    }
    for (const auto& value : values_) {
      const auto live = channels_.find(value.channel);
      if (live == channels_.end()) continue;
      if (value.holds == link::Holds::code) live->second.add_code(value.value, seconds);
      if (value.holds == link::Holds::reading) live->second.add_reading(value.value, seconds);
      log(live->second, value, seconds);
    }
    if (arguments_.until == "settled") {
      done_ = std::ranges::all_of(channels_, [](const auto& of) { return of.second.at_rest(); });
    }
  }

  void log(const meter::Live& live, const link::Value& value, double seconds) {
    if (arguments_.log.empty()) return;
    const auto& channel = live.chain().channel;
    const bool code = value.holds == link::Holds::code;
    if (!log_) {
      log_.emplace(arguments_.log, fmt::format("time [s],{} [{}]", channel.name,
                                               code ? "code" : channel.span.unit.symbol));
    }
    log_->row(fmt::format("{:.6f},{:.12g}", seconds,
                          code ? value.value : quantity::in_unit(value.value, channel.span.unit)));
  }
};

int run_watch(const WatchArguments& arguments) {
  const auto board = io::load_board(arguments.boards);
  Watch watch(board, arguments);
  heed_interrupts();
  try {
    watch.run();
  } catch (const link::LinkError& error) {
    throw io::EnvironmentError(error.what());
  }
  const auto result = watch.result();
  show(result, {report::of(result)}, arguments.format);
  const bool rests = std::ranges::all_of(
      result.channels, [](const meter::LiveState& of) { return of.settled.has_value(); });
  if (arguments.until == "settled" && !rests) return missed;
  return result.malformed > 0 ? damaged : done;
}

void declare_watch(Options& options, WatchArguments& a) {
  options.board(a);
  options.option("--link", a.link, {"NAME", "of the board", "the only one"});
  options.group("How long");
  options.option("--for", a.duration, {"TIME", "such as \"30 s\"", "until it ends, or Ctrl-C"});
  options.choice("--until", a.until, {"settled"}, {"WHAT", "ends once all channels are at rest"});
  options.option("--within", a.within,
                 {"VALUE", "at rest is within a quarter of this", "the target's accuracy"});
  options.group("Output");
  options.option("--every", a.every, {"TIME", "between two lines of text", "1 s"});
  options.output("--log", a.log, {"FILE", "append each value to FILE.csv, for tamlo record"});
  options.format(a.format);
}

}  // namespace

const Command watch_command{
    .name = "watch",
    .question = "what does it read now?",
    .examples = {"watch demo/board.toml demo/live.toml --channel pack_voltage",
                 "watch demo/board.toml demo/live.toml --channel pack_voltage --format json"},
    .describe = [](Options& options) {
      return described<WatchArguments>(options, declare_watch, run_watch);
    }};

}  // namespace tamlo::tool
