// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

using budget::Adjusted;
using budget::Budget;
using budget::Point;

std::string at(const Budget& budget, double x) {
  return with_unit(aligned(x, budget.unit, budget.span.width(), 4), budget.unit);
}

Table points_table(const Budget& budget) {
  const auto& unit = budget.unit;
  const auto difference = quantity::difference_unit(unit);
  const double size = budget.worst().expanded;
  const bool target = budget.points.front().limit.has_value();
  Table table{.title = fmt::format("{}: how wrong a reading can be, ± in {}", budget.channel,
                                   difference.symbol),
              .columns = {in_unit("at", unit),
                          in_unit("bias", difference),
                          in_unit("combined", difference),
                          {"k"},
                          in_unit("expanded", difference),
                          in_unit("worst case", difference),
                          {"% span"},
                          {"% reading"},
                          {"LSB"},
                          in_unit("zeroed", difference),
                          in_unit("two-point", difference)},
              .rows = {}};
  if (target) {
    table.columns.push_back(in_unit("allowed", difference));
    table.columns.push_back({"verdict", false});
  }
  for (const auto& p : budget.points) {
    const double reading = std::abs(p.at - unit.offset);
    std::vector<Cell> row{
        figure(p.at, unit, budget.span.width(), 4),
        figure(p.bias, difference, size, 3),
        figure(p.combined, difference, size, 3),
        {fmt::format("{:.2f}", p.coverage_factor), fmt::format("{:.17g}", p.coverage_factor)},
        figure(p.expanded, difference, size, 3),
        figure(p.worst_case, difference, size, 3),
        percent(p.expanded / budget.span.width(), 3),
        reading > 0.0 ? percent(p.expanded / reading, 3) : Cell("-"),
        {fmt::format("{:.1f}", p.expanded / p.code_width),
         fmt::format("{:.17g}", p.expanded / p.code_width)},
        figure(p.adjusted.zero, difference, size, 3),
        figure(p.adjusted.two_point, difference, size, 3)};
    if (target) {
      row.push_back(figure(*p.limit, difference, size, 3));
      row.emplace_back(*p.margin() >= 0.0 ? "met" : "MISSED");
    }
    table.rows.push_back(std::move(row));
  }
  return table;
}

Table sources_table(const Budget& budget, const Point& point) {
  const auto difference = quantity::difference_unit(budget.unit);
  Table table{
      .title = fmt::format("{}: where it comes from, at {}", budget.channel, at(budget, point.at)),
      .columns = {{"source", false},
                  {"limit", false},
                  {"distribution", false},
                  {"kind", false},
                  {heading("contribution", difference)},
                  {"share %"},
                  {"", false}},
      .rows = {}};
  for (const auto i : by_share(point)) {
    const auto& source = budget.sources[i];
    const auto& c = point.contributions[i];
    const auto bar = static_cast<std::size_t>(std::lround(20.0 * c.share));
    table.rows.push_back({source.name,
                          source.written,
                          std::string(name(source.distribution)),
                          std::string(name(source.kind)),
                          figure(c.contribution, difference, point.expanded, 4),
                          percent(c.share, 1),
                          {std::string(bar, '#'), " "}});
  }
  return table;
}

}  // namespace

Line headline(const Budget& budget) {
  const auto& worst = budget.worst();
  const auto place = at(budget, worst.at);
  const auto can_be = amount(std::abs(worst.bias) + worst.expanded, budget.unit);
  const auto confidence = fmt::format("{:g} %", 100.0 * worst.coverage);
  if (!worst.limit) {
    return {fmt::format("{}: within ±{} at {} ({}); the channel has no target", budget.channel,
                        can_be, place, confidence),
            Tone::heading};
  }
  const auto allowed = amount(*worst.limit, budget.unit);
  const double spare = *worst.margin() / *worst.limit;  // infinite where nothing is allowed
  const auto by = std::isfinite(spare) ? fmt::format("{:.0f} %", 100.0 * std::abs(spare))
                                       : amount(-*worst.margin(), budget.unit);
  const bool met = budget.target_met();
  return {fmt::format("{}: TARGET {}: ±{} at {} of ±{} allowed ({})", budget.channel,
                      met ? fmt::format("MET, {} to spare", by) : fmt::format("MISSED by {}", by),
                      can_be, place, allowed, confidence),
          met ? Tone::good : Tone::bad};
}

Report of(const Budget& budget) {
  const auto& worst = budget.worst();
  Report report;
  report.verdict.push_back(headline(budget));
  const auto leading = by_share(worst).front();
  report.verdict.push_back(
      {fmt::format("{} dominates: {:.0f} % of the variance at {}", budget.sources[leading].name,
                   100.0 * worst.contributions[leading].share, at(budget, worst.at))});
  report.tables.push_back(points_table(budget));
  report.tables.push_back(sources_table(budget, worst));

  if (!budget.target_met()) {
    if (budget.target_met_after(&Adjusted::zero)) {
      report.remarks.push_back({"remedy: a zero adjustment meets the target at these points"});
    } else if (budget.target_met_after(&Adjusted::two_point)) {
      report.remarks.push_back({"remedy: a two-point adjustment meets the target at these points"});
    } else {
      report.remarks.push_back({fmt::format("remedy: no adjustment suffices; begin with {}",
                                            budget.sources[leading].name)});
    }
  }
  for (const auto& p : budget.points) {
    if (!p.clipped) continue;
    report.remarks.push_back(
        {fmt::format("CLIPPED at {}: the converter is at an end of its codes, readings stop there",
                     at(budget, p.at)),
         Tone::bad});
  }
  return report;
}

}  // namespace tamlo::report
