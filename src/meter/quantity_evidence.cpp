// SPDX-License-Identifier: Apache-2.0
// Readings of a quantity of several channels beside a meter: its budget has the place of a
// channel's, and all that follows is the same.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <memory>

#include "decision.hpp"
#include "tamlo/budget/quantity_budget.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/quantity/format.hpp"

namespace tamlo::meter {
namespace {

// Rows are many, and each place takes a budget by trials.
constexpr std::uint64_t drawn_units = 2000;
constexpr std::size_t most_places = 65;

// The places of the budget: those of the rows, or evenly over them where they are many.
std::vector<double> places_of(std::vector<double> at) {
  std::ranges::sort(at);
  at.erase(std::unique(at.begin(), at.end()), at.end());
  if (at.size() <= most_places) return at;
  std::vector<double> even;
  for (std::size_t i = 0; i < most_places; ++i)
    even.push_back(std::lerp(at.front(), at.back(), double(i) / double(most_places - 1)));
  return even;
}

// A figure of the points at `x`, straight between two of them.
double between(const std::vector<double>& places, const std::vector<double>& figures, double x) {
  const auto above = std::ranges::lower_bound(places, x);
  const auto i = static_cast<std::size_t>(above - places.begin());
  if (i == 0 || (i < places.size() && places[i] == x)) return figures[i];
  const double part = (x - places[i - 1]) / (places[i] - places[i - 1]);
  return std::lerp(figures[i - 1], figures[i], part);
}

Effects effects_of(const budget::QuantityBudget& budget, const std::vector<double>& places,
                   const std::vector<double>& at) {
  Effects result{.coverage_factor = math::coverage_factor(budget.coverage,
                                                          std::numeric_limits<double>::infinity())};
  const auto at_rows = [&](const auto& figure_of) {
    std::vector<double> figures, rows;
    for (const auto& point : budget.points) figures.push_back(figure_of(point));
    for (const double x : at) rows.push_back(between(places, figures, x));
    return rows;
  };
  result.bias = at_rows([](const auto& point) { return point.bias; });
  result.expanded = at_rows([](const auto& point) { return point.expanded; });
  for (std::size_t s = 0; s < budget.sources.size(); ++s)
    result.of_source.push_back(at_rows([&](const auto& point) { return point.contributions[s]; }));
  return result;
}

// What all others here ask a chain for, of a quantity.
std::unique_ptr<const chain::Chain> chain_standing_for(const model::Quantity& quantity,
                                                       const budget::QuantityBudget& budget,
                                                       const model::Conditions& conditions) {
  auto chain = std::make_unique<chain::Chain>();
  chain->channel.name = quantity.name;
  chain->channel.span = quantity.span;
  chain->channel.target = quantity.target;
  chain->conditions = conditions;
  chain->sources = budget.sources;
  chain->correlations = budget.correlations;
  return chain;
}

}  // namespace

Evidence evidence_of(const model::Quantity& quantity, const std::vector<chain::Chain>& chains,
                     const model::Meter& meter, std::vector<Reading> readings, double coverage) {
  if (readings.empty() || meter.touches == model::Touches::pin) {
    throw CompareError(fmt::format(
        "{}: {}", quantity.name,
        readings.empty() ? "there are no readings" : "a quantity of several channels has no pin"));
  }
  std::vector<double> at;
  for (const auto& reading : readings) at.push_back(reading.meter);
  if (!std::ranges::all_of(at, [](double x) { return std::isfinite(x); }))
    throw CompareError(quantity.name + ": a reading of the meter that is not finite");
  const auto places = places_of(at);
  const auto budget = budget::evaluate(quantity, chains,
                                       {.at = places, .coverage = coverage, .units = drawn_units});
  if (budget.points.size() != places.size()) {
    throw CompareError(fmt::format("{}: no readings of its channels give each value from {} to {}",
                                   quantity.name,
                                   quantity::engineering(places.front(), budget.unit, 6),
                                   quantity::engineering(places.back(), budget.unit, 6)));
  }
  const auto chain = chain_standing_for(quantity, budget, chains.front().conditions);
  auto rows = figures_of_rows(*chain, meter, readings, effects_of(budget, places, at));
  rows.coverage = coverage;
  return Evidence(gathered(*chain, meter, std::move(readings), std::move(rows)));
}

}  // namespace tamlo::meter
