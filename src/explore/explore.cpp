// SPDX-License-Identifier: Apache-2.0
#include "tamlo/explore/explore.hpp"

#include <algorithm>
#include <cmath>

#include "tables.hpp"
#include "tamlo/error.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/names.hpp"
#include "together.hpp"

namespace tamlo::explore {
namespace {

constexpr std::size_t most_figures = 14;
constexpr std::uint64_t most_candidates = std::uint64_t{1} << 53U;  // exact in JSON

void validate(const Space& space) {
  require(!space.choices.empty() && !space.goals.empty() && !space.channels.empty(),
          "choices, goals and channels");
  require(space.goals.size() + space.amounts.size() <= most_figures,
          "at most 14 goals and amounts together");
  for (const auto& choice : space.choices) {
    require(!choice.options.empty(), "a choice with options");
    for (const auto& option : choice.options) {
      require(option.amounts.size() == space.amounts.size() &&
                  std::ranges::all_of(option.amounts,
                                      [](double value) { return std::isfinite(value); }),
              "a finite amount of each kind");
    }
  }
  require(
      std::ranges::count_if(space.choices, [](const Choice& one) { return one.keys.empty(); }) <= 1,
      "one choice of an adjustment at most");
  for (const auto& goal : space.goals) {
    const bool known = goal == "error" || goal == "latency" ||
                       std::ranges::find(space.amounts, goal, &Amount::name) != space.amounts.end();
    require(known, "goals that are error, latency or an amount");
  }
}

std::uint64_t candidates_of(const Space& space) {
  std::uint64_t count = 1;
  for (const auto& choice : space.choices) {
    require(choice.options.size() <= most_candidates / count, "at most 2^53 candidates");
    count *= choice.options.size();
  }
  return count;
}

std::vector<Goal> goals_of(const Space& space) {
  std::vector<Goal> goals;
  for (const auto& name : space.goals) goals.push_back(goal_named(space, name));
  return goals;
}

std::vector<Best> best_of(const Space& space, const Together& together) {
  std::vector<std::string> names;
  for (const auto& amount : space.amounts) names.push_back(amount.name);
  names.insert(names.end(), {"error", "latency"});
  std::vector<Best> result;
  for (const auto& name : names) {
    std::vector<Goal> goals{goal_named(space, name)};
    for (const auto& goal : goals_of(space)) {
      if (goal != goals.front() && goals.size() < 2) goals.push_back(goal);
    }
    const auto front = together.front(goals, Wanted::feasible);
    if (!front.empty()) result.push_back({name, front.front()});
  }
  return result;
}

// What the targets of each channel cost in the first goal that is an amount.
void find_costs(Exploration& into, const Space& space, const model::Board& board,
                const Together& together, const Judge& judge) {
  const auto goals = goals_of(space);
  const auto amount = std::ranges::find(goals, Goal::Of::amount, &Goal::of);
  if (amount == goals.end()) return;
  into.cost_amount = amount->at;
  for (std::size_t c = 0; c < space.channels.size(); ++c) {
    const auto& target = target_of(board, space.channels[c]);
    const auto add = [&](Target kind, Goal::Of figure) {
      const Goal goal{figure, c};
      const auto front = together.front({*amount, goal}, Wanted::feasible);
      if (front.empty()) return;
      const double sign = figure == Goal::Of::noise ? -1.0 : 1.0;
      TargetCost cost{.channel = space.channels[c], .target = kind, .at = front.front()};
      cost.now = sign * judge.goal(goal, cost.at);
      if (front.size() > 1) {
        cost.next_at = front[1];
        cost.next = sign * judge.goal(goal, front[1]);
      }
      into.costs.push_back(std::move(cost));
    };
    if (target.accuracy) add(Target::accuracy, Goal::Of::error);
    if (target.latency) add(Target::latency, Goal::Of::latency);
    if (target.noise_free) add(Target::noise_free, Goal::Of::noise);
  }
}

// The nearest misses, where nothing is feasible.
void miss(Exploration& result, const Space& space, const model::Board& board,
          const Together& together, const Judge& judge) {
  std::vector<Goal> nearness{{Goal::Of::error}}, limited;
  for (std::size_t a = 0; a < space.amounts.size(); ++a) {
    nearness.push_back({Goal::Of::amount, a});
    if (space.amounts[a].limit) limited.push_back(nearness.back());
  }
  result.nearest = together.front(nearness, Wanted::sound);
  if (result.nearest.empty()) return;
  for (std::size_t c = 0; c < space.channels.size(); ++c) {
    const auto& name = space.channels[c];
    const auto& target = target_of(board, name);
    const auto reached = [&](Goal::Of kind) {
      return judge.goal({kind, c}, result.nearest.front());
    };
    if (const auto error = reached(Goal::Of::error); error > 1.0)
      result.misses.push_back({name, Target::accuracy, error, 1.0});
    if (const auto latency = reached(Goal::Of::latency);
        target.latency && latency > *target.latency)
      result.misses.push_back({name, Target::latency, latency, *target.latency});
    if (const auto bits = -reached(Goal::Of::noise); target.noise_free && bits < *target.noise_free)
      result.misses.push_back({name, Target::noise_free, bits, *target.noise_free});
  }
  if (limited.empty()) return;
  double least = std::numeric_limits<double>::infinity();
  for (const auto& near_miss : together.front(limited, Wanted::meets_targets)) {
    const auto [part, amount] = judge.excess(near_miss);
    if (!(part < least)) continue;
    least = part;
    result.beyond_limits = near_miss;
    result.exceeds = amount;
  }
}

std::vector<Candidate> behind_of(const Space& space, const Judge& judge, std::uint64_t candidates) {
  constexpr std::uint64_t most = 4096;
  std::vector<Candidate> result;
  const auto every = (candidates + most - 1) / most;
  for (std::uint64_t number = 0; number < candidates; number += every) {
    const auto pick = pick_of(space, number);
    if (judge.is(Wanted::sound, pick)) result.push_back(judge.candidate(number, pick));
  }
  return result;
}

std::vector<bool> what_matters(const Space& space, const Judge& judge,
                               const std::vector<Candidate>& front) {
  std::vector<bool> matters(space.choices.size(), false);
  const auto goals = goals_of(space);
  for (const auto& each : front) {
    for (std::size_t i = 0; i < matters.size(); ++i) {
      auto pick = each.pick;
      for (std::size_t o = 0; o < space.choices[i].options.size() && !matters[i]; ++o) {
        pick[i] = o;
        const auto other = judge.candidate(0, pick);
        matters[i] =
            other.feasible != each.feasible || std::ranges::any_of(goals, [&](const Goal& goal) {
              return judge.goal(goal, other) != judge.goal(goal, each);
            });
      }
    }
  }
  return matters;
}

}  // namespace

std::string_view name(Target target) {
  return name_in({"accuracy", "latency", "noise_free"}, target);
}

Exploration explore(const Space& space, const BoardOf& board, const math::BlockDriver& driver,
                    const std::function<bool(double)>& go_on) {
  validate(space);
  const auto as_it_is = board(Pick(space.choices.size()));
  auto tables = tables_of(space, as_it_is);
  Exploration result{.candidates = candidates_of(space)};
  for (const auto& table : tables) {
    result.evaluated += table.figures.size();
    if (!target_of(as_it_is, table.channel).accuracy)
      result.without_accuracy.push_back(table.channel);
  }
  const bool all = fill(tables, space, board, driver, go_on);
  const Judge judge(space, tables);
  // Once ended, what is known is put together without asking again; where that is ended too, it is
  // not said how many were tried.
  const Together together(space, tables, judge, all ? go_on : std::function<bool(double)>{});
  result.tried = all ? result.candidates : together.count(Wanted::tried);
  result.feasible = together.count(Wanted::feasible);
  result.front = together.front(goals_of(space), Wanted::feasible);
  if (result.feasible > 0) {
    result.best = best_of(space, together);
    find_costs(result, space, as_it_is, together, judge);
  } else {
    miss(result, space, as_it_is, together, judge);
  }
  result.behind = behind_of(space, judge, result.candidates);
  result.matters = what_matters(space, judge, result.front);
  if (together.ended()) result.tried = 0;
  return result;
}

std::vector<std::size_t> pick_of(const Space& space, std::uint64_t number) {
  std::vector<std::size_t> pick(space.choices.size());
  for (std::size_t i = pick.size(); i-- > 0;) {
    const auto count = space.choices[i].options.size();
    pick[i] = static_cast<std::size_t>(number % count);
    number /= count;
  }
  require(number == 0, "a number of a candidate");
  return pick;
}

Candidate candidate_of(const Space& space, const BoardOf& board, std::uint64_t number) {
  validate(space);
  const auto pick = pick_of(space, number);
  const Pick picked(pick.begin(), pick.end());
  // Tables in which only this candidate's combinations are tried.
  auto tables = tables_of(space, board(Pick(space.choices.size())));
  for (auto& table : tables) {
    table.figures[table.index_of(pick)] = figures_of(space, board, picked, table.channel);
  }
  return Judge(space, tables).candidate(number, pick);
}

}  // namespace tamlo::explore
