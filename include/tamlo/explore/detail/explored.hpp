// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "tamlo/explore/explore.hpp"
#include "tamlo/export.hpp"

/// Outcome of a search, by the names and units of the choices file.
namespace tamlo {
namespace explore TAMLO_API {

/// A candidate of a design, in words.
struct ExploredChoice {
  std::string name{}, value{};
};
/// An amount that candidates have, and its limit.
struct ExploredAmount {
  std::string name{};
  double value = 0.0;  ///< in the unit
  std::string unit{};
};
/// A candidate, with its choices by name.
struct ExploredCandidate {
  std::uint64_t number = 0;
  bool feasible = false;
  double error = 0.0, latency = 0.0;
  std::vector<ExploredAmount> amounts{};
  std::vector<ExploredChoice> choices{};
  /// Number of another candidate of the front that is at most one percent worse in every goal.
  std::optional<std::uint64_t> like{};
};

/// The candidate of the least error, latency, or amount.
struct ExploredBest {
  std::string least{};
  ExploredCandidate candidate{};
};
/// Cost of a target, and of the next tighter one: in the first goal that is an amount.
struct ExploredCost {
  std::string channel{};
  Target target = Target::accuracy;
  double now = 0.0, cost = 0.0;  ///< cost in the unit of the amount
  std::uint64_t number = 0;
  std::optional<double> next{}, next_cost{};
  std::optional<std::uint64_t> next_number{};
};

/// Limit or target that the nearest candidate misses.
struct ExploredMiss {
  std::string what{};     ///< name of an amount, or "accuracy", "latency", "noise_free"
  std::string channel{};  ///< of a target
  double reached = 0.0;   ///< in the unit; of an accuracy the part of what is allowed
  double allowed = 0.0;
  std::string unit{};
  std::uint64_t number = 0;  ///< candidate that misses it
};

/// The front of all candidates.
struct Explored {
  std::vector<std::string> channels{}, goals{};
  std::uint64_t candidates = 0, tried = 0, feasible = 0, evaluated = 0;
  std::vector<std::string> without_accuracy{};  ///< channels of which no error is known
  std::vector<ExploredCandidate> front{}, nearest{};
  std::vector<ExploredBest> best{};
  std::string cost_of{};  ///< the amount that costs are in, with its unit
  std::vector<ExploredCost> costs{};
  std::vector<std::string> never_matter{};  ///< choices that change no goal of the front
  std::vector<ExploredMiss> relax_first{};  ///< where nothing is feasible: what has to give way
};

/// Returns the figure of a candidate that a goal is of, SI: "error", "latency" or an amount's name.
double goal_of(const Space& space, const Candidate& candidate, const std::string& goal);

/// Returns the result of a search with names in place of numbers.
Explored by_names(const Space& space, const Exploration& exploration);

}  // namespace explore
}  // namespace tamlo
