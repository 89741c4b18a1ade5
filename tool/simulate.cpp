// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <utility>

#include "simulate.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/io/readings_file.hpp"
#include "tamlo/names.hpp"
#include "tamlo/quantity/format.hpp"
#include "tamlo/quantity/notation.hpp"
#include "tamlo/simulate/detail/stimulus.hpp"

namespace tamlo::tool {
namespace {

using record::Input;
using simulate::VirtualUnit;

// A deviation of the command line: "divider top=-1.2 %".
void deviate(VirtualUnit& unit, const chain::Chain& chain, const std::string& text) {
  const auto equals = text.find('=');
  const auto name = text.substr(0, equals);
  const auto parameter = std::ranges::find(chain.parameters, name, &chain::Parameter::name);
  if (equals == std::string::npos || parameter == chain.parameters.end()) {
    std::vector<std::string> known;
    for (const auto& each : chain.parameters) known.push_back(each.name);
    refuse("--deviate", "\"" + text + "\"", io::one_of(name, known, "NAME=VALUE with the name "));
  }
  const auto value = text.substr(equals + 1);
  const bool relative = value.ends_with('%') || value.ends_with("ppm");
  simulate::move(unit, chain, name,
                 value_of("--deviate", value, relative ? quantity::Unit{} : parameter->unit),
                 relative);
}

}  // namespace

Numbers numbers_of(const std::string& text, std::uint64_t most) {
  const auto dots = text.find("..");
  if (dots == std::string::npos) {
    const auto one = whole_of("--unit", text, 0, 1000000000);
    return {one, one};
  }
  const auto first = whole_of("--unit", text.substr(0, dots), 0, 1000000000);
  return {first, whole_of("--unit", text.substr(dots + 2), first, first + most - 1)};
}

std::uint64_t seed_of(const SimulateArguments& arguments) {
  return whole_of("--seed", arguments.seed, 0, ~std::uint64_t{0});
}

VirtualUnit Built::unit(const SimulateArguments& arguments, std::uint64_t number) const {
  auto result =
      number == 0 ? simulate::nominal(chain) : simulate::draw(chain, seed_of(arguments), number);
  for (const auto& text : arguments.deviate) deviate(result, chain, text);
  return result;
}

std::vector<Built> built_of(const SimulateArguments& arguments, const io::LoadedBoard& board) {
  model::Board believed = board;
  if (!arguments.firmware.empty()) {
    auto files = arguments.boards;
    files.push_back(arguments.firmware);
    believed = io::load_board(files);
  }
  std::vector<Built> result;
  for (auto& chain : chains_of(board, arguments)) {
    auto firmware = chain::build(believed, chain.channel.name);
    result.push_back({std::move(chain), std::move(firmware)});
  }
  return result;
}

void declare_input(Options& options, SimulateArguments& a) {
  options.choice("--input", a.input, names_of<Input>(), {"KIND", "of input", "steady"});
  options.option(
      "--low", a.low,
      {"VALUE", "low end of a ramp, a sine or a step, or the steady value", "the span's"});
  options.option("--high", a.high, {"VALUE", "high end of it", "the span's"});
  options.option("--frequency", a.frequency,
                 {"FREQUENCY", "of the sine; the coherent one nearest to it is taken"});
  options.option("--rate", a.rate, {"RATE", "of the conversions", "by the board"});
  options.option("--drift", a.drift, {"SLOPE", "of the input, such as \"0.1 V/s\""});
  options.option("--hum", a.hum, {"SINE", "on top, such as \"0.2 V at 50 Hz\""});
  options.option("--jitter", a.jitter, {"TIME", "of the moment of sampling, such as \"5 ns\""});
}

void declare_unit(Options& options, SimulateArguments& a) {
  options.group("The unit");
  options.option("--unit", a.unit, {"NUMBER", "0 has no deviations; 11..22: several", "1"});
  options.option("--seed", a.seed, {"NUMBER", "of all that is drawn", "1"});
  options.option("--run", a.run, {"NUMBER", "another run of the same unit: new noise", "0"});
  options.repeated("--deviate", a.deviate,
                   {"NAME=VALUE", "add to a parameter: \"divider top=-1.2 %\"; may be repeated"});
  options.input("--firmware", a.firmware, {"FILE", "changes what the firmware believes"});
  options.option("--inl", a.inl, {"LSB", "bend the steps by so much, such as \"2 LSB\""});
  options.choice("--bend", a.bend, names_of<simulate::Bend>(), {"SHAPE", "how", "bow"});
  options.repeated("--missing", a.missing, {"CODE", "that never comes; may be repeated"});
  options.only_with("--inl", {"--bend"});
}

namespace {

// Readings beside the meter, as the other commands read them.
std::string readings_text(const SimulateArguments& arguments, const model::Board& board,
                          const std::vector<Built>& channels) {
  const auto& unit = channels.front().chain.channel.span.unit;
  for (const auto& channel : channels) {
    if (channel.chain.channel.span.unit == unit) continue;
    refuse("simulate", channel.chain.channel.name + ", which is not in " + unit.symbol,
           "channels of one unit");
  }
  const auto& meter = io::choose_meter(board, arguments.boards.front(), arguments.meter, {},
                                       {.channel = channels.front().chain.channel.name});
  const auto seed = seed_of(arguments);
  const auto run = whole_of("--run", arguments.run, 0, 1000000);
  const auto numbers = numbers_of(arguments.unit);
  const bool several = numbers.last > numbers.first;
  const simulate::BenchMeter bench(meter, seed);
  const bool codes = arguments.shows == "codes";
  auto text = fmt::format(
      "# Made by: tamlo simulate, seed {}, unit {}, beside the meter {}.\n"
      "channel,meter [{}],{}{}\n",
      arguments.seed, arguments.unit, meter.name, unit.symbol,
      codes ? "code" : "reading [" + unit.symbol + "]", several ? ",unit" : "");
  for (const auto& channel : channels) {
    const auto name = io::csv_cell(channel.chain.channel.name);
    const int decimals = simulate::decimals(channel.chain);
    for (auto number = numbers.first; number <= numbers.last; ++number) {
      const auto board_unit = channel.unit(arguments, number);
      auto noise = simulate::noise_stream(seed, number, run);
      for (const auto& at : arguments.at) {
        const double x = value_of("--at", at, unit);
        const auto shown = bench.show(x);
        if (!shown)
          refuse("--at", "\"" + at + "\"", "a value that the meter " + meter.name + " reads");
        const simulate::UnitReader reader(channel.chain, channel.firmware, x);
        const auto value =
            codes ? fmt::format("{:.2f}", reader.register_value(board_unit, noise))
                  : fmt::format("{:.{}f}", quantity::in_unit(reader.read(board_unit, noise), unit),
                                decimals);
        text += fmt::format("{},{:.6g},{}{}\n", name, quantity::in_unit(*shown, unit), value,
                            several ? fmt::format(",{}", number) : "");
      }
    }
  }
  return text;
}

int run_simulate(const SimulateArguments& arguments) {
  const auto board = io::load_board(arguments.boards);
  const auto channels = built_of(arguments, board);
  if (arguments.at.empty()) return write_record(arguments, channels);
  const auto text = readings_text(arguments, board, channels);
  if (arguments.write.empty()) {
    print(text);
  } else {
    io::write_file(arguments.write, text);
  }
  return done;
}

void declare_simulate(Options& options, SimulateArguments& a) {
  options.board(a);
  options.group("Readings beside a meter");
  options.repeated("--at", a.at, {"VALUE", "a position of the knob; may be repeated"});
  options.option("--meter", a.meter,
                 {"NAME", "the meter of the board that is used", "by its ranges"});
  options.group("A record, without --at");
  options.option("--samples", a.samples, {"NUMBER", "of the record", "10000"});
  declare_input(options, a);
  declare_unit(options, a);
  options.group("Output");
  options.choice("--data", a.shows, {"codes", "readings"},
                 {"KIND", "what is captured", "readings with --at, else codes"});
  options.option("--layout", a.layout, {"LAYOUT", io::record_layouts, "by the name"});
  options.output("--write", a.write, {"FILE", "write to it", "standard output"});
  options.only_with("--at", {"--meter"});
  // Single readings are of a steady input and of codes without flaws.
  options.not_with("--at",
                   {"--samples", "--input", "--low", "--high", "--frequency", "--rate", "--drift",
                    "--hum", "--jitter", "--inl", "--bend", "--missing", "--layout"});
}

}  // namespace

extern const Command simulate_command{
    .name = "simulate",
    .question = "what would a real unit show?",
    .examples = {R"(simulate demo/board.toml pack_voltage --unit 7 --at "12 V" --at "48 V")",
                 R"(simulate demo/board.toml pack_voltage --input step --samples 200)"},
    .describe = [](Options& options) {
      return described<SimulateArguments>(options, declare_simulate, run_simulate);
    }};

}  // namespace tamlo::tool
