// SPDX-License-Identifier: Apache-2.0
#include "tamlo/explore/detail/explored.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <numeric>

#include "tamlo/error.hpp"
#include "tamlo/quantity/unit.hpp"

namespace tamlo::explore {
namespace {

// For each candidate of the front the place of one that stands for it, its own where it stands for
// itself: those that stand for most come first.
std::vector<std::size_t> folded(const Space& space, const std::vector<Candidate>& front) {
  constexpr double alike = 0.01;
  constexpr std::size_t most = 4000;  // each is held against each
  const auto goals = space.goals.size();
  std::vector<double> figures;
  for (const auto& candidate : front) {
    for (const auto& goal : space.goals) figures.push_back(goal_of(space, candidate, goal));
  }
  const auto stands_for = [&](std::size_t one, std::size_t other) {
    for (std::size_t g = 0; g < goals; ++g) {
      const double figure = figures[other * goals + g];
      if (figures[one * goals + g] > figure + alike * std::abs(figure)) return false;
    }
    return true;
  };
  std::vector<std::size_t> result(front.size()), count(front.size());
  std::iota(result.begin(), result.end(), std::size_t{0});
  if (front.size() > most) return result;
  for (std::size_t i = 0; i < front.size(); ++i) {
    for (std::size_t j = 0; j < front.size(); ++j) count[i] += stands_for(i, j) ? 1 : 0;
  }
  auto order = result;
  std::ranges::stable_sort(order, std::greater<>(), [&](std::size_t i) { return count[i]; });
  std::vector<bool> done(front.size());
  for (const auto i : order) {
    if (done[i]) continue;
    for (std::size_t j = 0; j < front.size(); ++j) {
      if (done[j] || !stands_for(i, j)) continue;
      done[j] = true;
      result[j] = i;
    }
  }
  return result;
}

}  // namespace

double goal_of(const Space& space, const Candidate& candidate, const std::string& goal) {
  if (goal == "error") return candidate.error;
  if (goal == "latency") return candidate.latency;
  const auto at = std::ranges::find(space.amounts, goal, &Amount::name);
  require(at != space.amounts.end(), "a goal that the space has");
  return candidate.amounts[static_cast<std::size_t>(at - space.amounts.begin())];
}

Explored by_names(const Space& space, const Exploration& exploration) {
  Explored result{.channels = space.channels,
                  .goals = space.goals,
                  .candidates = exploration.candidates,
                  .tried = exploration.tried,
                  .feasible = exploration.feasible,
                  .evaluated = exploration.evaluated,
                  .without_accuracy = exploration.without_accuracy};
  const auto named = [&](const Candidate& one) {
    ExploredCandidate candidate{
        .number = one.number, .feasible = one.feasible, .error = one.error, .latency = one.latency};
    for (std::size_t a = 0; a < space.amounts.size(); ++a) {
      const auto& amount = space.amounts[a];
      candidate.amounts.push_back({.name = amount.name,
                                   .value = quantity::in_unit(one.amounts[a], amount.unit),
                                   .unit = amount.unit.symbol});
    }
    for (std::size_t i = 0; i < space.choices.size(); ++i) {
      const auto& choice = space.choices[i];
      candidate.choices.push_back(
          {.name = choice.name, .value = choice.options[one.pick[i]].label});
    }
    return candidate;
  };
  const auto stands = folded(space, exploration.front);
  for (std::size_t i = 0; i < exploration.front.size(); ++i) {
    auto candidate = named(exploration.front[i]);
    if (stands[i] != i) candidate.like = exploration.front[stands[i]].number;
    result.front.push_back(std::move(candidate));
  }
  for (const auto& each : exploration.nearest) result.nearest.push_back(named(each));
  for (const auto& each : exploration.best) result.best.push_back({each.of, named(each.candidate)});
  if (const auto a = exploration.cost_amount) {
    const auto& [name, unit, limit] = space.amounts[*a];
    result.cost_of = unit.symbol.empty() ? name : fmt::format("{} [{}]", name, unit.symbol);
    for (const auto& each : exploration.costs) {
      ExploredCost cost{.channel = each.channel,
                        .target = each.target,
                        .now = each.now,
                        .cost = quantity::in_unit(each.at.amounts[*a], unit),
                        .number = each.at.number,
                        .next = each.next};
      if (each.next_at) {
        cost.next_cost = quantity::in_unit(each.next_at->amounts[*a], unit);
        cost.next_number = each.next_at->number;
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
