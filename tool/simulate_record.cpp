// SPDX-License-Identifier: Apache-2.0
// The records of tamlo simulate.
#include <algorithm>
#include <utility>

#include "simulate.hpp"
#include "tamlo/io/record_file.hpp"
#include "tamlo/names.hpp"
#include "tamlo/quantity/format.hpp"

namespace tamlo::tool {
namespace {

using record::Input;
using record::Shows;

simulate::Stimulus stimulus_of(const SimulateArguments& arguments, const chain::Chain& chain) {
  const auto& span = chain.channel.span;
  simulate::Stimulus result{.from = span.middle(), .to = span.high};
  switch (input_of(arguments.input)) {
    case Input::steady:
      break;
    case Input::ramp:
      result = {.input = signal::Input::ramp, .from = span.low, .to = span.high};
      break;
    case Input::sine:
      result = {.input = signal::Input::sine, .from = span.low, .to = span.high};
      break;
    case Input::step:
      result = {.input = signal::Input::step, .from = span.low, .to = span.middle()};
      break;
  }
  if (result.input == signal::Input::steady && !arguments.high.empty())
    refuse("--high", "a steady input", "--low with its value, or --input ramp, sine or step");
  if (result.input != signal::Input::sine && !arguments.frequency.empty())
    refuse("--frequency", "an input that is no sine", "--input sine");
  if (!arguments.low.empty()) result.from = value_of("--low", arguments.low, span.unit);
  if (!arguments.high.empty()) result.to = value_of("--high", arguments.high, span.unit);
  if (!arguments.drift.empty()) result.drift = slope_of("--drift", arguments.drift, span.unit);
  const auto difference = quantity::difference_unit(span.unit);
  if (const auto& hum = arguments.hum; !hum.empty()) {
    const auto at = hum.find(" at ");
    if (at == std::string::npos)
      refuse("--hum", "\"" + hum + "\"", "an interference such as \"0.2 V at 50 Hz\"");
    result.hum = value_of("--hum", hum.substr(0, at), difference);
    result.hum_frequency = value_of("--hum", hum.substr(at + 4), quantity::unit("Hz"));
  }
  return result;
}

simulate::Flaws flaws_of(const SimulateArguments& arguments) {
  simulate::Flaws result;
  result.bend = named<simulate::Bend>(arguments.bend).value_or(simulate::Bend::bow);
  if (!arguments.inl.empty()) result.inl = value_of("--inl", arguments.inl, quantity::unit("LSB"));
  if (!arguments.jitter.empty()) {
    result.jitter = value_of("--jitter", arguments.jitter, quantity::unit("s"));
  }
  for (const auto& code : arguments.missing) {
    result.missing.push_back(
        static_cast<std::int64_t>(whole_of("--missing", code, 0, std::uint64_t{1} << 32)));
  }
  return result;
}

}  // namespace

simulate::Sampler sampler_of(const SimulateArguments& arguments, const Built& built, bool endless) {
  simulate::Sampler::Settings s{
      .stimulus = stimulus_of(arguments, built.chain),
      .flaws = flaws_of(arguments),
      .shows = arguments.shows == "readings" ? Shows::readings : Shows::codes,
      .rate = built.chain.firmware.digital.rate};
  s.samples = whole_of("--samples", arguments.samples, 1, 1000000000000);
  s.seed = seed_of(arguments);
  const auto numbers = numbers_of(arguments.unit);
  if (numbers.last > numbers.first) refuse("--unit", arguments.unit, "one unit for a record");
  s.number = numbers.first;
  s.run = whole_of("--run", arguments.run, 0, 1000000);
  if (!arguments.rate.empty()) s.rate = value_of("--rate", arguments.rate, quantity::unit("Sa/s"));
  if (!(s.rate > 0.0))
    refuse("--rate", "no rate, neither here nor in the board", "one such as \"1 kSa/s\"");
  if (s.stimulus.input == signal::Input::sine) {
    if (arguments.frequency.empty()) refuse("--frequency", "no frequency", "one such as \"50 Hz\"");
    const double wanted = value_of("--frequency", arguments.frequency, quantity::unit("Hz"));
    const double rate = simulate::shown_rate(built.chain, s);
    if (!(wanted > 0.0) || wanted >= rate / 2.0) {
      refuse("--frequency", arguments.frequency,
             "a frequency above 0 and below half the rate of the samples");
    }
    s.stimulus.frequency = simulate::coherent(wanted, rate, s.samples);
  }
  if (endless) s.period = std::exchange(s.samples, 1'000'000'000'000);
  return {built.chain, built.firmware, built.unit(arguments, s.number), s};
}

int write_record(const SimulateArguments& arguments, const std::vector<Built>& channels) {
  const auto path = arguments.write.empty() ? "-" : arguments.write;
  auto layout = layout_of(arguments.layout, path);
  std::vector<simulate::Sampler> samplers;
  std::vector<io::RecordWriter::Column> columns;
  const bool readings = arguments.shows == "readings";
  for (const auto& channel : channels) {
    samplers.push_back(sampler_of(arguments, channel));
    const auto& unit = channel.chain.channel.span.unit;
    columns.push_back({.name = channel.chain.channel.name,
                       .unit = readings ? unit.symbol : "code",
                       .decimals = readings ? simulate::record_decimals(channel.chain) : 0});
    if (layout.kind == io::RecordLayout::Kind::wav) {
      layout.bits = std::max(layout.bits, io::bits_for(chain::first_code(channel.chain),
                                                       chain::last_code(channel.chain)));
    }
    if (samplers.back().rate() != samplers.front().rate()) {
      refuse("--rate", "channels with different rates", "one rate, or one channel");
    }
  }
  io::RecordWriter writer(path, layout, columns, samplers.front().rate());
  for (;;) {
    std::vector<std::vector<double>> blocks;
    for (std::size_t i = 0; i < samplers.size(); ++i) {
      auto block = samplers[i].next(8192);
      if (readings) quantity::from_si(block, channels[i].chain.channel.span.unit, block);
      blocks.push_back(std::move(block));
    }
    if (blocks.front().empty()) break;
    writer.add(blocks);
  }
  writer.finish();
  return done;
}

}  // namespace tamlo::tool
