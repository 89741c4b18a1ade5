// SPDX-License-Identifier: Apache-2.0
#include "tamlo/link/detail/bench_stand_in.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <filesystem>
#include <system_error>
#include <thread>
#include <utility>

#include "tamlo/chain/chain.hpp"
#include "tamlo/error.hpp"
#include "tamlo/link/detail/line_parser.hpp"
#include "tamlo/link/detail/stand_in.hpp"
#include "tamlo/link/stream.hpp"
#include "tamlo/names.hpp"
#include "tamlo/simulate/detail/stimulus.hpp"

namespace tamlo::link {

std::string_view name(LinkFault fault) {
  return name_in({"lost", "torn", "doubled", "late", "garbage", "disconnect", "hang"}, fault);
}

Disturbance::Disturbance(std::vector<LinkFault> faults, std::uint64_t seed)
    : faults_(std::move(faults)), stream_(seed, 7) {}

bool Disturbance::strikes(LinkFault fault, double part) {
  return std::ranges::find(faults_, fault) != faults_.end() && stream_.uniform() < part;
}

std::string Disturbance::of(const std::string& line) {
  constexpr double seldom = 0.02;
  auto text = line + "\n";
  if (strikes(LinkFault::lost, seldom)) return {};
  if (strikes(LinkFault::torn, seldom)) {
    text.erase(0,
               1 + static_cast<std::size_t>(stream_.uniform() * static_cast<double>(line.size())));
  }
  if (strikes(LinkFault::doubled, seldom)) text += text;
  if (strikes(LinkFault::garbage, seldom)) {
    std::string bytes;
    for (int i = 0; i < 5; ++i) bytes.push_back(static_cast<char>(stream_.uniform() * 256.0));
    text.insert(0, bytes);
  }
  if (late_.empty() && strikes(LinkFault::late, seldom)) {
    late_ = std::exchange(text, {});
  } else if (!late_.empty() && stream_.uniform() < 0.3) {
    text += std::exchange(late_, {});
  }
  return text;
}

bool Disturbance::disconnects() { return strikes(LinkFault::disconnect, 0.005); }
bool Disturbance::hangs() { return strikes(LinkFault::hang, 0.02); }

namespace {

constexpr std::uint64_t most_a_turn = 4096;  // samples

}  // namespace

struct BenchStandIn::Inside {
  simulate::Sampler& sampler;
  const chain::Chain& served;
  const model::Channel& channel;
  const model::Meter* bench;
  Settings settings;
  Disturbance disturbance;
  int decimals;
  std::optional<LineServer> lines{};
  std::optional<ModbusServer> modbus{};
  std::optional<ScpiServer> meter{}, source{};
  std::optional<TerminalPort> terminal{};
  std::optional<simulate::BenchMeter> shows{};
  chain::DigitalState digital{served.firmware.digital};
  std::optional<double> reading{};  // the last one, of codes that are served
  std::uint64_t sent = 0, skipped = 0;
  Clock::time_point hangs_until{};

  void open_terminal() {
    terminal.emplace();
    std::error_code error;
    std::filesystem::create_symlink(terminal->path(), settings.terminal, error);
    if (!error) return;
    throw LinkError(fmt::format("{}: {}", std::exchange(settings.terminal, {}), error.message()));
  }

  std::string line_of(double sample) const {
    return settings.readings ? fmt::format("{}.reading={:.{}f}", channel.name,
                                           quantity::in_unit(sample, channel.span.unit), decimals)
                             : fmt::format("{}.code={:.0f}", channel.name, sample);
  }

  // Registers 0 and 1: the code; 2 and 3: the reading. Of readings it is the code that is nearest
  // to them, of codes what average, filter and firmware make of them; the first was always there.
  void hold(double sample) {
    double code = sample;
    if (settings.readings) {
      reading = sample;
      code = static_cast<double>(
          chain::register_value(served, chain::code(served, sample, served.nominal)));
    } else {
      if (!reading) digital.prime(sample);
      if (digital.push(sample) || !reading)
        reading = chain::reading_or_end(served, reading ? digital.value() : sample);
    }
    modbus->set_word(0, static_cast<std::uint32_t>(static_cast<std::int32_t>(code)));
    const auto number = static_cast<float>(quantity::in_unit(*reading, channel.span.unit));
    modbus->set_word(2, std::bit_cast<std::uint32_t>(number));
  }

  // What is due so many seconds after the start, as much as one turn bears. What is half a second
  // late is left out, as a board loses what its port does not take.
  void serve(double seconds) {
    const auto due = static_cast<std::uint64_t>(seconds * sampler.rate());
    const auto now = std::min(due - sent, most_a_turn);
    sent += now;
    if (static_cast<double>(due - sent) > 0.5 * sampler.rate()) {
      skipped += due - std::exchange(sent, due);
    }
    std::string text;
    bool leave = false;
    for (const double sample : sampler.next(static_cast<std::size_t>(now))) {
      text += disturbance.of(line_of(sample));
      leave = leave || disturbance.disconnects();
      if (modbus) hold(sample);
    }
    if (lines) lines->send_bytes(text);
    if (lines && leave) lines->disconnect();
    if (terminal && !text.empty()) terminal->send_bytes(text);
    if (meter && Clock::now() >= hangs_until) meter->serve();
    if (source) source->serve();
  }

  ScpiServer::Reply measured(std::string_view command) {
    if (!command.starts_with("MEAS") && command != "READ?" && command != "FETC?") {
      return ScpiError::undefined_header;
    }
    if (disturbance.hangs()) hangs_until = Clock::now() + std::chrono::seconds(5);
    const auto shown = shows->show(sampler.quantity());
    const double offset = bench->ranges.front().full_scale.unit.offset;
    return shown ? fmt::format("{:+.9E}", *shown - offset) : "+9.90000000E+37";
  }

  // The level reaches one width of the span beyond either end.
  ScpiServer::Reply set(std::string_view command) {
    constexpr std::string_view level = "LEVEL ";
    const auto& unit = channel.span.unit;
    if (command == "LEVEL?") {
      return fmt::format("{:.9E}", quantity::in_unit(sampler.quantity(), unit));
    }
    double value = 0.0;
    if (!command.starts_with(level)) return ScpiError::undefined_header;
    if (!parse_number(command.substr(level.size()), value)) return ScpiError::out_of_range;
    const double x = value * unit.scale() + unit.offset;
    if (std::abs(x - channel.span.middle()) > 1.5 * channel.span.width()) {
      return ScpiError::out_of_range;
    }
    sampler.follow(x);
    return "";
  }
};

BenchStandIn::BenchStandIn(simulate::Sampler& sampler, const chain::Chain& chain,
                           const model::Meter* meter, const Settings& settings)
    : inside_(new Inside{.sampler = sampler,
                         .served = chain,
                         .channel = chain.channel,
                         .bench = meter,
                         .settings = settings,
                         .disturbance = {settings.faults, settings.seed},
                         .decimals = simulate::record_decimals(chain)}) {
  auto& in = *inside_;
  require(meter != nullptr || !settings.meter, "a meter that is served");
  if (settings.lines) in.lines.emplace(*settings.lines);
  if (settings.modbus) in.modbus.emplace(*settings.modbus);
  if (!settings.terminal.empty()) in.open_terminal();
  if (settings.meter) {
    in.shows.emplace(*meter, settings.seed);
    in.meter.emplace(*settings.meter, "Tamlo,virtual meter,0,1",
                     [&in](std::string_view command) { return in.measured(command); });
  }
  if (settings.source) {
    in.source.emplace(*settings.source, "Tamlo,virtual source,0,1",
                      [&in](std::string_view command) { return in.set(command); });
    sampler.follow(sampler.quantity());
  }
}

BenchStandIn::~BenchStandIn() {
  std::error_code ignored;
  if (inside_->terminal && !inside_->settings.terminal.empty()) {
    std::filesystem::remove(inside_->settings.terminal, ignored);
  }
}

std::string BenchStandIn::ports() const {
  const auto& in = *inside_;
  std::string text;
  const auto says = [&](const auto& device, std::string_view what) {
    if (device) text += fmt::format("{} on 127.0.0.1:{}\n", what, device->port());
  };
  says(in.lines, fmt::format("{}: {:.6g} lines a second", in.channel.name, in.sampler.rate()));
  says(in.modbus, fmt::format("{}: Modbus registers", in.channel.name));
  if (in.meter) says(in.meter, fmt::format("meter {}: SCPI", in.bench->name));
  says(in.source, "source: SCPI");
  if (in.terminal) text += fmt::format("{}: lines on {}\n", in.channel.name, in.settings.terminal);
  return text;
}

std::string BenchStandIn::links() const {
  const auto& in = *inside_;
  const auto& span = in.channel.span;
  std::string text = "# Made by: tamlo simulate. How the stand-ins are reached.\n";
  const auto tcp = [&](const char* name, int port) {
    text += fmt::format("[link.{}]\ntcp = \"127.0.0.1:{}\"\n", name, port);
  };
  if (in.lines) {
    tcp("board", in.lines->port());
    text += "form = \"pairs\"\n";
  } else if (in.modbus) {
    tcp("board", in.modbus->port());
    const auto [what, at, type] =
        in.settings.readings ? std::tuple("reading", 2, "float32") : std::tuple("code", 0, "int32");
    text += fmt::format(
        "speaks = \"modbus\"\nevery = \"20 ms\"\n"
        "values = [ {{ holds = \"{}.{}\", at = {}, type = \"{}\" }} ]\n",
        in.channel.name, what, at, type);
  } else if (in.terminal) {
    text += fmt::format("[link.board]\nserial = {{ device = \"{}\" }}\nform = \"pairs\"\n",
                        std::filesystem::absolute(in.settings.terminal).string());
  }
  if (in.meter) {
    tcp("meter", in.meter->port());
    text += fmt::format(
        "speaks = \"scpi\"\nask = \"MEAS?\"\nevery = \"50 ms\"\n[meter.{}]\nlink = \"meter\"\n",
        in.bench->name);
  }
  if (in.source) {
    tcp("source", in.source->port());
    text += fmt::format(
        "speaks = \"scpi\"\n[source.knob]\nlink = \"source\"\nsets = \"LEVEL {{value}}\"\n"
        "range = \"{:.12g}..{:.12g} {}\"\n",
        quantity::in_unit(span.low, span.unit), quantity::in_unit(span.high, span.unit),
        span.unit.symbol);
  }
  return text;
}

std::uint64_t BenchStandIn::skipped() const { return inside_->skipped; }

void BenchStandIn::attach(model::Board& board) const {
  const auto& in = *inside_;
  const auto tcp = [](const auto& part) {
    return model::TcpPort{.host = "127.0.0.1", .port = part->port()};
  };
  if (in.lines) {
    board.links.push_back({.name = "board", .at = tcp(in.lines), .form = model::LineForm::pairs});
  }
  if (in.meter) {
    board.links.push_back({.name = "meter",
                           .at = tcp(in.meter),
                           .speaks = model::Speaks::scpi,
                           .pattern = in.bench->name + ".shown",
                           .ask = "MEAS?",
                           .every = 0.02});
    for (auto& meter : board.meters) {
      if (meter.name == in.bench->name) meter.link = "meter";
    }
  }
  if (in.source) {
    board.links.push_back({.name = "source", .at = tcp(in.source), .speaks = model::Speaks::scpi});
    board.sources.push_back(
        {.name = "knob", .link = "source", .sets = "LEVEL {value}", .range = in.channel.span});
  }
}

void BenchStandIn::serve(const std::function<bool(double seconds)>& go_on) {
  const auto begin = Clock::now();
  for (;;) {
    const double seconds = std::chrono::duration<double>(Clock::now() - begin).count();
    if (!go_on(seconds)) return;
    inside_->serve(seconds);
    std::this_thread::sleep_for(std::chrono::milliseconds(1));
  }
}

}  // namespace tamlo::link
