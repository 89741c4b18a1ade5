// SPDX-License-Identifier: Apache-2.0
#include "judge.hpp"

#include <algorithm>
#include <cmath>

#include "tamlo/math/detail/power_of_ten.hpp"

namespace tamlo::explore {
namespace {

// Powers of ten up to 1e22 are exact, so that a scaled decimal is the nearest double.
double scaled(double value, int place) {
  return place < 0 ? value * math::power_of_ten(-place) : value / math::power_of_ten(place);
}

}  // namespace

Goal goal_named(const Space& space, const std::string& name) {
  for (std::size_t a = 0; a < space.amounts.size(); ++a) {
    if (space.amounts[a].name == name) return {Goal::Of::amount, a};
  }
  return {name == "latency" ? Goal::Of::latency : Goal::Of::error};
}

Judge::Judge(const Space& space, const std::vector<ChannelTable>& tables)
    : space_(space), tables_(tables) {
  const auto amounts = space.amounts.size();
  std::vector<double> largest(amounts, 0.0);
  for (std::size_t i = 0; i < space.choices.size(); ++i) {
    if (space.choices[i].keys.empty()) adjustment_ = i;
    for (std::size_t a = 0; a < amounts; ++a) {
      double most = 0.0;
      for (const auto& option : space.choices[i].options)
        most = std::max(most, std::abs(option.amounts[a]));
      largest[a] += most;
    }
  }
  for (std::size_t a = 0; a < amounts; ++a) {
    places_.push_back(largest[a] > 0.0 ? static_cast<int>(math::decade_of(largest[a])) - 14 : 0);
    const auto& limit = space.amounts[a].limit;
    limits_.push_back(limit ? std::round(scaled(*limit, places_[a]))
                            : std::numeric_limits<double>::infinity());
  }
  for (const auto& choice : space.choices) {
    auto& of_choice = wholes_.emplace_back();
    for (const auto& option : choice.options) {
      auto& of_option = of_choice.emplace_back();
      for (std::size_t a = 0; a < amounts; ++a)
        of_option.push_back(std::round(scaled(option.amounts[a], places_[a])));
    }
  }
}

std::size_t Judge::adjusted(const std::vector<std::size_t>& pick) const {
  if (!adjustment_) return 0;
  return static_cast<std::size_t>(
      space_.choices[*adjustment_].options[pick[*adjustment_]].adjustment);
}

bool Judge::is(Wanted wanted, const Figures& figures, const std::vector<std::size_t>& pick) const {
  if (wanted == Wanted::tried) return figures.state != Figures::State::not_tried;
  if (figures.state != Figures::State::sound) return false;
  return wanted == Wanted::sound || figures.meets[adjusted(pick)];
}

double Judge::figure(Goal::Of goal, const Figures& figures,
                     const std::vector<std::size_t>& pick) const {
  if (goal == Goal::Of::latency) return figures.latency;
  return goal == Goal::Of::noise ? -figures.noise_free : figures.error[adjusted(pick)];
}

bool Judge::is(Wanted wanted, const std::vector<std::size_t>& pick) const {
  return std::ranges::all_of(
      tables_, [&](const ChannelTable& table) { return is(wanted, table.of(pick), pick); });
}

Candidate Judge::candidate(std::uint64_t number, const std::vector<std::size_t>& pick) const {
  Candidate result{.number = number, .pick = pick, .feasible = is(Wanted::feasible, pick)};
  for (const auto& table : tables_) {
    const auto& figures = table.of(pick);
    result.error = std::max(result.error, figure(Goal::Of::error, figures, pick));
    result.latency = std::max(result.latency, figures.latency);
  }
  for (std::size_t a = 0; a < limits_.size(); ++a) {
    double sum = 0.0;
    for (std::size_t i = 0; i < pick.size(); ++i) sum += wholes_[i][pick[i]][a];
    if (sum > limits_[a]) result.feasible = false;
    result.amounts.push_back(scaled(sum, -places_[a]));
  }
  return result;
}

double Judge::goal(const Goal& goal, const Candidate& candidate) const {
  if (goal.of == Goal::Of::amount) return candidate.amounts[goal.at];
  if (goal.at == Goal::every)
    return goal.of == Goal::Of::latency ? candidate.latency : candidate.error;
  return figure(goal.of, tables_[goal.at].of(candidate.pick), candidate.pick);
}

std::pair<double, std::size_t> Judge::excess(const Candidate& candidate) const {
  std::pair<double, std::size_t> result{0.0, 0};
  for (std::size_t a = 0; a < candidate.amounts.size(); ++a) {
    const auto& limit = space_.amounts[a].limit;
    if (!limit || candidate.amounts[a] <= *limit) continue;
    const double over = candidate.amounts[a] - *limit;
    const double part = *limit == 0.0 ? over : over / std::abs(*limit);
    if (part > result.first) result = {part, a};
  }
  return result;
}

}  // namespace tamlo::explore
