// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>

#include "tamlo/quantity/format.hpp"
#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

std::string at_place(double x, const quantity::Unit& unit) { return value_with_unit(x, unit, 4); }

std::string chance(double probability) {
  return probability > 0.9995 ? "> 99.9 %" : fmt::format("{:.1f} %", 100.0 * probability);
}

Table positions_table(const meter::BenchPlan& plan) {
  const auto difference = quantity::difference_unit(plan.unit);
  Table table{
      .title = fmt::format("{}, the rows of the plan, in {}", plan.channel, plan.unit.symbol),
      .columns = {{"at"},
                  {"allowed ±"},
                  {"guard band ±"},
                  {"decided"},
                  {"decided at the end of its budget"}}};
  for (const auto& row : plan.positions) {
    table.rows.push_back({figure(row.at, plan.unit, plan.positions.back().limit, 2),
                          figure(row.limit, difference, row.limit, 3),
                          figure(row.guard_band, difference, row.limit, 3), chance(row.decided),
                          chance(row.decided_at_limit)});
  }
  return table;
}

Table faults_table(const meter::BenchPlan& plan) {
  Table table{.title = "what these rows would show",
              .columns = {{"fault", false}, {"seen at"}, {"could be taken for", false}}};
  for (const auto& fault : plan.faults) {
    const auto seen = fault.limits        ? fmt::format("{:.3g} x its limit", *fault.limits)
                      : fault.probability ? chance(*fault.probability)
                                          : "never";
    std::string like = fault.like.empty() ? "" : fault.like.front();
    if (fault.like.size() > 1) like += fmt::format(" and {} more", fault.like.size() - 1);
    table.rows.push_back(
        {fault.fault, seen, Cell{like, fmt::format("{}", fmt::join(fault.like, "; "))}});
  }
  return table;
}

}  // namespace

std::string line_of(const meter::Row& row, const quantity::Unit& unit) {
  const auto difference = quantity::difference_unit(unit);
  const auto near = [&](double x) { return with_unit(aligned(x, unit, row.guard_band, 2), unit); };
  return fmt::format("meter {}, reading {}, difference {}{} ± {}, E_n {:.2f}: {}, {} repeat{}",
                     near(row.meter), near(row.reading), row.difference < 0.0 ? "" : "+",
                     quantity::significant(row.difference, difference, 3),
                     amount(row.guard_band, unit, 2), row.normalised_error, name(row.verdict),
                     row.repeats, quantity::plural(row.repeats));
}

std::string instruction(const std::string& channel, double at, const quantity::Unit& unit,
                        meter::Direction direction, std::size_t number, std::size_t index,
                        bool by_source) {
  const char* const way = direction == meter::Direction::rising    ? ", from below"
                          : direction == meter::Direction::falling ? ", from above"
                                                                   : "";
  return fmt::format("{} of {}: {} {} to {}{}\n", number, index,
                     by_source ? "the source sets" : "set", channel, at_place(at, unit), way);
}

std::string waiting(meter::Waits waits, std::optional<double> shown, std::optional<double> reading,
                    double at, bool elsewhere, const quantity::Unit& unit) {
  std::string text =
      fmt::format("meter {}, reading {}: ", shown ? at_place(*shown, unit) : "nothing yet",
                  reading ? at_place(*reading, unit) : "nothing yet");
  switch (waits) {
    case meter::Waits::nothing:
      if (!elsewhere || !shown) return text + "at rest";
      return text + fmt::format("at rest, {} by {} to be at {}", *shown < at ? "go up" : "go down",
                                amount(std::abs(at - *shown), unit, 2), at_place(at, unit));
    case meter::Waits::for_channel:
      return text + "the channel moves, or too few readings arrived";
    case meter::Waits::for_meter:
      return text + "the meter moves, or too few readings arrived";
    case meter::Waits::meter_overload:
      return text + "the meter is beyond its range: choose a higher one, or go down";
    case meter::Waits::code_at_end:
      return text + "the code is at an end of its range: values beyond it cannot be read";
    case meter::Waits::to_follow:
      return text + "the reading did not follow: its lines come late, or it stands still";
  }
  return text;
}

Report of(const meter::BenchPlan& plan) {
  Report report;
  const auto rows = plan.positions.size();
  const bool decides = plan.decided >= 0.95;
  say(report.verdict, decides ? Tone::good : Tone::doubtful,
      "{}: {} position{} of {} reading{} beside the meter {} {} {}", plan.channel, rows,
      quantity::plural(rows), plan.repeats, quantity::plural(plan.repeats), plan.meter,
      decides ? "decide" : "DO NOT DECIDE",
      plan.has_target ? "the target" : "the budget, as there is no target");
  say(report.verdict,
      "the least decided row, at {}, passes or fails with {}; beside a meter of a quarter of the "
      "uncertainty with {}",
      at_place(plan.least_decided_at, plan.unit), chance(plan.decided),
      chance(plan.decided_by_better_meter));
  say(report.verdict,
      "from these rows and the budget together the error is known to be inside or outside with {} "
      "anywhere in the span, the least at {}",
      chance(plan.span_decided), at_place(plan.least_decided_of_span, plan.unit));
  report.tables.push_back(positions_table(plan));
  report.tables.push_back(faults_table(plan));
  return report;
}

}  // namespace tamlo::report
