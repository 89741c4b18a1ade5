// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>

#include "gnuplot.hpp"
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

double goal_of(const explore::Space& space, const explore::Candidate& of, const std::string& goal) {
  if (goal == "error") return of.error;
  if (goal == "latency") return of.latency;
  const auto at = std::ranges::find(space.amounts, goal, &explore::Amount::name);
  return of.amounts[static_cast<std::size_t>(at - space.amounts.begin())];
}

}  // namespace

std::string plot_front(const explore::Space& space, const explore::Exploration& exploration,
                       Image image) {
  const auto first = space.goals.front();
  const auto second = space.goals.size() > 1 ? space.goals[1] : std::string("error");
  const Axis x(space, first), y(space, second);
  std::string script;
  for (const bool feasible : {false, true}) {
    script += feasible ? "$feasible << EOD\n" : "$other << EOD\n";
    for (const auto& of : exploration.behind) {
      if (of.candidate.feasible == feasible)
        script += fmt::format("{:.17g} {:.17g}\n", x.of(of.first), y.of(of.second));
    }
    script += "NaN NaN\nEOD\n";  // never empty
  }
  script += "$front << EOD\n";
  for (const auto& of : exploration.front) {
    script += fmt::format("{:.17g} {:.17g} {}\n", x.of(goal_of(space, of, first)),
                          y.of(goal_of(space, of, second)), of.number);
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
