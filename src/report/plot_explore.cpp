// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <functional>
#include <limits>

#include "gnuplot.hpp"
#include "tamlo/explore/detail/explored.hpp"
#include "tamlo/quantity/detail/number.hpp"
#include "tamlo/report/plot.hpp"

namespace tamlo::report {
namespace {

// A goal as it is drawn: its name with its unit, and its values in it.
struct Axis {
  std::string label{};
  quantity::Unit unit{};

  Axis(const explore::Space& space, const std::string& goal) {
    unit = quantity::unit(goal == "error" ? "%" : goal == "latency" ? "s" : "");
    for (const auto& amount : space.amounts) {
      if (amount.name == goal) unit = amount.unit;
    }
    label = unit.symbol.empty() ? goal : fmt::format("{} [{}]", goal, unit.symbol);
  }
  double of(double si) const { return quantity::in_unit(si, unit); }
};

// One of the upright axes: a choice with its options, or a goal.
struct Upright {
  std::string name{};
  std::vector<std::string> marks{};                           // evenly from the bottom to the top
  std::function<double(const explore::Candidate&)> height{};  // 0 to 1
};

Upright of_choice(const explore::Space& space, std::size_t i) {
  constexpr std::size_t most_marks = 12, most_letters = 14;
  const auto& options = space.choices[i].options;
  Upright result{.name = space.choices[i].name};
  // Of many only the ends.
  const auto step = options.size() <= most_marks ? 1 : options.size() - 1;
  for (std::size_t o = 0; o < options.size(); o += step) {
    auto label = quantity::printable(options[o].label);
    if (label.size() > most_letters) label = fmt::format("{:.{}}...", label, most_letters - 2);
    result.marks.push_back(std::move(label));
  }
  const auto last = static_cast<double>(std::max<std::size_t>(options.size() - 1, 1));
  result.height = [i, last, alone = options.size() == 1](const explore::Candidate& candidate) {
    return alone ? 0.5 : static_cast<double>(candidate.pick[i]) / last;
  };
  return result;
}

Upright of_goal(const explore::Space& space, const std::string& goal,
                const std::vector<const explore::Candidate*>& all) {
  const Axis axis(space, goal);
  double low = std::numeric_limits<double>::infinity(), high = -low;
  for (const auto* each : all) {
    low = std::min(low, axis.of(explore::goal_of(space, *each, goal)));
    high = std::max(high, axis.of(explore::goal_of(space, *each, goal)));
  }
  Upright result{.name = axis.label};
  for (int i = 0; i <= 4; ++i)
    result.marks.push_back(fmt::format("{:.3g}", low + (high - low) * i / 4));
  result.height = [axis, space, goal, low, high](const explore::Candidate& candidate) {
    return high > low ? (axis.of(explore::goal_of(space, candidate, goal)) - low) / (high - low)
                      : 0.5;
  };
  return result;
}

}  // namespace

std::string plot_choices(const explore::Space& space, const explore::Exploration& exploration,
                         Image image) {
  // Some of the others, so that the lines of the front are seen.
  constexpr std::size_t most_behind = 400;
  std::vector<const explore::Candidate*> front, behind;
  for (const auto& each : exploration.front) front.push_back(&each);
  const auto every = exploration.behind.size() / most_behind + 1;
  for (std::size_t i = 0; i < exploration.behind.size(); i += every) {
    const auto& later = exploration.behind[i];
    if (later.feasible) behind.push_back(&later);
  }
  auto all = front;
  all.insert(all.end(), behind.begin(), behind.end());
  std::vector<Upright> uprights;
  for (std::size_t i = 0; i < space.choices.size(); ++i) uprights.push_back(of_choice(space, i));
  for (const auto& goal : space.goals) uprights.push_back(of_goal(space, goal, all));

  // Options stand apart by a little in each line, or all would lie on one another.
  std::string script;
  const auto lines = [&](const char* name, const std::vector<const explore::Candidate*>& of) {
    script += fmt::format("${} << EOD\n", name);
    for (std::size_t n = 0; n < of.size(); ++n) {
      const double apart = (static_cast<double>(n) + 0.5) / static_cast<double>(of.size()) - 0.5;
      for (std::size_t i = 0; i < uprights.size(); ++i) {
        const double aside = i < space.choices.size() ? 0.04 * apart : 0.0;
        script += fmt::format(
            "{} {:.6g} {:.6g}\n", i, uprights[i].height(*of[n]) + aside,
            static_cast<double>(n) / std::max(1.0, static_cast<double>(of.size()) - 1.0));
      }
      script += "\n";
    }
    script += "NaN NaN NaN\nEOD\n";
  };
  lines("behind", behind);
  lines("front", front);
  script += common_look;
  script += fmt::format(
      "set title {}\nunset ytics\nunset xtics\nunset grid\nset border 0\nset yrange [-0.16:1.12]\n"
      "set xrange [-0.5:{}]\nset palette defined (0 '#1b5e9e', 0.5 '#7a4fa3', 1 '#b3261e')\n"
      "unset colorbox\nset cbrange [0:1]\n",
      literal(fmt::format("{} of {} candidates meet everything; the front: least {}",
                          exploration.feasible, exploration.candidates,
                          fmt::join(space.goals, ", least "))),
      static_cast<double>(uprights.size()) - 0.3);
  for (std::size_t i = 0; i < uprights.size(); ++i) {
    const auto& upright = uprights[i];
    script += fmt::format("set arrow from {0},-0.03 to {0},1.03 nohead lc '#9aa0a6'\n", i);
    script += fmt::format("set label {} at {},{} center font ',10'\n", literal(upright.name), i,
                          i % 2 == 0 ? -0.08 : -0.13);
    const auto count = upright.marks.size();
    for (std::size_t m = 0; m < count; ++m) {
      const double at = count == 1 ? 0.5 : static_cast<double>(m) / static_cast<double>(count - 1);
      script += fmt::format("set label {} at {},{:.4g} left offset char 0.5,0.7 font ',9' front\n",
                            literal(upright.marks[m]), i, at);
    }
  }
  script +=
      "plot $behind using 1:2 with lines lw 0.4 lc '#d5d9de' title 'meets everything', "
      "$front using 1:2:3 with lines lw 2 palette title 'the front, from its first to its last'\n";
  return draw(image, script);
}

std::string plot_front(const explore::Space& space, const explore::Exploration& exploration,
                       Image image) {
  const auto first = space.goals.front();
  const auto second = space.goals.size() > 1 ? space.goals[1] : std::string("error");
  const Axis x(space, first), y(space, second);
  std::string script;
  for (const bool feasible : {false, true}) {
    script += feasible ? "$feasible << EOD\n" : "$other << EOD\n";
    for (const auto& later : exploration.behind) {
      if (later.feasible == feasible)
        script += fmt::format("{:.17g} {:.17g}\n", x.of(explore::goal_of(space, later, first)),
                              y.of(explore::goal_of(space, later, second)));
    }
    script += "NaN NaN\nEOD\n";  // never empty
  }
  script += "$front << EOD\n";
  for (const auto& each : exploration.front) {
    script += fmt::format("{:.17g} {:.17g} {}\n", x.of(explore::goal_of(space, each, first)),
                          y.of(explore::goal_of(space, each, second)), each.number);
  }
  script += "EOD\n";
  script += common_look;
  script += fmt::format(
      "set title {}\nset xlabel {}\nset ylabel {}\nset offsets graph 0.05, graph 0.05, graph 0.08, "
      "graph 0.02\n"
      "plot $other using 1:2 with points pt 7 ps 0.4 lc '#c9ccd1' title 'misses something', "
      "$feasible using 1:2 with points pt 7 ps 0.5 lc '#8fb3da' title 'meets everything', "
      "$front using 1:2 with linespoints lw 1.5 pt 7 ps 1.1 lc '#b3261e' title 'the front', "
      "$front using 1:2:3 with labels offset char 0.6, char 0.7 left notitle\n",
      literal(fmt::format("{} of {} candidates meet everything", exploration.feasible,
                          exploration.candidates)),
      literal(x.label), literal(y.label));
  return draw(image, script);
}

}  // namespace tamlo::report
