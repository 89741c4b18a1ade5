// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

Table steps(const std::vector<chain::Step>& all) {
  Table table{.title = "", .columns = {{"step", false}, {"value"}, {"unit", false}}, .rows = {}};
  for (const auto& step : all) {
    const bool code = step.unit == quantity::unit("LSB");
    const double number = (step.value - step.unit.offset) / step.unit.scale();
    table.rows.push_back(
        {step.stage,
         {code ? fmt::format("{:.0f}", step.value) : fmt::format("{:.10g}", number),
          exact(step.value, step.unit)},
         code ? "" : step.unit.symbol});
  }
  return table;
}

}  // namespace

Report of(const chain::Chain& chain, const chain::Walk& walk) {
  const auto& unit = chain.channel.span.unit;
  Report report;
  report.verdict.push_back(
      {fmt::format(
           "{} reads {} as code {}, an error of {}",
           with_unit(exact(walk.steps.front().value, unit), unit),
           with_unit(fmt::format("{:.8g}", (walk.reading - unit.offset) / unit.scale()), unit),
           walk.code, amount(walk.error, unit)),
       Tone::heading});
  report.tables.push_back(steps(walk.steps));
  if (walk.clipped) {
    report.remarks.push_back(
        {fmt::format("CLIPPED: beyond the converter; all beyond it reads code {}", walk.code),
         Tone::bad});
  }
  return report;
}

Report of(const chain::Chain& chain, const chain::WalkBack& walk) {
  const auto& unit = chain.channel.span.unit;
  const auto shown = [&](double x) {
    return with_unit(fmt::format("{:.8g}", (x - unit.offset) / unit.scale()), unit);
  };
  const auto from = walk.open_below ? "anything" : "from " + shown(walk.from);
  const auto to = walk.open_above ? "up to anything" : "up to " + shown(walk.to);
  Report report;
  report.verdict.push_back({fmt::format("code {:.0f} reads {}; it stands for {} {}",
                                        walk.steps.front().value, shown(walk.reading), from, to),
                            Tone::heading});
  report.tables.push_back(steps(walk.steps));
  return report;
}

}  // namespace tamlo::report
