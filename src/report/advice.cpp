// SPDX-License-Identifier: Apache-2.0
// What to change first, and what a change does.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

using budget::Budget;

Report of_advice(const budget::Advice& advice, const Budget& budget) {
  const auto difference = quantity::difference_unit(budget.unit);
  Report report;
  const auto margin = budget.worst_place.margin();
  if (!advice.shrinks.empty() && margin && *margin < 0.0) {
    Table table{
        .title = fmt::format("{}: limits that would meet the target, each alone", budget.channel),
        .columns = {{"source", false}, {"share %"}, {"multiply its limit by"}}};
    for (const auto& shrink : advice.shrinks) {
      table.rows.push_back({shrink.source, percent(shrink.share, 1),
                            shrink.part ? fmt::format("{:.2g}", *shrink.part) : "not enough"});
    }
    report.tables.push_back(std::move(table));
  }
  if (!advice.tried) {
    say(report.remarks, "{}: a reading takes too many conversions to try other changes",
        budget.channel);
  }
  if (advice.levers.empty()) return report;
  Table table{.title = fmt::format(
                  "{}: other changes that would help, each computed on the changed channel",
                  budget.channel),
              .columns = {{"change", false},
                          {heading("error", difference)},
                          {heading("at", budget.unit)},
                          {"target", false},
                          {"delay", false}}};
  for (const auto& lever : advice.levers) {
    const bool later = lever.latency > 1.001 * lever.latency_before;
    table.rows.push_back(
        {lever.change, figure(lever.error, difference, budget.worst_place.error(), 3),
         figure(lever.at, budget.unit, budget.span.width(), 4),
         !lever.limit     ? "none"
         : lever.suffices ? "met"
                          : "missed",
         later ? fmt::format("{} in place of {}",
                             quantity::engineering(lever.latency, quantity::unit("s"), 3),
                             quantity::engineering(lever.latency_before, quantity::unit("s"), 3))
               : "as before"});
  }
  report.tables.push_back(std::move(table));
  return report;
}

}  // namespace

namespace {

// One side of a change, at its worst place.
struct Side {
  Line headline{};
  double error = 0.0, expanded = 0.0;
  std::string at{};
  std::vector<std::pair<std::string, double>> contributions{};

  double of(const std::string& source) const {
    const auto found =
        std::ranges::find(contributions, source, &decltype(contributions)::value_type::first);
    return found == contributions.end() ? 0.0 : std::abs(found->second);
  }
};

Side side_of(const Budget& budget) {
  const auto& worst = budget.worst_place;
  Side side{headline(budget), worst.error(), worst.expanded, place_in(budget, worst.at), {}};
  for (std::size_t i = 0; i < budget.sources.size(); ++i)
    side.contributions.emplace_back(budget.sources[i].name, worst.contributions[i].contribution);
  return side;
}

Side side_of(const budget::QuantityBudget& budget) {
  const auto& worst = budget.worst();
  Side side{headline(budget), worst.error(), worst.expanded, place_in(budget, worst.at), {}};
  for (const auto& source : worst.sources)
    side.contributions.emplace_back(source.name, source.contribution);
  return side;
}

Report change(const std::string& name, const quantity::Unit& unit, const Side& before,
              const Side& after) {
  const auto difference = quantity::difference_unit(unit);
  Report report;
  report.verdict = {before.headline, {"changed:", Tone::heading}, after.headline};
  say(report.verdict,
      after.error < before.error   ? Tone::good
      : after.error > before.error ? Tone::bad
                                   : Tone::plain,
      "the worst place of the span goes from ±{} at {} to ±{} at {}", amount(before.error, unit),
      before.at, amount(after.error, unit), after.at);
  Table table{.title = fmt::format("{}: source by source, at the worst place of each", name),
              .columns = {{"source", false},
                          {heading("before", difference)},
                          {heading("changed", difference)},
                          {heading("difference", difference)}}};
  std::vector<std::string> sources;
  for (const auto* side : {&before, &after}) {
    for (const auto& [source, size] : side->contributions) {
      if (std::ranges::find(sources, source) == sources.end()) sources.push_back(source);
    }
  }
  const auto moved = [&](const std::string& source) {
    return after.of(source) - before.of(source);
  };
  std::ranges::stable_sort(sources, std::ranges::greater{},
                           [&](const std::string& source) { return std::abs(moved(source)); });
  for (const auto& source : sources) {
    const auto cell = [&](double x) { return figure(x, difference, before.expanded, 4); };
    table.rows.push_back(
        {source, cell(before.of(source)), cell(after.of(source)), cell(moved(source))});
  }
  report.tables.push_back(std::move(table));
  return report;
}

}  // namespace

Report of_change(const Budget& before, const Budget& after) {
  return change(before.channel, before.unit, side_of(before), side_of(after));
}

Report of_change(const budget::QuantityBudget& before, const budget::QuantityBudget& after) {
  return change(before.quantity, before.unit, side_of(before), side_of(after));
}

namespace {

Report of_condition(const result::OverCondition& over, const Budget& budget) {
  const auto& name = over.condition;
  const auto& unit = over.condition_unit;
  const auto& rows = over.points;
  const auto difference = quantity::difference_unit(budget.unit);
  const bool target = budget.worst_place.limit.has_value();
  Table table{.title = fmt::format("{}: the worst place of the span over {}", budget.channel, name),
              .columns = {{heading(name, unit)},
                          {heading("at", budget.unit)},
                          {heading("bias", difference)},
                          {heading("expanded", difference)}}};
  if (target) table.columns.push_back({heading("left of the target", difference)});
  for (const auto& row : rows) {
    const double size = budget.worst_place.expanded;
    std::vector<Cell> cells{fmt::format("{:.4g}", (row.condition - unit.offset) / unit.scale()),
                            figure(row.at, budget.unit, budget.span.width(), 4),
                            figure(row.bias, difference, size, 3),
                            figure(row.expanded, difference, size, 3)};
    if (target) cells.push_back(figure(row.margin, difference, size, 3));
    table.rows.push_back(std::move(cells));
  }
  Report report;
  report.tables.push_back(std::move(table));
  return report;
}

}  // namespace

std::vector<Report> of(const result::ChannelBudget& channel, bool all) {
  std::vector<Report> reports{of(channel.budget, all)};
  for (const auto& over : channel.over) reports.push_back(of_condition(over, channel.budget));
  if (channel.advice) reports.push_back(of_advice(*channel.advice, channel.budget));
  return reports;
}

}  // namespace tamlo::report
