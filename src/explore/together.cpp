// SPDX-License-Identifier: Apache-2.0
#include "together.hpp"

#include <algorithm>
#include <map>
#include <utility>

#include "tamlo/error.hpp"

namespace tamlo::explore {
namespace {

// All options of some choices, the last the fastest; the others of the pick stay as they are.
template <class Visit>
void over(const Space& space, const std::vector<std::size_t>& choices,
          std::vector<std::size_t>& pick, const Visit& visit) {
  for (const auto i : choices) pick[i] = 0;
  for (bool more = true; more;) {
    visit();
    more = false;
    for (auto i = choices.rbegin(); i != choices.rend() && !more; ++i) {
      more = ++pick[*i] < space.choices[*i].options.size();
      if (!more) pick[*i] = 0;
    }
  }
}

}  // namespace

Together::Together(const Space& space, const std::vector<ChannelTable>& tables, const Judge& judge,
                   std::function<bool(double)> go_on)
    : space_(space), judge_(judge), weight_(space.choices.size(), 1), go_on_(std::move(go_on)) {
  for (std::size_t i = weight_.size(); i-- > 1;)
    weight_[i - 1] = weight_[i] * space.choices[i].options.size();
  const auto depends = [&](const ChannelTable& table, std::size_t i) {
    return judge.adjustment() == i || std::ranges::binary_search(table.depends, i);
  };
  Group of_none;
  for (std::size_t t = 0; t < tables.size(); ++t)
    groups_.push_back({.table = &tables[t], .channel = t});
  for (std::size_t i = 0; i < space.choices.size(); ++i) {
    const auto owners =
        std::ranges::count_if(tables, [&](const auto& table) { return depends(table, i); });
    if (owners == 0) of_none.own.push_back(i);
    if (owners > 1) shared_.push_back(i);
    for (auto& group : groups_) {
      if (depends(*group.table, i)) (owners > 1 ? group.shared : group.own).push_back(i);
    }
  }
  if (!of_none.own.empty()) groups_.push_back(of_none);
}

bool Together::goes_on() const {
  constexpr std::uint64_t now_and_then = 1024;
  if (!ended_ && go_on_ && ++asked_ % now_and_then == 0) ended_ = !go_on_(1.0);
  return !ended_;
}

Together::Columns Together::columns_of(const std::vector<Goal>& goals, Wanted wanted) const {
  Columns columns;
  const auto channels = std::ranges::count_if(groups_, [](const Group& g) { return g.table; });
  for (const auto& goal : goals) {
    const bool adds = goal.of == Goal::Of::amount;
    columns.push_back({.goal = goal,
                       .adds = adds,
                       .decides = adds || goal.at != Goal::every || channels == 1,
                       .limit = std::numeric_limits<double>::infinity()});
  }
  for (std::size_t a = 0; a < space_.amounts.size() && wanted == Wanted::feasible; ++a) {
    if (!space_.amounts[a].limit) continue;
    const Goal goal{Goal::Of::amount, a};
    auto column = std::ranges::find(columns, goal, &Column::goal);
    if (column == columns.end()) {
      columns.push_back({.goal = goal, .is_goal = false, .adds = true});
      column = columns.end() - 1;
    }
    column->limit = judge_.limit_of(a);
  }
  require(columns.size() <= most_columns, "at most 16 goals and amounts with a limit");
  return columns;
}

Together::Part Together::nothing(const Columns& columns) const {
  Part part;
  for (std::size_t c = 0; c < columns.size(); ++c) {
    if (!columns[c].adds) part.of[c] = -std::numeric_limits<double>::infinity();
  }
  return part;
}

void Together::add_choices(Part& part, const Columns& columns,
                           const std::vector<std::size_t>& choices,
                           const std::vector<std::size_t>& pick) const {
  for (const auto i : choices) {
    part.number += weight_[i] * pick[i];
    for (std::size_t c = 0; c < columns.size(); ++c) {
      if (columns[c].adds) part.of[c] += judge_.whole(i, pick[i], columns[c].goal.at);
    }
  }
}

namespace {

void join(auto& part, const auto& columns, const auto& other) {
  part.number += other.number;
  for (std::size_t c = 0; c < columns.size(); ++c) {
    part.of[c] = columns[c].adds ? part.of[c] + other.of[c] : std::max(part.of[c], other.of[c]);
  }
}

// Whole candidates: as good in all goals and better in one, or equal and of a lower number.
// Parts: whatever completes both, the first makes a candidate that beats the second's.
bool beats(const auto& a, const auto& b, const auto& columns, bool whole) {
  bool better = false;
  for (std::size_t c = 0; c < columns.size(); ++c) {
    if (whole && !columns[c].is_goal) continue;
    if (a.of[c] > b.of[c]) return false;
    better = better || (a.of[c] < b.of[c] && (whole || (columns[c].is_goal && columns[c].decides)));
  }
  return better || a.number < b.number;
}

void keep(auto& parts, const auto& part, const auto& columns, bool whole) {
  for (const auto& each : parts) {
    if (beats(each, part, columns, whole)) return;
  }
  std::erase_if(parts, [&](const auto& kind) { return beats(part, kind, columns, whole); });
  parts.push_back(part);
}

}  // namespace

std::vector<Together::Local> Together::locals_of(const Group& group, const Columns& columns,
                                                 Wanted wanted) const {
  std::vector<Local> locals;
  std::vector<std::size_t> pick(space_.choices.size(), 0);
  over(space_, group.shared, pick, [&] {
    auto& local = locals.emplace_back();
    over(space_, group.own, pick, [&] {
      if (!goes_on()) return;
      auto part = nothing(columns);
      if (group.table) {
        const auto& figures = group.table->of(pick);
        if (!judge_.is(wanted, figures, pick)) return;
        for (std::size_t c = 0; c < columns.size(); ++c) {
          const auto& goal = columns[c].goal;
          if (goal.of == Goal::Of::amount) continue;
          if (goal.at == Goal::every || goal.at == group.channel)
            part.of[c] = judge_.figure(goal.of, figures, pick);
        }
      }
      add_choices(part, columns, group.own, pick);
      keep(local.parts, part, columns, false);
    });
    if (local.parts.empty()) return;
    local.least = local.parts.front();
    for (const auto& part : local.parts) {
      local.least.number = std::min(local.least.number, part.number);
      for (std::size_t c = 0; c < columns.size(); ++c)
        local.least.of[c] = std::min(local.least.of[c], part.of[c]);
    }
  });
  return locals;
}

std::size_t Together::at(const Group& group, const std::vector<std::size_t>& pick) const {
  std::size_t result = 0;
  for (const auto i : group.shared) result = result * space_.choices[i].options.size() + pick[i];
  return result;
}

// Adds to the front what one combination of the shared choices brings.
void Together::combine(std::vector<Part>& front, const Columns& columns,
                       const std::vector<const Local*>& locals, const Part& base) const {
  // The least that the groups behind one can add.
  std::vector<Part> rest(locals.size(), nothing(columns));
  for (std::size_t g = locals.size() - 1; g-- > 0;) {
    rest[g] = rest[g + 1];
    join(rest[g], columns, locals[g + 1]->least);
  }
  const auto hopeless = [&](Part part, const Part& later) {
    join(part, columns, later);
    for (std::size_t c = 0; c < columns.size(); ++c) {
      if (columns[c].adds && part.of[c] > columns[c].limit) return true;
    }
    return std::ranges::any_of(
        front, [&](const Part& other) { return beats(other, part, columns, true); });
  };
  std::vector<Part> parts{base};
  for (std::size_t g = 0; g < locals.size(); ++g) {
    std::vector<Part> next;
    const bool last = g + 1 == locals.size();
    for (const auto& part : parts) {
      if (!goes_on()) return;
      for (const auto& own : locals[g]->parts) {
        auto joined = part;
        join(joined, columns, own);
        if (hopeless(joined, rest[g])) continue;
        keep(last ? front : next, joined, columns, last);
      }
    }
    parts = std::move(next);
  }
}

std::vector<Candidate> Together::front(const std::vector<Goal>& goals, Wanted wanted) const {
  const auto columns = columns_of(goals, wanted);
  std::vector<std::vector<Local>> locals;
  for (const auto& group : groups_) locals.push_back(locals_of(group, columns, wanted));
  std::vector<Part> front;
  std::vector<std::size_t> pick(space_.choices.size(), 0);
  over(space_, shared_, pick, [&] {
    if (!goes_on()) return;
    std::vector<const Local*> here;
    for (std::size_t g = 0; g < groups_.size(); ++g)
      here.push_back(&locals[g][at(groups_[g], pick)]);
    if (std::ranges::any_of(here, [](const Local* local) { return local->parts.empty(); })) return;
    auto base = nothing(columns);
    add_choices(base, columns, shared_, pick);
    combine(front, columns, here, base);
  });
  std::ranges::sort(front, [&](const Part& a, const Part& b) {
    for (std::size_t c = 0; c < goals.size(); ++c) {
      if (a.of[c] != b.of[c]) return a.of[c] < b.of[c];
    }
    return a.number < b.number;
  });
  std::vector<Candidate> result;
  for (const auto& part : front)
    result.push_back(judge_.candidate(part.number, pick_of(space_, part.number)));
  return result;
}

// How many of a group's options there are for each sum of the amounts with a limit.
struct Together::Counted {
  std::map<std::vector<double>, std::uint64_t> by_sum{};
  std::uint64_t all = 0;
  std::vector<double> low{}, high{};  // of the sums
};

std::uint64_t Together::count(Wanted wanted) const {
  std::vector<std::size_t> limited;
  for (std::size_t a = 0; a < space_.amounts.size() && wanted == Wanted::feasible; ++a) {
    if (space_.amounts[a].limit) limited.push_back(a);
  }
  const auto size = limited.size();
  std::vector<std::size_t> pick(space_.choices.size(), 0);
  const auto sum_of = [&](const std::vector<std::size_t>& choices) {
    std::vector<double> sum(size, 0.0);
    for (const auto i : choices) {
      for (std::size_t a = 0; a < size; ++a) sum[a] += judge_.whole(i, pick[i], limited[a]);
    }
    return sum;
  };
  constexpr std::size_t most_sums = std::size_t{1} << 22U;
  const auto add = [&](auto& by_sum, const std::vector<double>& sum, std::uint64_t n) {
    by_sum[sum] += n;
    require(by_sum.size() <= most_sums, "at most 2^22 different sums of the amounts with a limit");
  };
  std::vector<std::vector<Counted>> counted(groups_.size());
  for (std::size_t g = 0; g < groups_.size(); ++g) {
    over(space_, groups_[g].shared, pick, [&] {
      auto& column = counted[g].emplace_back();
      over(space_, groups_[g].own, pick, [&] {
        const auto* table = groups_[g].table;
        if (!goes_on() || (table && !judge_.is(wanted, table->of(pick), pick))) return;
        const auto sum = sum_of(groups_[g].own);
        add(column.by_sum, sum, 1);
        if (++column.all == 1) column.low = column.high = sum;
        for (std::size_t a = 0; a < size; ++a) {
          column.low[a] = std::min(column.low[a], sum[a]);
          column.high[a] = std::max(column.high[a], sum[a]);
        }
      });
    });
  }

  std::uint64_t total = 0;
  over(space_, shared_, pick, [&] {
    if (!goes_on()) return;
    std::vector<const Counted*> here;
    std::uint64_t rest = 1;
    std::vector<double> low(size, 0.0), high(size, 0.0);
    for (std::size_t g = 0; g < groups_.size(); ++g) {
      here.push_back(&counted[g][at(groups_[g], pick)]);
      rest *= here.back()->all;
      if (here.back()->all == 0) return;
      for (std::size_t a = 0; a < size; ++a) {
        low[a] += here.back()->low[a];
        high[a] += here.back()->high[a];
      }
    }
    const auto within = [&](const std::vector<double>& sum, const std::vector<double>& more) {
      for (std::size_t a = 0; a < size; ++a) {
        if (sum[a] + more[a] > judge_.limit_of(limited[a])) return false;
      }
      return true;
    };
    // Group by group: what surely keeps the limits is counted, what cannot is dropped.
    std::map<std::vector<double>, std::uint64_t> sums{{sum_of(shared_), 1}};
    const auto settle = [&] {
      std::erase_if(sums, [&](const auto& part) {
        if (within(part.first, high)) {
          total += part.second * rest;
          return true;
        }
        return !within(part.first, low);
      });
    };
    settle();
    for (const auto* factor : here) {
      rest /= factor->all;
      for (std::size_t a = 0; a < size; ++a) low[a] -= factor->low[a], high[a] -= factor->high[a];
      std::map<std::vector<double>, std::uint64_t> next;
      for (const auto& [sum, n] : sums) {
        for (const auto& [own, own_n] : factor->by_sum) {
          auto joined = sum;
          for (std::size_t a = 0; a < size; ++a) joined[a] += own[a];
          if (within(joined, low)) add(next, joined, n * own_n);
        }
      }
      sums = std::move(next);
      settle();
    }
  });
  return total;
}

}  // namespace tamlo::explore
