// SPDX-License-Identifier: Apache-2.0
#include "tamlo/explore/detail/explored.hpp"

#include <fmt/format.h>

#include "tamlo/quantity/unit.hpp"

namespace tamlo::explore {

Explored by_names(const Space& space, const Exploration& exploration) {
  Explored result{.channels = space.channels,
                  .goals = space.goals,
                  .candidates = exploration.candidates,
                  .tried = exploration.tried,
                  .feasible = exploration.feasible,
                  .evaluated = exploration.evaluated,
                  .without_accuracy = exploration.without_accuracy};
  const auto named = [&](const Candidate& of) {
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
  for (const auto& of : exploration.front) result.front.push_back(named(of));
  for (const auto& of : exploration.nearest) result.nearest.push_back(named(of));
  for (const auto& of : exploration.best) result.best.push_back({of.of, named(of.candidate)});
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
    result.relax_first.push_back(
        {.what = amount.name,
         .reached = quantity::in_unit(beyond->amounts[exploration.exceeds], amount.unit),
         .allowed = quantity::in_unit(amount.limit.value_or(0.0), amount.unit),
         .unit = amount.unit.symbol,
         .number = beyond->number});
  } else {
    for (const auto& miss : exploration.misses) {
      result.relax_first.push_back({.what = std::string(name(miss.target)),
                                    .channel = miss.channel,
                                    .reached = miss.reached,
                                    .allowed = miss.allowed,
                                    .unit = miss.target == Target::latency      ? "s"
                                            : miss.target == Target::noise_free ? "bit"
                                                                                : "",
                                    .number = exploration.nearest.front().number});
    }
  }
  for (std::size_t i = 0; i < space.choices.size() && !result.front.empty(); ++i) {
    if (!exploration.matters[i]) result.never_matter.push_back(space.choices[i].name);
  }
  return result;
}

}  // namespace tamlo::explore
