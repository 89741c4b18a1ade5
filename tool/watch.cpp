// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <map>
#include <optional>

#include "job.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/link/listening.hpp"
#include "tamlo/link/log.hpp"
#include "tamlo/link/measuring.hpp"
#include "tamlo/meter/live.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

using link::Clock;

struct WatchArguments : BoardArguments {
  std::vector<std::string> links;
  std::string within, duration, every = "1 s", until, log, format = "text";
};

// Those that were named, or all that are of no instrument.
std::vector<std::string> links_of(const model::Board& board, const WatchArguments& arguments) {
  if (board.links.empty()) {
    refuse("watch", "a board without a link",
           "a section such as [link.board] with tcp = \"host:port\", in it or in a file behind it");
  }
  if (arguments.links.empty()) {
    auto names = link::links_for(board, nullptr, nullptr);
    if (!names.empty()) return names;
    refuse("watch", "links of instruments alone", "a link of the board");
  }
  std::vector<std::string> known;
  for (const auto& of : board.links) known.push_back(of.name);
  for (const auto& name : arguments.links) {
    if (model::find(board.links, name) == nullptr) {
      refuse("--link", fmt::format("\"{}\"", name), io::one_of(name, known));
    }
  }
  return arguments.links;
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

// Links, read until they end, with what is made of what comes.
class Watch {
 public:
  Watch(const model::Board& board, const WatchArguments& arguments)
      : arguments_(arguments),
        channels_(channels_of(board, arguments)),
        listening_(board, links_of(board, arguments)) {
    if (!arguments.log.empty() && channels_.size() != 1) {
      refuse("--log", fmt::format("{} channels", channels_.size()), "one: name it with --channel");
    }
  }

  void run() {
    const auto every = time_of("--every", arguments_.every);
    const auto begin = Clock::now();
    const auto end = arguments_.duration.empty() ? Clock::time_point::max()
                                                 : begin + time_of("--for", arguments_.duration);
    auto next = begin;
    bool more = true;
    while (more && !interrupted() && Clock::now() < end && !done_) {
      more = listening_.take(samples_, std::min(end, Clock::now() + std::chrono::milliseconds(50)));
      for (const auto& sample : samples_) {
        if (!done_) take(sample);
      }
      samples_.clear();
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
    result::Watched watched;
    for (const auto& of : listening_.states()) {
      watched.links.push_back({of.name, of.lines, of.malformed, of.lost, of.problem});
    }
    for (const auto& [index, live] : channels_) watched.channels.push_back(live.state());
    return watched;
  }

 private:
  const WatchArguments& arguments_;
  std::map<std::size_t, meter::Live> channels_;
  std::optional<link::Log> log_{};
  std::vector<link::Sample> samples_{};
  bool done_ = false;
  link::Listening listening_;

  void take(const link::Sample& sample) {
    for (const auto& value : sample.values) {
      if (value.of.holds == link::Holds::shown) continue;
      const auto live = channels_.find(value.of.index);
      if (live == channels_.end()) continue;
      if (value.of.holds == link::Holds::code) live->second.add_code(value.value, sample.seconds);
      if (value.of.holds == link::Holds::reading) {
        live->second.add_reading(value.value, sample.seconds);
      }
      log(live->second, value, sample.seconds);
    }
    if (arguments_.until == "settled") {
      done_ = std::ranges::all_of(channels_, [](const auto& of) { return of.second.at_rest(); });
    }
  }

  void log(const meter::Live& live, const link::Value& value, double seconds) {
    if (arguments_.log.empty()) return;
    const auto& channel = live.chain().channel;
    const bool code = value.of.holds == link::Holds::code;
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
  heed_interrupts();
  result::Watched result;
  try {
    Watch watch(board, arguments);
    watch.run();
    result = watch.result();
  } catch (const link::LinkError& error) {
    throw io::EnvironmentError(error.what());
  }
  show(result, {report::of(result)}, arguments.format);
  const bool rests = std::ranges::all_of(
      result.channels, [](const meter::LiveState& of) { return of.settled.has_value(); });
  if (arguments.until == "settled" && !rests) return missed;
  const bool fits = std::ranges::all_of(
      result.links, [](const result::WatchedLink& of) { return of.malformed == 0; });
  return fits ? done : damaged;
}

void declare_watch(Options& options, WatchArguments& a) {
  options.board(a);
  options.repeated("--link", a.links,
                   {"NAME", "of the board; may be repeated", "all that are of no instrument"});
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
