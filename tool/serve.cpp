// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <chrono>
#include <memory>
#include <optional>

#include "simulate.hpp"
#include "tamlo/io/detail/columns.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/io/readings_file.hpp"
#include "tamlo/link/detail/bench_stand_in.hpp"
#include "tamlo/link/stream.hpp"
#include "tamlo/names.hpp"

namespace tamlo::tool {
namespace {

using link::Clock;

// A port of 0 is any that is free, an empty one is none.
struct ServeArguments : SimulateArguments {
  std::string lines, modbus, scpi_meter, scpi_source, terminal, profile, links, duration;
  std::vector<std::string> faults;
};

// How the input moves: by a file, or by lines of standard input.
class Profile {
 public:
  Profile(const std::string& path, const quantity::Unit& unit) : unit_(unit) {
    if (path == "-") {
      spoken_ = link::open({.name = "profile", .at = model::StreamFile{.path = "-"}});
    } else if (!path.empty()) {
      rows_ = io::load_profile(path, unit);
    }
  }

  void lead(simulate::Sampler& sampler, double seconds) {
    if (rows_) sampler.follow(rows_->at(seconds));
    std::string line;
    while (spoken_ && spoken_->read_line(line, Clock::now())) {
      if (!line.empty()) sampler.follow(value_of("--profile", line, unit_));
    }
  }

 private:
  quantity::Unit unit_;
  std::optional<io::Profile> rows_{};
  std::unique_ptr<link::Stream> spoken_{};
};

link::BenchStandIn::Settings settings_of(const ServeArguments& arguments) {
  link::BenchStandIn::Settings settings{.terminal = arguments.terminal,
                                        .readings = arguments.shows == "readings",
                                        .seed = seed_of(arguments)};
  const auto port = [](const char* option, const std::string& text, std::optional<int>& into) {
    if (!text.empty()) into = static_cast<int>(whole_of(option, text, 0, 65535));
  };
  port("--lines", arguments.lines, settings.lines);
  port("--modbus", arguments.modbus, settings.modbus);
  port("--scpi-meter", arguments.scpi_meter, settings.meter);
  port("--scpi-source", arguments.scpi_source, settings.source);
  if (!settings.lines && !settings.modbus && !settings.meter && !settings.source &&
      settings.terminal.empty()) {
    refuse("serve", "nothing to serve", "one of --lines, --modbus, --terminal, --scpi-meter 0");
  }
  for (const auto& text : arguments.faults) {
    settings.faults.push_back(*named<link::LinkFault>(text));
  }
  return settings;
}

const model::Meter& meter_at_the_quantity(const SimulateArguments& arguments,
                                          const model::Board& board, const Built& built) {
  const auto& meter = io::choose_meter(board, arguments.boards.front(), arguments.meter, {},
                                       {.channel = built.chain.channel.name});
  if (meter.touches == model::Touches::quantity) return meter;
  refuse("--meter", meter.name + ", which touches the pin", "a meter of the quantity");
}

int run_serve(const ServeArguments& arguments) {
  const auto board = io::load_board(arguments.boards);
  const auto channels = built_of(arguments, board);
  if (channels.size() != 1) {
    refuse("serve", fmt::format("{} channels", channels.size()), "one: name it with --channel");
  }
  const auto settings = settings_of(arguments);
  const auto& chain = channels.front().chain;
  auto sampler = sampler_of(arguments, channels.front(), true);
  const auto* const bench =
      settings.meter ? &meter_at_the_quantity(arguments, board, channels.front()) : nullptr;
  const auto end = arguments.duration.empty() ? Clock::time_point::max()
                                              : Clock::now() + time_of("--for", arguments.duration);
  catch_interrupts();
  try {
    Profile profile(arguments.profile, chain.channel.span.unit);
    link::BenchStandIn stand_in(sampler, chain, bench, settings);
    if (!arguments.links.empty()) io::write_file(arguments.links, stand_in.links());
    print(stand_in.ports());
    stand_in.serve([&](double seconds) {
      profile.lead(sampler, seconds);
      return !interrupted() && Clock::now() < end;
    });
    if (stand_in.skipped() > 0) {
      fmt::print(stderr, "{} samples were left out: this machine makes them no faster\n",
                 stand_in.skipped());
    }
  } catch (const link::LinkError& error) {
    throw io::EnvironmentError(error.what());
  }
  return done;
}

void declare_serve(Options& options, ServeArguments& a) {
  options.board(a, {.one_channel = true});
  options.group("Ports on the loopback address; 0: any that is free");
  options.option("--lines", a.lines, {"PORT", "print lines on this TCP port"});
  options.output("--terminal", a.terminal,
                 {"FILE", "print lines on a pseudo terminal that is reached by this name"});
  options.option(
      "--modbus", a.modbus,
      {"PORT", "code in registers 0 and 1 (int32) and reading in 2 and 3 (float32), both at once"});
  options.option("--scpi-meter", a.scpi_meter, {"PORT", "the meter, which answers MEAS? in SCPI"});
  options.option("--scpi-source", a.scpi_source,
                 {"PORT", "a source, which takes LEVEL VALUE in SCPI; the input follows it"});
  options.output("--links", a.links, {"FILE", "write the links that reach it, as FILE.toml"});
  options.choices("--link-fault", a.faults, names_of<link::LinkFault>(),
                  {"KIND", "what happens to the lines; may be repeated"});
  options.option("--meter", a.meter,
                 {"NAME", "the meter of the board that is used", "by its ranges"});
  options.choice("--data", a.shows, {"codes", "readings"}, {"KIND", "what lines hold", "codes"});
  options.option("--for", a.duration, {"TIME", "that it serves", "until Ctrl-C"});
  options.group("The input");
  options.option("--profile", a.profile,
                 {"FILE", "the input, a CSV of time and value, or - for lines of values"});
  declare_input(options, a);
  options.option("--samples", a.samples, {"NUMBER", "until the input comes again", "10000"});
  options.not_with("--profile",
                   {"--input", "--low", "--high", "--frequency", "--drift", "--samples"});
  declare_unit(options, a);
}

}  // namespace

extern const Command serve_command{
    .name = "serve",
    .question = "a virtual unit, meter and source, live on ports of this machine",
    .examples =
        {R"(serve demo/board.toml pack_voltage --lines 0 --for "1 s")",
         R"(serve demo/board.toml pack_voltage --scpi-meter 0 --scpi-source 0 --for "1 s")"},
    .describe = [](Options& options) {
      return described<ServeArguments>(options, declare_serve, run_serve);
    }};

}  // namespace tamlo::tool
