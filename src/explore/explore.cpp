// SPDX-License-Identifier: Apache-2.0
#include "tamlo/explore/explore.hpp"

#include <algorithm>
#include <atomic>
#include <limits>
#include <mutex>
#include <thread>

#include "dependence.hpp"
#include "figures.hpp"
#include "tamlo/error.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo::explore {
namespace {

constexpr std::uint64_t most_combinations = std::uint64_t{1} << 22U;

// The figures of one channel for each combination of the choices that it depends on.
struct ChannelTable {
  std::string channel{};
  std::vector<std::size_t> depends{};  // choices, in their order
  std::vector<std::size_t> stride{};   // of each choice of the space; 0 where it does not matter
  std::vector<AdjustedFigures> figures{};

  Pick pick_of(const Space& space, std::size_t combination) const {
    Pick pick(space.choices.size());
    for (auto i = depends.rbegin(); i != depends.rend(); ++i) {
      const auto count = space.choices[*i].options.size();
      pick[*i] = combination % count;
      combination /= count;
    }
    return pick;
  }
};

ChannelTable table_of(const Space& space, const model::Board& board, const std::string& name) {
  const auto* channel = model::find(board.channels, name);
  require(channel != nullptr, "a channel of the board");
  ChannelTable table{.channel = name, .stride = std::vector<std::size_t>(space.choices.size(), 0)};
  // Where their order may change, every channel depends on all.
  const bool any_order = std::ranges::any_of(space.choices, [](const Choice& choice) {
    return std::ranges::any_of(choice.keys, reorders);
  });
  std::uint64_t combinations = 1;
  for (std::size_t i = space.choices.size(); i-- > 0;) {
    const auto& keys = space.choices[i].keys;
    const bool changes =
        (any_order && !keys.empty()) || std::ranges::any_of(keys, [&](const auto& key) {
          return may_change(key, board, *channel);
        });
    if (!changes) continue;
    table.stride[i] = static_cast<std::size_t>(combinations);
    table.depends.insert(table.depends.begin(), i);
    combinations *= space.choices[i].options.size();
    require(combinations <= most_combinations,
            "at most 2^22 combinations of the choices that one channel depends on");
  }
  table.figures.resize(static_cast<std::size_t>(combinations));
  return table;
}

// All combinations of all channels, by several threads; each writes its own place.
bool fill(std::vector<ChannelTable>& tables, const Space& space, const BoardOf& board,
          unsigned threads, const std::function<bool(double)>& go_on) {
  std::size_t all = 0;
  for (const auto& table : tables) all += table.figures.size();
  std::atomic<std::size_t> next = 0;
  std::atomic<bool> stop = false;
  const auto work = [&](bool reports) {
    for (;;) {
      const auto number = next++;
      if (number >= all || stop) return;
      if (reports && go_on && !go_on(static_cast<double>(number) / static_cast<double>(all))) {
        stop = true;
      }
      auto at = number;
      auto table = tables.begin();
      while (at >= table->figures.size()) at -= (table++)->figures.size();
      try {
        table->figures[at] = figures_of(board(table->pick_of(space, at)), table->channel);
      } catch (const Error&) {
        table->figures[at] = {};  // no such board
      }
    }
  };
  {
    std::vector<std::jthread> others;
    for (unsigned i = 1; i < threads; ++i) others.emplace_back(work, false);
    work(true);
  }
  return !stop;
}

// A candidate, and what else is to be known of it.
struct Judged {
  Candidate candidate{};
  bool sound = true;
  double excess = 0.0;  // over a limit on an amount, as a part of it, where all targets are met
  std::size_t exceeds = 0;
};

// What a candidate is worth, from the tables.
class Worth {
 public:
  Worth(const Space& space, const std::vector<ChannelTable>& tables)
      : space_(space), tables_(tables) {
    for (std::size_t i = 0; i < space.choices.size(); ++i) {
      if (space.choices[i].keys.empty()) adjustment_ = i;
    }
    for (const auto& goal : space.goals) {
      std::size_t at = goal == "error" ? error : latency;
      for (std::size_t a = 0; a < space.amounts.size(); ++a) {
        if (space.amounts[a].name == goal) at = a;
      }
      goals_.push_back(at);
    }
  }

  Judged of(std::uint64_t number, const std::vector<std::size_t>& pick) const {
    Judged result{.candidate = {.number = number, .pick = pick, .feasible = true}};
    auto& candidate = result.candidate;
    auto adjustment = Adjustment::none;
    if (adjustment_) {
      adjustment = space_.choices[*adjustment_].options[pick[*adjustment_]].adjustment;
    }
    for (const auto& table : tables_) {
      std::size_t at = 0;
      for (const auto i : table.depends) at += table.stride[i] * pick[i];
      const auto& of = table.figures[at].at(static_cast<std::size_t>(adjustment));
      result.sound = result.sound && of.sound;
      candidate.feasible = candidate.feasible && of.sound && of.meets;
      candidate.error = std::max(candidate.error, of.error);
      candidate.latency = std::max(candidate.latency, of.latency);
    }
    const bool meets_targets = candidate.feasible;
    for (std::size_t a = 0; a < space_.amounts.size(); ++a) {
      double sum = 0.0;
      for (std::size_t i = 0; i < pick.size(); ++i) {
        sum += space_.choices[i].options[pick[i]].amounts[a];
      }
      candidate.amounts.push_back(sum);
      const auto& limit = space_.amounts[a].limit;
      if (!limit || sum <= *limit * (1.0 + 1e-12)) continue;
      candidate.feasible = false;
      const double excess = sum / *limit - 1.0;
      if (meets_targets && excess > result.excess) result.excess = excess, result.exceeds = a;
    }
    return result;
  }

  double goal(const Candidate& of, std::size_t i) const {
    const auto at = goals_[i];
    return at == error ? of.error : at == latency ? of.latency : of.amounts[at];
  }
  /// a is nowhere worse than b, and better somewhere.
  bool dominates(const Candidate& a, const Candidate& b) const {
    bool better = false;
    for (std::size_t i = 0; i < goals_.size(); ++i) {
      if (goal(a, i) > goal(b, i)) return false;
      better = better || goal(a, i) < goal(b, i);
    }
    return better;
  }
  bool equal(const Candidate& a, const Candidate& b) const {
    for (std::size_t i = 0; i < goals_.size(); ++i) {
      if (goal(a, i) != goal(b, i)) return false;
    }
    return true;
  }
  bool before(const Candidate& a, const Candidate& b) const {
    for (std::size_t i = 0; i < goals_.size(); ++i) {
      if (goal(a, i) != goal(b, i)) return goal(a, i) < goal(b, i);
    }
    return a.number < b.number;
  }

 private:
  static constexpr std::size_t error = ~std::size_t{0}, latency = error - 1;
  const Space& space_;
  const std::vector<ChannelTable>& tables_;
  std::optional<std::size_t> adjustment_{};
  std::vector<std::size_t> goals_{};
};

// Keeps what no other is better than; the lowest number of equal ones, as numbers rise.
void take(std::vector<Candidate>& front, const Worth& worth, Candidate&& candidate) {
  for (const auto& of : front) {
    if (worth.dominates(of, candidate) || worth.equal(of, candidate)) return;
  }
  std::erase_if(front, [&](const Candidate& of) { return worth.dominates(candidate, of); });
  front.push_back(std::move(candidate));
}

// The next numbers' options: the last choice is the fastest. False behind the last.
bool advance(std::vector<std::size_t>& pick, const Space& space) {
  for (std::size_t i = pick.size(); i-- > 0;) {
    if (++pick[i] < space.choices[i].options.size()) return true;
    pick[i] = 0;
  }
  return false;
}

std::vector<bool> what_matters(const Space& space, const Worth& worth,
                               const std::vector<Candidate>& front) {
  std::vector<bool> matters(space.choices.size(), false);
  for (const auto& of : front) {
    for (std::size_t i = 0; i < matters.size(); ++i) {
      auto pick = of.pick;
      for (std::size_t o = 0; o < space.choices[i].options.size() && !matters[i]; ++o) {
        pick[i] = o;
        const auto other = worth.of(0, pick).candidate;
        matters[i] = other.feasible != of.feasible || !worth.equal(other, of);
      }
    }
  }
  return matters;
}

void validate(const Space& space) {
  require(!space.choices.empty() && !space.goals.empty() && !space.channels.empty(),
          "choices, goals and channels");
  for (const auto& choice : space.choices) {
    require(!choice.options.empty(), "a choice with options");
    for (const auto& option : choice.options) {
      require(option.amounts.size() == space.amounts.size(), "an amount of each kind");
    }
  }
  require(
      std::ranges::count_if(space.choices, [](const Choice& of) { return of.keys.empty(); }) <= 1,
      "one choice of an adjustment at most");
  for (const auto& goal : space.goals) {
    const bool known = goal == "error" || goal == "latency" ||
                       std::ranges::find(space.amounts, goal, &Amount::name) != space.amounts.end();
    require(known, "goals that are error, latency or an amount");
  }
}

}  // namespace

std::optional<Exploration> explore(const Space& space, const BoardOf& board, unsigned threads,
                                   const std::function<bool(double)>& go_on) {
  validate(space);
  const auto as_it_is = board(Pick(space.choices.size()));
  std::vector<ChannelTable> tables;
  Exploration result{.candidates = 1};
  for (const auto& choice : space.choices) {
    require(result.candidates <= std::uint64_t{1} << 40U, "at most 2^40 candidates");
    result.candidates *= choice.options.size();
  }
  for (const auto& channel : space.channels) {
    tables.push_back(table_of(space, as_it_is, channel));
    result.evaluated += tables.back().figures.size();
    if (!model::find(as_it_is.channels, channel)->target.accuracy) {
      result.without_accuracy.push_back(channel);
    }
  }
  if (!fill(tables, space, board, std::max(threads, 1U), go_on)) return {};

  const Worth worth(space, tables);
  std::vector<std::size_t> pick(space.choices.size(), 0);
  Space by_error = space;
  by_error.goals = {"error"};
  for (const auto& amount : space.amounts) by_error.goals.push_back(amount.name);
  const Worth nearness(by_error, tables);
  std::uint64_t number = 0;
  double least_excess = std::numeric_limits<double>::infinity();
  constexpr std::uint64_t most_behind = 4096;
  const std::uint64_t every = (result.candidates + most_behind - 1) / most_behind;
  do {
    auto [candidate, sound, excess, exceeds] = worth.of(number++, pick);
    if (candidate.number % every == 0 && sound) {
      const auto last = space.goals.size() > 1 ? worth.goal(candidate, 1) : candidate.error;
      result.behind.push_back(
          {.first = worth.goal(candidate, 0), .second = last, .feasible = candidate.feasible});
    }
    if (candidate.feasible) {
      ++result.feasible;
      take(result.front, worth, std::move(candidate));
    } else if (sound && result.feasible == 0) {
      if (excess > 0.0 && excess < least_excess) {
        least_excess = excess;
        result.beyond_limits = candidate;
        result.exceeds = exceeds;
      }
      take(result.nearest, nearness, std::move(candidate));
    }
    constexpr std::uint64_t now_and_then = std::uint64_t{1} << 20U;
    if (go_on && number % now_and_then == 0 && !go_on(1.0)) return {};
  } while (advance(pick, space));
  const auto before = [&](const Candidate& a, const Candidate& b) { return worth.before(a, b); };
  std::ranges::sort(result.front, before);
  if (result.feasible > 0) {
    result.nearest.clear();
    result.beyond_limits.reset();
  }
  std::ranges::sort(result.nearest, {}, &Candidate::error);
  result.matters = what_matters(space, worth, result.front);
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
  auto one = space;
  for (std::size_t i = 0; i < pick.size(); ++i) {
    one.choices[i].options = {space.choices[i].options[pick[i]]};
  }
  const auto picked = [&](const Pick& of) {
    auto full = of;
    for (std::size_t i = 0; i < full.size(); ++i) {
      if (full[i]) full[i] = pick[i];
    }
    return board(full);
  };
  std::vector<ChannelTable> tables;
  const auto as_it_is = board(Pick(space.choices.size()));
  for (const auto& channel : space.channels) tables.push_back(table_of(one, as_it_is, channel));
  fill(tables, one, picked, 1, {});
  auto result = Worth(one, tables).of(number, std::vector<std::size_t>(pick.size(), 0)).candidate;
  result.pick = pick;
  return result;
}

}  // namespace tamlo::explore
