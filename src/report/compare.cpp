// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

using meter::Comparison;
using meter::Figure;
using meter::Row;
using meter::Verdict;

Table rows_table(const Comparison& c) {
  const auto difference = quantity::difference_unit(c.unit);
  const double size = std::ranges::max_element(c.rows, {}, &Row::guard_band)->guard_band;
  Table table{.title = fmt::format("{}, row by row beside the meter {}, in {}", c.channel, c.meter,
                                   c.unit.symbol),
              .columns = {in_unit("meter", c.unit),
                          in_unit("reading", c.unit),
                          in_unit("difference", difference),
                          in_unit("channel ±", difference),
                          in_unit("meter ±", difference),
                          {"E_n"},
                          in_unit("guard band ±", difference),
                          in_unit("allowed ±", difference),
                          {"verdict", false}},
              .rows = {}};
  for (const auto& row : c.rows) {
    table.rows.push_back({figure(row.meter, c.unit, size, 2),
                          figure(row.reading, c.unit, size, 2),
                          figure(row.difference, difference, size, 2),
                          figure(row.expanded_channel, difference, size, 2),
                          figure(row.expanded_meter, difference, size, 2),
                          {fmt::format("{:.2f}", row.normalised_error),
                           fmt::format("{:.17g}", row.normalised_error)},
                          figure(row.guard_band, difference, size, 2),
                          figure(row.limit, difference, size, 2),
                          std::string(name(row.verdict))});
  }
  return table;
}

// How far a figure is out, in standard deviations of what was to be expected.
std::string beside_budget(const Figure& figure, const std::string& value,
                          const std::string& standard, const std::string& budgeted) {
  const double out = figure.deviation();
  return fmt::format("{} (u {}); the budget expected u {}: {:.1f} standard deviations{}", value,
                     standard, budgeted, out, out > 2.0 ? ", MORE THAN EXPECTED" : "");
}

}  // namespace

Line headline(const Comparison& c) {
  const auto& s = c.summary;
  const auto rows = c.rows.size();
  const auto against = c.has_target ? "the target" : "the budget, as there is no target";
  if (s.verdict == Verdict::pass) {
    return {fmt::format("{}: PASS: all {} readings within {}", c.channel, rows, against),
            Tone::good};
  }
  if (s.verdict == Verdict::fail) {
    return {fmt::format("{}: FAIL: {} of {} readings outside {}, {} undecided", c.channel, s.failed,
                        rows, against, s.undecided),
            Tone::bad};
  }
  return {fmt::format("{}: UNDECIDED: {} of {} readings too near the limit for this meter",
                      c.channel, s.undecided, rows),
          Tone::doubtful};
}

std::vector<Line> statements(const Comparison& c) {
  const auto& s = c.summary;
  const auto& a = s.agreement;
  std::vector<Line> lines;
  lines.push_back({fmt::format("the readings {} with the budget: chi-squared {:.1f} for {} row{}, "
                               "probability {:.2g}",
                               a.agrees ? "AGREE" : "DO NOT AGREE", a.chi_squared, a.dof,
                               a.dof == 1 ? "" : "s", a.probability),
                   a.agrees ? Tone::good : Tone::bad});
  const auto& o = s.offset;
  lines.push_back(
      {"offset " + beside_budget(o, amount(o.value, c.unit), amount(o.standard, c.unit, 2),
                                 amount(o.budgeted, c.unit, 2))});
  if (const auto& g = s.gain) {
    const auto of_reading = [](double ratio, int digits) {
      return quantity::significant(ratio, quantity::unit("%"), digits) + " %";
    };
    lines.push_back(
        {"gain   " + beside_budget(*g, of_reading(g->value, 3), of_reading(g->standard, 2),
                                   of_reading(g->budgeted, 2))});
  } else {
    lines.push_back({"gain   not to be told: all readings are at one position"});
  }
  const auto& worst = c.rows[s.largest];
  lines.push_back({fmt::format("largest E_n {:.2f}, at {}", worst.normalised_error,
                               with_unit(quantity::significant(worst.meter, c.unit, 4), c.unit))});
  return lines;
}

Report of(const Comparison& c) {
  Report report;
  report.verdict.push_back(headline(c));
  for (auto& line : statements(c)) report.verdict.push_back(std::move(line));
  report.tables.push_back(rows_table(c));
  const auto undecided = [](const Row& row) { return row.verdict == Verdict::undecided; };
  if (const auto row = std::ranges::find_if(c.rows, undecided); row != c.rows.end()) {
    report.remarks.push_back({fmt::format(
        "what would decide {}: a meter and averaging that bring the guard band from {} "
        "under {}",
        with_unit(quantity::significant(row->meter, c.unit, 4), c.unit),
        amount(row->guard_band, c.unit, 2),
        amount(std::abs(row->limit - std::abs(row->difference)), c.unit, 2))});
  }
  return report;
}

}  // namespace tamlo::report
