// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "tamlo/quantity/format.hpp"
#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

using meter::Comparison;
using meter::Figure;
using meter::Row;

Table rows_table(const Comparison& c) {
  const auto difference = quantity::difference_unit(c.unit);
  const double size = std::ranges::max_element(c.rows, {}, &Row::guard_band)->guard_band;
  Table table{.title = fmt::format("{}, row by row beside the meter {}, in {}", c.channel, c.meter,
                                   c.unit.symbol),
              .columns = {{"meter"},
                          {"reading"},
                          {"difference"},
                          {"allowed ±"},
                          {"verdict", false},
                          {"guard band ±"},
                          {"E_n"},
                          {"channel ±"},
                          {"meter ±"}}};
  for (const auto& row : c.rows) {
    table.rows.push_back({figure(row.meter, c.unit, size, 2), figure(row.reading, c.unit, size, 2),
                          figure(row.difference, difference, size, 2),
                          figure(row.limit, difference, size, 2), std::string(name(row.verdict)),
                          figure(row.guard_band, difference, size, 2),
                          fmt::format("{:.2f}", row.normalised_error),
                          figure(row.expanded_channel, difference, size, 2),
                          figure(row.expanded_meter, difference, size, 2)});
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

Line side_line(const Comparison& c) {
  switch (c.summary.side) {
    case meter::Side::neither:
      return {"no fault on either side: the uncertainties of both explain the differences"};
    case meter::Side::channel:
      return {
          "the channel is more likely wrong than the meter: no limit of the meter explains the "
          "readings as well"};
    case meter::Side::meter:
      return {
          "the meter is more likely wrong than the channel: no part of the channel explains the "
          "readings as well"};
    case meter::Side::undetermined:
      return {"these readings cannot tell which side is wrong"};
  }
  return {};
}

}  // namespace

Line headline(const Comparison& c) {
  const auto& s = c.summary;
  const auto rows = c.rows.size();
  const auto against = c.has_target ? "the target" : "the budget, as there is no target";
  if (s.verdict == meter::Verdict::pass) {
    return {fmt::format("{}: PASS: all {} readings within {}", c.channel, rows, against),
            Tone::good};
  }
  if (s.verdict == meter::Verdict::fail) {
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
  say(lines, a.agrees ? Tone::good : Tone::bad,
      "the readings {} with the budget: chi-squared {:.1f} for {} row{}, "
      "probability {:.2g}",
      a.agrees ? "AGREE" : "DO NOT AGREE", a.chi_squared, a.dof, quantity::plural(a.dof),
      a.probability);
  const auto& o = s.offset;
  lines.push_back({"offset " + beside_budget(o, amount(o.value, c.unit),
                                             amount(o.standard_uncertainty, c.unit, 2),
                                             amount(o.budgeted, c.unit, 2))});
  if (const auto& g = s.gain) {
    const auto of_reading = [](double ratio, int digits) {
      return quantity::significant(ratio, quantity::unit("%"), digits) + " %";
    };
    lines.push_back({"gain   " + beside_budget(*g, of_reading(g->value, 3),
                                               of_reading(g->standard_uncertainty, 2),
                                               of_reading(g->budgeted, 2))});
  } else {
    lines.push_back({"gain   cannot be estimated: all readings are at one position"});
  }
  if (const auto& h = s.hysteresis) {
    lines.push_back(
        {"rising less falling " + beside_budget(*h, amount(h->value, c.unit),
                                                amount(h->standard_uncertainty, c.unit, 2),
                                                amount(h->budgeted, c.unit, 2))});
  }
  if (const auto& d = s.drift) {
    const double day = 86400.0;
    const double out = std::abs(d->value) / d->standard_uncertainty;
    say(lines, "drift while it was read: {} a day (u {}){}", amount(day * d->value, c.unit),
        amount(day * d->standard_uncertainty, c.unit, 2),
        out > 2.0 ? ", IT MOVES" : ": none observed");
  }
  if (const auto& shape = s.shape) {
    say(lines, "shape  {} from the best line, at {}; {} from the line through the ends",
        amount(shape->best_fit, c.unit, 2), value_with_unit(shape->best_fit_at, c.unit, 4),
        amount(shape->end_point, c.unit, 2));
  }
  if (const auto& n = s.noise) {
    say(lines, "noise  {} by {} repeats ({} to {}), {} predicted: {}",
        amount(n->observed, c.unit, 2), n->dof, amount(n->low, c.unit, 2),
        amount(n->high, c.unit, 2), amount(n->predicted, c.unit, 2),
        n->differs > 0   ? "MORE THAN PREDICTED"
        : n->differs < 0 ? "less"
                         : "as predicted");
  }
  lines.push_back(side_line(c));
  if (s.accuracy_ratio < 4.0) {
    say(lines, Tone::doubtful,
        "accuracy ratio {:.2g}: the target should be at least 4 times the meter's uncertainty",
        s.accuracy_ratio);
  }
  const auto& worst = c.rows[s.largest];
  say(lines, "largest E_n {:.2f}, at {}", worst.normalised_error,
      value_with_unit(worst.meter, c.unit, 4));
  return lines;
}

Report of(const Comparison& c) {
  Report report;
  report.verdict.push_back(headline(c));
  for (auto& line : statements(c)) report.verdict.push_back(std::move(line));
  report.tables.push_back(rows_table(c));
  report.legend.push_back(
      {"guard band: part of the limit that is left to uncertainty; E_n: difference over both "
       "expanded uncertainties, at most 1 where they agree"});
  report.legend.push_back(
      {"chi-squared: squared differences over their variances, summed: about 1 for each row"});
  const auto undecided = [](const Row& row) { return row.verdict == meter::Verdict::undecided; };
  if (const auto row = std::ranges::find_if(c.rows, undecided); row != c.rows.end()) {
    const auto place = value_with_unit(row->meter, c.unit, 4);
    const double room = std::abs(row->limit - std::abs(row->difference));
    report.remarks.push_back(
        {row->repeats_needed
             ? fmt::format("what would decide {}: {:.0f} readings there instead of {}; the meter "
                           "leaves {} of the {} of the guard band",
                           place, *row->repeats_needed, row->repeats,
                           amount(row->irreducible, c.unit, 2), amount(room, c.unit, 2))
             : fmt::format("what would decide {}: a better meter; its part of the guard band, ±{} "
                           "of ±{}, must be below {}",
                           place, amount(row->irreducible, c.unit, 2),
                           amount(row->guard_band, c.unit, 2), amount(room, c.unit, 2))});
  }
  return report;
}

}  // namespace tamlo::report
