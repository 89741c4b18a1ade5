// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <cmath>

#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {

Report of(const result::CoveredChannel& covered) {
  Report report;
  const auto& proof = covered.proof;
  say(report.verdict, covered.holds ? Tone::good : Tone::bad,
      "{}: the budget's {:.4g} % {}, counted over {} virtual units", covered.channel,
      100.0 * proof.claimed, covered.holds ? "holds" : "does not hold", proof.units);
  const auto unit = quantity::difference_unit(covered.unit);
  Table table{.title = "",
              .columns = {{"at [" + covered.unit.symbol + "]"},
                          {"bias [" + unit.symbol + "]"},
                          {"U [" + unit.symbol + "]"},
                          {"below"},
                          {"within"},
                          {"above"},
                          {"within [%]"},
                          {"99 % interval [%]"}}};
  for (const auto& place : proof.places) {
    const auto difference = [&](double si) { return quantity::significant(si, unit, 3); };
    table.rows.push_back(
        {quantity::significant(place.at, covered.unit, 4), difference(place.bias),
         difference(place.expanded), fmt::format("{}", place.below),
         fmt::format("{}", place.within), fmt::format("{}", place.above),
         fmt::format("{:.2f}", 100.0 * place.part),
         fmt::format("{:.2f} to {:.2f}", 100.0 * place.interval.low, 100.0 * place.interval.high)});
    if (place.interval.low > proof.claimed + (1.0 - proof.claimed) / 2.0) {
      say(report.remarks, "at {} {} the budget is wider than necessary",
          quantity::significant(place.at, covered.unit, 4), covered.unit.symbol);
    }
  }
  report.tables.push_back(std::move(table));
  return report;
}

}  // namespace tamlo::report
