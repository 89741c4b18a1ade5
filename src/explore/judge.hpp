// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <limits>
#include <optional>
#include <vector>

#include "tables.hpp"

namespace tamlo::explore {

/// One figure that is to be small: of the whole candidate, or of one channel.
struct Goal {
  enum class Of : std::uint8_t { amount, error, latency, noise };
  static constexpr std::size_t every = ~std::size_t{0};

  Of of = Of::error;
  std::size_t at = every;  ///< which amount; which channel, or every
  bool operator==(const Goal&) const = default;
};

/// "error", "latency", or an amount's name.
Goal goal_named(const Space& space, const std::string& name);

/// Candidates that are asked for; each kind holds the next.
enum class Wanted : std::uint8_t { tried, sound, meets_targets, feasible };

/// Evaluation of candidates, from the tables.
class Judge {
 public:
  Judge(const Space& space, const std::vector<ChannelTable>& tables);

  Candidate candidate(std::uint64_t number, const std::vector<std::size_t>& pick) const;
  bool is(Wanted wanted, const std::vector<std::size_t>& pick) const;
  double goal(const Goal& goal, const Candidate& one) const;
  /// By how much a candidate exceeds a limit on an amount, as a part of it, and which.
  std::pair<double, std::size_t> excess(const Candidate& candidate) const;

  /// The choice of an adjustment.
  std::optional<std::size_t> adjustment() const { return adjustment_; }
  bool is(Wanted wanted, const Figures& figures, const std::vector<std::size_t>& pick) const;
  /// Returns a figure of one channel; lower is better.
  double figure(Goal::Of goal, const Figures& figures, const std::vector<std::size_t>& pick) const;
  /// Amounts as whole numbers of a decimal place: their sums are exact in any order.
  double whole(std::size_t choice, std::size_t option, std::size_t amount) const {
    return wholes_[choice][option][amount];
  }
  double limit_of(std::size_t amount) const { return limits_[amount]; }  ///< infinite without one

 private:
  std::size_t adjusted(const std::vector<std::size_t>& pick) const;

  const Space& space_;
  const std::vector<ChannelTable>& tables_;
  std::optional<std::size_t> adjustment_{};
  std::vector<int> places_{};  // of each amount, its last decimal place
  std::vector<std::vector<std::vector<double>>> wholes_{};
  std::vector<double> limits_{};
};

}  // namespace tamlo::explore
