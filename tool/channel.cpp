// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include "job.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/report/plot.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

struct ChannelArguments : BoardArguments {
  std::string plot, kind = "response", ramp, sine, staircase, beside;
  Form format{};
};

// The same channel with another resolution.
chain::Chain with_resolution(model::Board board, const chain::Chain& chain,
                             const std::string& text) {
  const double bits = value_of("--other-resolution", text, quantity::unit("bit"));
  if (!(bits >= 1.0 && bits <= 32.0 && bits == static_cast<int>(bits))) {
    refuse("--other-resolution", fmt::format("\"{}\"", text), "a resolution from 1 bit to 32 bit");
  }
  for (auto& converter : board.converters) {
    if (converter.name == chain.converter.name) converter.resolution = static_cast<int>(bits);
  }
  return chain::build(board, chain.channel.name);
}

double sine_of(const std::string& text, const chain::Chain& chain) {
  const double frequency = value_of("--sine", text, quantity::unit("Hz"));
  if (!(frequency > 0.0)) refuse("--sine", "\"" + text + "\"", "a frequency above 0");
  if (!(chain.firmware.digital.rate > 0.0)) {
    refuse("--sine", "channel " + chain.channel.name + ", whose rate is not known",
           "rate = \"1 kSa/s\" in the board, or --channel with another");
  }
  return frequency;
}

std::string picture_of(const chain::Chain& chain, const ChannelArguments& arguments) {
  const auto image = *report::image_of(arguments.plot);
  if (arguments.kind == "zones") {
    if (!chain.channel.zones) {
      refuse("--plot-kind", "a channel without zones", "zones = { edges = [...] } in the board");
    }
    return report::plot_zones(budget::settings(chain), image);
  }
  if (arguments.kind == "sampled") {
    if (arguments.sine.empty())
      refuse("--plot-kind", "\"sampled\" without a sine", "--sine \"5 Hz\"");
    return report::plot_sampled(chain, sine_of(arguments.sine, chain), image);
  }
  if (chain.firmware.digital.stages.empty()) {
    refuse("--plot", "a channel without average and filter", "one that has a response to draw");
  }
  return report::draw(report::chart_of_response(chain), image);
}

void draw(const model::Board& board, const std::vector<chain::Chain>& chains,
          const ChannelArguments& arguments) {
  check_picture("--plot", arguments.plot, chains.size());
  check_picture("--staircase", arguments.staircase, chains.size());
  io::OutputFiles outputs({arguments.plot, arguments.staircase});
  const auto& chain = chains.front();
  if (!arguments.plot.empty()) {
    outputs.write(arguments.plot, picture_of(chain, arguments));
  }
  if (arguments.staircase.empty()) return outputs.finish();
  if (arguments.ramp.empty() || arguments.beside.empty()) {
    refuse("--staircase", "no ramp, or nothing beside",
           fmt::format("--ramp \"1 {}/s\" --other-resolution \"8 bit\"",
                       quantity::difference_unit(chain.channel.span.unit).symbol));
  }
  outputs.write(arguments.staircase,
                report::plot_staircase(chain, with_resolution(board, chain, arguments.beside),
                                       slope_of("--ramp", arguments.ramp, chain.channel.span.unit),
                                       *report::image_of(arguments.staircase)));
  outputs.finish();
}

int run_channel(const ChannelArguments& arguments) {
  const auto board = io::load_board(arguments.boards);
  const auto chains = chains_of(board, arguments);
  draw(board, chains, arguments);
  result::ChannelsSettings result;
  std::vector<report::Report> reports;
  for (const auto& chain : chains) {
    budget::SettingsRequest request{.rough_units = budget::rough_units_among(chains.size())};
    if (!arguments.ramp.empty()) {
      request.slope = slope_of("--ramp", arguments.ramp, chain.channel.span.unit);
    }
    if (!arguments.sine.empty()) request.frequency = sine_of(arguments.sine, chain);
    reports.push_back(report::of(result.channels.emplace_back(budget::settings(chain, request))));
  }
  show(result, reports, arguments.format);
  return done;
}

void declare_channel(Options& options, ChannelArguments& a) {
  options.board(a);
  options.group("A moving quantity");
  options.option("--ramp", a.ramp, {"SLOPE", "how often the reading changes at \"2 V/s\""});
  options.output("--staircase", a.staircase, {"FILE", "draw that ramp to FILE.svg or FILE.png"});
  options.option("--other-resolution", a.beside,
                 {"BITS", "also draw at this resolution, such as \"8 bit\""});
  options.only_with("--staircase", {"--other-resolution"});
  options.option("--sine", a.sine, {"FREQUENCY", "what the readings show of a sine of \"5 Hz\""});
  options.group("Output");
  options.plot(a.plot, a.kind, {"response", "zones", "sampled"}, "response");
  options.format(a.format);
}

}  // namespace

extern const Command channel_command{
    .name = "channel",
    .question = "what are the effective settings: code width, range used, rates, noise, delay?",
    .examples =
        {R"(channel demo/board.toml --channel coolant_flow)",
         R"(channel demo/board.toml --channel coolant_flow --ramp "1 l/min/s" --format json)"},
    .describe = [](Options& options) {
      return described<ChannelArguments>(options, declare_channel, run_channel);
    }};

}  // namespace tamlo::tool
