// SPDX-License-Identifier: Apache-2.0
// The budget of a quantity of several channels.
#include "tamlo/budget/quantity_budget.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

using budget::QuantityBudget;
using budget::QuantityPoint;

Table points_table(const QuantityBudget& budget) {
  const auto difference = quantity::difference_unit(budget.unit);
  const double size = budget.worst().expanded;
  const bool target = budget.points.front().limit.has_value();
  const auto in = difference.symbol.empty() ? std::string() : ", in " + difference.symbol;
  Table table{.title = fmt::format("{} = {}: how wrong it can be{}", budget.quantity,
                                   budget.expression, in),
              .columns = {{"at"}, {"error ±"}}};
  if (target) {
    table.columns.push_back({"allowed ±"});
    table.columns.push_back({"verdict", false});
  }
  for (const char* heading : {"bias", "U", "U if unrelated", "worst -", "worst +"})
    table.columns.push_back({heading});
  table.columns.push_back({"where the channels are", false});
  for (const auto& p : budget.points) {
    const auto cell = [&](double x) { return figure(x, difference, size, 3); };
    std::vector<Cell> row{figure(p.at, budget.unit, budget.span.width(), 4), cell(p.error())};
    if (target) {
      row.push_back(cell(*p.limit));
      row.emplace_back(p.error() <= *p.limit ? "met" : "MISSED");
    }
    std::string places;
    for (const auto& each : p.places) {
      places += (places.empty() ? "" : ", ") + each.channel + " " +
                with_unit(fmt::format("{:.4g}", quantity::in_unit(each.at, each.unit)), each.unit);
    }
    row.insert(row.end(), {cell(p.bias), cell(p.expanded), cell(p.unrelated),
                           cell(p.worst_case.low), cell(p.worst_case.high), places});
    table.rows.push_back(std::move(row));
  }
  return table;
}

Table sources_table(const QuantityBudget& budget, const QuantityPoint& point, bool all) {
  const auto difference = quantity::difference_unit(budget.unit);
  Table table{
      .title = fmt::format("{}: where it comes from, at {}", budget.quantity,
                           place_in(budget, point.at)),
      .columns = {
          {"source", false}, {"share %"}, {heading("contribution", difference)}, {"", false}}};
  // They come by falling share.
  const auto minor = all ? budget::MinorSources{} : minor_sources(point);
  for (std::size_t i = 0; i + minor.count < point.sources.size(); ++i) {
    const auto& source = point.sources[i];
    const auto bar = static_cast<std::size_t>(std::lround(20.0 * source.share));
    table.rows.push_back({source.name,
                          percent(source.share, 1),
                          figure(source.contribution, difference, point.combined, 4),
                          {std::string(bar, '#'), " "}});
  }
  if (minor.count > 0) {
    table.rows.push_back({fmt::format("{} more, under 0.05 % each", minor.count),
                          percent(minor.share, 1),
                          figure(minor.contribution, difference, point.combined, 4), ""});
  }
  return table;
}

}  // namespace

Line headline(const QuantityBudget& budget) {
  const auto& worst = budget.worst();
  const auto error = amount(worst.error(), budget.unit);
  const auto by = confidence(worst.by, budget.coverage);
  if (!worst.limit) {
    return {fmt::format("{}: within ±{} at {} ({}); it has no target", budget.quantity, error,
                        place_in(budget, worst.at), by),
            Tone::heading};
  }
  const bool met = budget.target_met();
  return {fmt::format("{}: TARGET {}: ±{} at {} of ±{} allowed ({})", budget.quantity,
                      outcome(met, worst.error(), *worst.limit, budget.unit), error,
                      place_in(budget, worst.at), amount(*worst.limit, budget.unit), by),
          met ? Tone::good : Tone::bad};
}

Report of(const QuantityBudget& budget, bool all) {
  const auto& worst = budget.worst();
  Report report;
  report.verdict.push_back(headline(budget));
  const auto& leading = worst.sources.front();
  say(report.verdict, "{} dominates: {:.0f} % of the variance at {}", leading.name,
      100.0 * leading.share, place_in(budget, worst.at));
  report.tables.push_back(points_table(budget));
  report.tables.push_back(sources_table(budget, worst, all));
  say(report.legend,
      "quantities of several channels: by Monte Carlo ({} units, each with one deviation "
      "of every part that the channels share); U if unrelated: as if they shared none",
      budget.units);
  return report;
}

}  // namespace tamlo::report
