// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include "crew.hpp"
#include "simulate.hpp"
#include "tamlo/report/reports.hpp"
#include "tamlo/simulate/coverage.hpp"

namespace tamlo::tool {
namespace {

struct ProveArguments : SimulateArguments {
  std::string coverage = "0.95";
  Form format{};
  CrewArguments crew;

  ProveArguments() { unit = "1..10000"; }
};

int run_prove(const ProveArguments& arguments) {
  const io::BoardFiles files(arguments.boards);
  const auto channels = built_of(arguments, files.with());
  const double p = coverage_of(arguments.coverage);
  constexpr std::uint64_t most = 1'000'000'000;
  const auto numbers = numbers_of(arguments.unit, most);
  auto identity = files.all_texts() + fmt::format("coverage {} {} {} {}", arguments.coverage,
                                                  arguments.seed, numbers.first, numbers.last);
  if (!arguments.firmware.empty()) {
    auto believed = arguments.boards;
    believed.push_back(arguments.firmware);
    identity += io::BoardFiles(believed).all_texts();  // a curve that it names, too
  }
  std::vector<simulate::CoverageRequest> requests;
  for (const auto& channel : channels) {
    identity += channel.chain.channel.name + '\0';
    requests.push_back({.first = numbers.first,
                        .units = numbers.last - numbers.first + 1,
                        .seed = seed_of(arguments),
                        .coverage = p});
    for (const auto& at : arguments.at) {
      identity += at + '\0';
      requests.back().at.push_back(point_of(at, channel.chain.channel.span));
    }
  }
  Crew crew(arguments.crew, identity);
  result::Covered result{.seed = seed_of(arguments), .first = numbers.first};
  std::vector<report::Report> reports;
  bool all = true, holds = true;
  for (std::size_t i = 0; i < channels.size(); ++i) {
    const auto& chain = channels[i].chain;
    const auto proof =
        simulate::prove_coverage(chain, channels[i].firmware, requests[i], crew.driver(i),
                                 [&](double part) { return crew.go_on(part); });
    all = all && proof.units == requests[i].units;
    holds = holds && proof.holds();
    result.channels.push_back({chain.channel.name, chain.channel.span.unit, proof, proof.holds()});
    reports.push_back(report::of(result.channels.back()));
  }
  if (!crew.first()) return crew.leave(done);
  crew.wipe();
  show(result, reports, arguments.format);
  return crew.leave(!all ? environment : holds ? done : missed);
}

void declare_prove(Options& options, ProveArguments& a) {
  options.board(a);
  options.repeated("--at", a.at, {"VALUE", "a place; may be repeated", "the places of the budget"});
  options.input("--firmware", a.firmware, {"FILE", "changes what the firmware believes"});
  options.group("The units");
  options.option("--unit", a.unit, {"NUMBERS", "virtual units that are read", "1..10000"});
  options.option("--seed", a.seed, {"NUMBER", "of all that is drawn", "1"});
  options.coverage(a.coverage);
  options.group("Output");
  options.format(a.format);
  declare_crew(options, a.crew);
}

}  // namespace

extern const Command prove_command{
    .name = "prove",
    .question = "do readings of virtual units lie within the budget as often as it says?",
    .examples = {R"(prove demo/board.toml pack_voltage --unit 1..1000)",
                 R"(prove demo/board.toml coolant_flow --unit 1..500 --coverage 0.9)"},
    .describe = [](Options& options) {
      return described<ProveArguments>(options, declare_prove, run_prove);
    }};

}  // namespace tamlo::tool
