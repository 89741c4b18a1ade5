// SPDX-License-Identifier: Apache-2.0
#include "serve.hpp"

#include <chrono>
#include <memory>
#include <optional>

#include "job.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/detail/profile_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/link/stream.hpp"
#include "tamlo/names.hpp"

namespace tamlo::tool {
namespace {

using link::Clock;

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

link::BenchStandIn::Settings settings_of(const ServeArguments& arguments, bool readings,
                                         std::uint64_t seed) {
  link::BenchStandIn::Settings settings{
      .terminal = arguments.terminal, .readings = readings, .seed = seed};
  const auto port = [](const char* option, const std::string& text, std::optional<int>& into) {
    if (!text.empty()) into = static_cast<int>(whole_of(option, text, 0, 65535));
  };
  port("--serve", arguments.lines, settings.lines);
  port("--serve-modbus", arguments.modbus, settings.modbus);
  port("--serve-meter", arguments.meter, settings.meter);
  port("--serve-source", arguments.source, settings.source);
  for (const auto& text : arguments.faults) {
    settings.faults.push_back(*named<link::LinkFault>(text));
  }
  return settings;
}

}  // namespace

int serve(simulate::Sampler& sampler, const chain::Chain& chain, bool readings,
          const model::Meter* bench, std::uint64_t seed, const ServeArguments& arguments) {
  const auto end = arguments.duration.empty() ? Clock::time_point::max()
                                              : Clock::now() + time_of("--for", arguments.duration);
  const auto settings = settings_of(arguments, readings, seed);
  heed_interrupts();
  try {
    Profile profile(arguments.profile, chain.channel.span.unit);
    link::BenchStandIn stand_in(sampler, chain, bench, settings);
    if (!arguments.links.empty()) io::write_file(arguments.links, stand_in.links());
    print(stand_in.ports());
    stand_in.serve([&](double seconds) {
      profile.lead(sampler, seconds);
      return !interrupted() && Clock::now() < end;
    });
  } catch (const link::LinkError& error) {
    throw io::EnvironmentError(error.what());
  }
  return done;
}

void declare_serve(Options& options, ServeArguments& a) {
  options.group("Stand-ins for a bench, in real time, on the loopback address");
  options.option("--serve", a.lines, {"PORT", "print lines on this TCP port; 0: any that is free"});
  options.option("--serve-modbus", a.modbus,
                 {"PORT", "code in registers 0 and 1 (int32), reading in 2 and 3 (float32)"});
  options.output("--serve-terminal", a.terminal,
                 {"FILE", "print lines on a pseudo terminal that is reached by this name"});
  options.option("--serve-meter", a.meter, {"PORT", "the meter, which answers MEAS? in SCPI"});
  options.option("--serve-source", a.source,
                 {"PORT", "a source, which takes LEVEL VALUE in SCPI; the input follows it"});
  options.option("--profile", a.profile,
                 {"FILE", "the input, a CSV of time and value, or - for lines of values"});
  options.choices("--link-fault", a.faults, names_of<link::LinkFault>(),
                  {"KIND", "what happens to the lines; may be repeated"});
  options.output("--links", a.links, {"FILE", "write the links that reach it, as FILE.toml"});
  options.option("--for", a.duration, {"TIME", "that it serves", "until Ctrl-C"});
}

}  // namespace tamlo::tool
