// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <array>
#include <cstdint>
#include <functional>
#include <vector>

#include "judge.hpp"

namespace tamlo::explore {

/// Searches what does not couple apart and put together: for each combination of the choices
/// that several channels share, each channel's own choices are cut down to those that may reach the
/// front, and only these are combined. Candidates are counted in the same way, so neither looks at
/// each of them.
class Together {
 public:
  Together(const Space& space, const std::vector<ChannelTable>& tables, const Judge& judge,
           std::function<bool(double)> go_on);

  std::uint64_t count(Wanted wanted) const;
  /// No other is as good in all goals and better in one; of equal ones the lowest number. By the
  /// first goal, then the next.
  std::vector<Candidate> front(const std::vector<Goal>& goals, Wanted wanted) const;

  /// go_on ended it: what is returned is of a part of the candidates.
  bool ended() const { return ended_; }

 private:
  static constexpr std::size_t most_columns = 16;

  // A channel, or all choices that no channel depends on.
  struct Group {
    const ChannelTable* table = nullptr;
    std::size_t channel = 0;
    std::vector<std::size_t> shared{}, own{};  // choices that it depends on
  };
  // A goal, or an amount that has a limit.
  struct Column {
    Goal goal{};
    bool is_goal = true;
    bool adds = false;     // over the groups; else the largest counts
    bool decides = false;  // a smaller part always makes a smaller whole
    double limit = 0.0;    // on a sum
  };
  // A part of a candidate: the columns of some groups.
  struct Part {
    std::uint64_t number = 0;
    std::array<double, most_columns> of{};
  };
  // Of a group, for one combination of what it shares: what may reach the front, and a bound.
  struct Local {
    std::vector<Part> parts{};
    Part least{};
  };
  using Columns = std::vector<Column>;
  struct Counted;

  Columns columns_of(const std::vector<Goal>& goals, Wanted wanted) const;
  Part nothing(const Columns& columns) const;
  void add_choices(Part& part, const Columns& columns, const std::vector<std::size_t>& choices,
                   const std::vector<std::size_t>& pick) const;
  std::vector<Local> locals_of(const Group& group, const Columns& columns, Wanted wanted) const;
  std::size_t at(const Group& group, const std::vector<std::size_t>& pick) const;
  void combine(std::vector<Part>& front, const Columns& columns,
               const std::vector<const Local*>& locals, const Part& base) const;
  bool goes_on() const;

  const Space& space_;
  const Judge& judge_;
  std::vector<std::uint64_t> weight_{};  // of each choice in a candidate's number
  std::vector<std::size_t> shared_{};
  std::vector<Group> groups_{};
  std::function<bool(double)> go_on_;
  mutable bool ended_ = false;
  mutable std::uint64_t asked_ = 0;
};

}  // namespace tamlo::explore
