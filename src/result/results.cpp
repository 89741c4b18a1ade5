// SPDX-License-Identifier: Apache-2.0
#include "tamlo/result/results.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "tamlo/chain/detail/bias_parts.hpp"

namespace tamlo::result {

namespace {

void add_zones(ChannelSettings& settings, std::uint64_t rough_units) {
  const auto& chain = settings.chain;
  const auto edges = chain::zone_edges(chain);
  if (edges.empty()) return;
  const auto& zones = *chain.channel.zones;
  const auto budget =
      budget::evaluate(chain, {.at = zones.edges, .search = false, .rough_units = rough_units});
  for (std::size_t i = 0; i < edges.size(); ++i) {
    settings.zone_edges.push_back({.below = zones.names[i],
                                   .above = zones.names[i + 1],
                                   .at = zones.edges[i],
                                   .figures = edges[i],
                                   .standard_uncertainty = budget.points[i].combined,
                                   .expanded = budget.points[i].expanded,
                                   .coverage = budget.points[i].coverage});
  }
  for (const auto& width : chain::zone_widths(chain, edges)) {
    settings.zones.push_back({.name = zones.names[settings.zones.size()],
                              .from = width.from,
                              .to = width.to,
                              .codes = width.codes,
                              .narrow = width.narrow});
  }
}

}  // namespace

std::uint64_t Check::count(check::Severity severity) const {
  return static_cast<std::uint64_t>(
      std::ranges::count(findings, severity, [](const FoundAt& of) { return of.severity; }));
}

Check check_of(const model::Board& board, const std::vector<std::string>& channels) {
  Check result{.channels = channels};
  for (const auto& channel : channels) {
    for (auto& finding : check::check(board, channel)) {
      result.findings.push_back({std::move(finding)});
    }
    for (auto& omission : check::omissions(board, channel))
      result.omissions.push_back(std::move(omission));
    if (chain::of_ideal_parts(chain::build(board, channel))) result.ideal.push_back(channel);
  }
  std::ranges::stable_sort(result.findings, {}, [](const FoundAt& of) { return of.severity; });
  return result;
}

ChannelSettings settings_of(chain::Chain chain, const SettingsRequest& request) {
  ChannelSettings result{.chain = std::move(chain)};
  const auto& of = result.chain;
  result.settings = chain::settings(of);
  result.dynamics = chain::dynamics(of);
  if (auto figures = chain::threshold(of)) {
    const auto budget = budget::evaluate(
        of,
        {.at = {of.channel.threshold->at}, .search = false, .rough_units = request.rough_units});
    const auto& point = budget.points.front();
    const auto& asked = *of.channel.threshold;
    result.threshold = Threshold{.figures = *figures,
                                 .on_asked = asked.at,
                                 .off_asked = asked.at - asked.hysteresis,
                                 .expanded = point.expanded,
                                 .coverage = point.coverage};
  }
  add_zones(result, request.rough_units);
  if (request.frequency) result.sine = chain::sampled_sine(of, *request.frequency);
  if (const auto& slope = request.slope) {
    const double middle = of.channel.span.middle();
    result.ramp = Ramp{.slope = *slope,
                       .step = chain::step_at(of, middle),
                       .time_between_steps = chain::time_between_steps(of, middle, *slope)};
  }
  return result;
}

ChannelFirmware firmware_of(const model::Board& board, const chain::Chain& chain,
                            const firmware::Request& request) {
  const auto& channel = chain.channel.name;
  ChannelFirmware result{.plan = firmware::plan(chain, request)};
  // A multiplication and an addition; a curve takes a logarithm or a power besides.
  result.float_operations = result.plan.arithmetic.form == firmware::Form::straight ? 2 : 104;
  auto changed = board;
  auto& of = *std::ranges::find(changed.channels, channel, &model::Channel::name);
  of = firmware::with_integers(of, result.plan);
  const auto budget = budget::evaluate(chain::build(changed, channel), {.details = false});
  const auto& worst = budget.worst_place;
  if (worst.limit) result.target_met = budget.target_met();
  result.error = worst.error();
  result.limit = worst.limit;
  return result;
}

BeforeAfter before_after(std::string readings, const meter::Comparison& before,
                         const meter::Comparison& after) {
  const auto largest = [](const meter::Comparison& of) {
    double result = 0.0;
    for (const auto& row : of.rows) result = std::max(result, std::abs(row.difference));
    return result;
  };
  return {.readings = std::move(readings),
          .before = largest(before),
          .after = largest(after),
          .passed_before = before.summary.passed,
          .passed_after = after.summary.passed,
          .rows = static_cast<int>(before.rows.size())};
}

Explored explored_of(const explore::Space& space, const explore::Exploration& exploration) {
  Explored result{.channels = space.channels,
                  .goals = space.goals,
                  .candidates = exploration.candidates,
                  .tried = exploration.tried,
                  .feasible = exploration.feasible,
                  .evaluated = exploration.evaluated,
                  .without_accuracy = exploration.without_accuracy};
  const auto told = [&](const explore::Candidate& of) {
    ExploredCandidate candidate{
        .number = of.number, .feasible = of.feasible, .error = of.error, .latency = of.latency};
    for (std::size_t a = 0; a < space.amounts.size(); ++a) {
      const auto& amount = space.amounts[a];
      candidate.amounts.push_back({.name = amount.name,
                                   .value = quantity::in_unit(of.amounts[a], amount.unit),
                                   .unit = amount.unit.symbol});
    }
    for (std::size_t i = 0; i < space.choices.size(); ++i) {
      const auto& choice = space.choices[i];
      candidate.choices.push_back({.name = choice.name, .value = choice.options[of.pick[i]].label});
    }
    return candidate;
  };
  for (const auto& of : exploration.front) result.front.push_back(told(of));
  for (const auto& of : exploration.nearest) result.nearest.push_back(told(of));
  for (const auto& of : exploration.best) result.best.push_back({of.of, told(of.candidate)});
  if (const auto a = exploration.cost_amount) {
    const auto& [name, unit, limit] = space.amounts[*a];
    result.cost_of = unit.symbol.empty() ? name : fmt::format("{} [{}]", name, unit.symbol);
    for (const auto& of : exploration.costs) {
      ExploredCost cost{.channel = of.channel,
                        .target = of.target,
                        .now = of.now,
                        .cost = quantity::in_unit(of.at.amounts[*a], unit),
                        .number = of.at.number,
                        .next = of.next};
      if (of.next_at) {
        cost.next_cost = quantity::in_unit(of.next_at->amounts[*a], unit);
        cost.next_number = of.next_at->number;
      }
      result.costs.push_back(std::move(cost));
    }
  }
  if (const auto& beyond = exploration.beyond_limits) {
    const auto& amount = space.amounts[exploration.exceeds];
    const auto in = [&](double si) {
      const auto text = quantity::significant(si, amount.unit, 4);
      return amount.unit.symbol.empty() ? text : text + " " + amount.unit.symbol;
    };
    result.relax_first =
        fmt::format("the limit of {}: candidate {} meets every target with {}, where {} is allowed",
                    amount.name, beyond->number, in(beyond->amounts[exploration.exceeds]),
                    in(amount.limit.value_or(0.0)));
  } else if (!exploration.misses.empty()) {
    std::vector<std::string> missed;
    for (const auto& of : exploration.misses) {
      const auto told_of = [&](double value) {
        switch (of.target) {
          case explore::Target::accuracy:
            return quantity::significant(100.0 * value, {}, 4) + " %";
          case explore::Target::latency:
            return quantity::engineering(value, quantity::unit("s"), 3);
          case explore::Target::noise_free:
            return fmt::format("{:.2f} bit", value);
        }
        return std::string();
      };
      missed.push_back(of.target == explore::Target::accuracy
                           ? fmt::format("the accuracy of {}: {} of what it allows is used up",
                                         of.channel, told_of(of.reached))
                           : fmt::format("the {} of {}: {}, and {} is asked for",
                                         of.target == explore::Target::latency
                                             ? "latency"
                                             : "noise-free resolution",
                                         of.channel, told_of(of.reached), told_of(of.allowed)));
    }
    result.relax_first = fmt::format("{} (candidate {})", fmt::join(missed, "; "),
                                     exploration.nearest.front().number);
  }
  for (std::size_t i = 0; i < space.choices.size() && !result.front.empty(); ++i) {
    if (!exploration.matters[i]) result.never_matter.push_back(space.choices[i].name);
  }
  return result;
}

}  // namespace tamlo::result
