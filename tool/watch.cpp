// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <memory>
#include <optional>
#include <utility>

#include "job.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/detail/log.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/io/readings_file.hpp"
#include "tamlo/link/detail/measuring.hpp"
#include "tamlo/link/watching.hpp"
#include "tamlo/report/reports.hpp"
#include "terminal.hpp"
#include "watch_screen.hpp"

namespace tamlo::tool {
namespace {

using link::Clock;
using link::Watching;

struct WatchArguments : BoardArguments {
  std::vector<std::string> links;
  std::string meter, within, duration, every = "1 s", until, log, aim, page;
  Form format{};
  bool plain = false;
};

// Those that were named, or all that are of no instrument.
std::vector<std::string> links_of(const model::Board& board, const WatchArguments& arguments,
                                  const model::Meter* meter) {
  if (board.links.empty()) {
    refuse("watch", "a board without a link",
           "a section such as [link.board] with tcp = \"host:port\", in it or in a later file");
  }
  if (arguments.links.empty()) {
    auto names = link::links_for(board, meter, nullptr);
    if (!names.empty()) return names;
    refuse("watch", "links of instruments alone", "a link of the board");
  }
  for (const auto& name : arguments.links) named_in(board.links, "--link", name);
  return arguments.links;
}

// The meter that was named, or the only one that has a link.
const model::Meter* meter_of(const model::Board& board, const WatchArguments& arguments) {
  std::vector<std::string> known;
  for (const auto& meter : board.meters) {
    if (!meter.link.empty()) known.push_back(meter.name);
  }
  if (arguments.meter.empty()) {
    return known.size() == 1 && arguments.links.empty() ? model::find(board.meters, known.front())
                                                        : nullptr;
  }
  if (std::ranges::find(known, arguments.meter) != known.end()) {
    return model::find(board.meters, arguments.meter);
  }
  refuse("--meter", fmt::format("\"{}\"", arguments.meter),
         known.empty() ? "a meter with link = \"NAME\"" : io::one_of(arguments.meter, known));
}

Watching::Settings settings_of(const io::LoadedBoard& board, const WatchArguments& arguments) {
  Watching::Settings settings{.meter = meter_of(board, arguments)};
  settings.links = links_of(board, arguments, settings.meter);
  for (const auto& chain : chains_of(board, arguments)) {
    settings.channels.push_back(chain.channel.name);
    if (arguments.within.empty()) continue;
    settings.within.push_back(
        value_of("--within", arguments.within, quantity::difference_unit(chain.channel.span.unit)));
    if (!(settings.within.back() > 0.0)) {
      refuse("--within", fmt::format("\"{}\"", arguments.within), "a value above 0");
    }
  }
  return settings;
}

// Each value of one channel, and what the meter showed beside it.
class ValueLog {
 public:
  ValueLog(std::string path, const model::Channel& channel, const model::Meter* meter)
      : path_(std::move(path)),
        channel_(channel),
        with_meter_(meter != nullptr),
        meter_unit_(meter != nullptr && meter->touches == model::Touches::pin ? quantity::unit("V")
                                                                              : channel.span.unit) {
  }

  void add(const Watching::Event& event) {
    // Rows beside a meter begin with what it shows first.
    if (with_meter_ && !event.shown) return;
    const bool code = event.value.of.holds == link::Holds::code;
    const auto& unit = channel_.span.unit;
    if (!log_) {
      log_.emplace(path_, fmt::format("time [s],utc,channel,{}{}",
                                      code ? "code" : "reading [" + unit.symbol + "]",
                                      with_meter_ ? ",meter [" + meter_unit_.symbol + "]" : ""));
    }
    const double value = *event.value.value;
    auto row =
        fmt::format("{:.6f},{},{},{:.12g}", event.seconds, io::utc_now(),
                    io::csv_cell(channel_.name), code ? value : quantity::in_unit(value, unit));
    if (with_meter_) row += fmt::format(",{:.12g}", quantity::in_unit(*event.shown, meter_unit_));
    log_->row(row);
  }
  void sync() {
    if (log_) log_->sync();
  }

 private:
  std::string path_;
  const model::Channel& channel_;
  bool with_meter_;
  quantity::Unit meter_unit_;
  std::optional<io::Log> log_{};
};

// What is told of a watch when it is over.
struct Told {
  result::Watched watched{};
  std::string marks{};
};

Told watch(const io::LoadedBoard& board, const WatchArguments& arguments) {
  const auto settings = settings_of(board, arguments);
  for (const auto& [option, value] :
       {std::pair("--log", &arguments.log), {"--aim", &arguments.aim}}) {
    if (value->empty() || settings.channels.size() == 1) continue;
    refuse(option, fmt::format("{} channels", settings.channels.size()),
           "one: name it with --channel");
  }
  const auto& first = *model::find(board.channels, settings.channels.front());
  const auto every = time_of("--every", arguments.every);
  const auto end = arguments.duration.empty() ? Clock::time_point::max()
                                              : Clock::now() + time_of("--for", arguments.duration);
  std::optional<double> aim;
  if (!arguments.aim.empty()) aim = value_of("--aim", arguments.aim, first.span.unit);

  Watching watching(board, settings);
  if (settings.meter != nullptr && !watching.compares()) {
    fmt::print(stderr,
               "meter {} is held against no channel: name the one it reads with --channel\n",
               settings.meter->name);
  }
  std::optional<ValueLog> log;
  if (!arguments.log.empty()) log.emplace(arguments.log, first, settings.meter);
  std::optional<WatchScreen> live;
  const bool text = arguments.format == "text";
  if (text && !arguments.plain && Terminal::possible()) live.emplace(board, watching, aim);
  std::optional<WatchedPage> page;
  if (!arguments.page.empty()) {
    page.emplace(board, watching, arguments.page);
    const auto open = "open " + page->address() + " in a browser on this machine";
    if (live) {
      live->say(open);
    } else {
      fmt::print(stderr, "{}\n", open);
    }
  }

  bool more = true, done = false;
  const auto each = [&](const Watching::Event& event) {
    if (log) log->add(event);
    done = arguments.until == "settled" && watching.all_at_rest();
    return !done;
  };
  auto next = Clock::now(), next_picture = next;
  while (more && !done && !interrupted() && Clock::now() < end) {
    more = watching.advance(std::min(end, Clock::now() + std::chrono::milliseconds(50)), each);
    if (Clock::now() >= next_picture) {
      next_picture = Clock::now() + std::chrono::milliseconds(100);
      if (page) page->show();
      if (live && !live->show()) break;
    }
    if (live || !text || Clock::now() < next) continue;
    next = Clock::now() + every;
    for (const auto& view : watching.channels()) {
      if (view.state.readings > 0) say(report::line_of(view, aim) + "\n");
    }
  }
  if (!done) watching.finish(each);
  if (log) log->sync();
  Told predicted_value{.marks = live ? live->marks() : ""};
  live.reset();
  predicted_value.watched = watched_of(watching);
  return predicted_value;
}

int run_watch(const WatchArguments& arguments) {
  const auto board = io::load_board(arguments.boards);
  catch_interrupts();
  Told predicted_value;
  try {
    predicted_value = watch(board, arguments);
  } catch (const link::LinkError& error) {
    throw io::EnvironmentError(error.what());
  }
  if (!predicted_value.marks.empty()) print(predicted_value.marks);
  const auto& result = predicted_value.watched;
  show(result, {report::of(result)}, arguments.format);
  const bool rests = std::ranges::all_of(result.channels, [](const meter::LiveView& live_view) {
    return live_view.state.settled.has_value();
  });
  if (arguments.until == "settled" && !rests) return missed;
  const bool fits = std::ranges::all_of(result.links, [](const result::WatchedLink& watched_link) {
    return watched_link.malformed == 0;
  });
  const auto refused = std::ranges::find_if(result.links, [](const result::WatchedLink& link) {
    return link.lines == 0 && link.lost > 0;
  });
  if (refused != result.links.end()) {
    throw io::EnvironmentError(
        fmt::format("nothing came over link {}: {}", refused->name, refused->problem));
  }
  const bool all_come = std::ranges::none_of(result.channels, &meter::LiveView::old);
  return fits && all_come ? done : damaged;
}

void declare_watch(Options& options, WatchArguments& a) {
  options.board(a);
  options.repeated("--link", a.links,
                   {"NAME", "of the board; may be repeated", "all that are of no instrument"});
  options.option("--meter", a.meter, {"NAME", "beside it", "the only one that has a link"});
  options.group("How long");
  options.option("--for", a.duration, {"TIME", "such as \"30 s\"", "until it ends, or Ctrl-C"});
  options.choice("--until", a.until, {"settled"}, {"WHAT", "ends once all channels are at rest"});
  options.option("--within", a.within,
                 {"VALUE", "at rest is within a quarter of this", "the target's accuracy"});
  options.option("--aim", a.aim, {"VALUE", "say how far it is from there, and which way to turn"});
  options.group("Output");
  options.option("--page", a.page,
                 {"PORT", "show it to a browser on this machine, too; 0: any port that is free"});
  options.flag("--plain", a.plain, {"", "lines of text on a terminal, too"});
  options.option("--every", a.every, {"TIME", "between two lines of text", "1 s"});
  options.output("--log", a.log, {"FILE", "append each value to FILE.csv, for tamlo record"});
  options.format(a.format);
}

}  // namespace

extern const Command watch_command{
    .name = "watch",
    .question = "what does it read now?",
    .examples = {"watch demo/board.toml demo/live.toml --channel pack_voltage",
                 "watch demo/board.toml demo/live.toml --channel pack_voltage --format json"},
    .describe = [](Options& options) {
      return described<WatchArguments>(options, declare_watch, run_watch);
    }};

}  // namespace tamlo::tool
