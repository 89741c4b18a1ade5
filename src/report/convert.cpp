// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

bool is_code(const chain::Step& step) {
  static const auto lsb = quantity::unit("LSB");
  return step.unit == lsb;
}

// Ten digits, as "%.10g" has them; of many values this is most of the work.
std::string shown(const chain::Step& step) {
  if (is_code(step)) return fmt::format("{:.0f}", step.value);
  std::array<char, 32> text{};
  const double number = (step.value - step.unit.offset) / step.unit.scale();
  const auto end =
      std::to_chars(text.data(), text.data() + text.size(), number, std::chars_format::general, 10);
  return {text.data(), end.ptr};
}

Table steps(const std::vector<chain::Step>& all) {
  // A hundredth of a code, of 16 bits or of 24.
  const bool fine = std::ranges::any_of(
      all, [](const auto& step) { return is_code(step) && std::abs(step.value) > 1e5; });
  const int digits = fine ? 9 : 7;
  Table table{.title = "", .columns = {{"step", false}, {"value"}, {"unit", false}}};
  for (const auto& step : all) {
    if (is_code(step)) {
      table.rows.push_back({step.stage, shown(step), ""});
      continue;
    }
    const auto text = quantity::engineering(step.value, step.unit, digits);
    const auto space = std::min(text.find(' '), text.size());
    table.rows.push_back(
        {step.stage, text.substr(0, space), text.substr(std::min(space + 1, text.size()))});
  }
  return table;
}

template <class Traces>
Report table_of(const Traces& traces, bool all_digits) {
  Table table;
  for (const auto& step : traces.front().steps) {
    const bool code = is_code(step);
    table.columns.push_back({code ? step.stage : heading(step.stage, step.unit)});
  }
  for (const auto& trace : traces) {
    auto& row = table.rows.emplace_back();
    for (const auto& step : trace.steps)
      row.push_back(all_digits ? exact(step.value, step.unit) : shown(step));
  }
  Report report;
  report.tables.push_back(std::move(table));
  return report;
}

}  // namespace

Report columns(const std::vector<chain::Trace>& traces, bool all_digits) {
  return table_of(traces, all_digits);
}
Report columns(const std::vector<chain::InverseTrace>& traces, bool all_digits) {
  return table_of(traces, all_digits);
}

Report clipped(std::uint64_t count, std::uint64_t of) {
  return {.remarks = {{fmt::format("CLIPPED: {} of {} values are beyond the converter", count, of),
                       Tone::bad}}};
}

namespace {

Report of_value(const chain::Trace& trace, const quantity::Unit& unit) {
  Report report;
  say(report.verdict, Tone::heading, "{} reads {} as code {}, an error of {}",
      with_unit(exact(trace.at, unit), unit),
      with_unit(fmt::format("{:.8g}", (trace.reading - unit.offset) / unit.scale()), unit),
      trace.code, amount(trace.error, unit));
  report.tables.push_back(steps(trace.steps));
  if (trace.clipped) {
    say(report.remarks, Tone::bad, "CLIPPED: beyond the converter; values beyond it read code {}",
        trace.code);
  }
  return report;
}

Report of_code(const chain::InverseTrace& trace, const quantity::Unit& unit) {
  const auto shown = [&](double x) {
    return with_unit(fmt::format("{:.8g}", (x - unit.offset) / unit.scale()), unit);
  };
  const auto from = trace.open_below ? "anything up" : shown(trace.from);
  const auto to = trace.open_above ? "anything above" : shown(trace.to);
  Report report;
  say(report.verdict, Tone::heading, "code {} reads {}; it represents {} to {}", trace.reported,
      shown(trace.reading), from, to);
  report.tables.push_back(steps(trace.steps));
  return report;
}

}  // namespace

std::vector<Report> of(const result::ChannelTraces& traces) {
  std::vector<Report> reports;
  for (const auto& trace : traces.forward) reports.push_back(of_value(trace, traces.unit));
  for (const auto& trace : traces.back) reports.push_back(of_code(trace, traces.unit));
  return reports;
}

}  // namespace tamlo::report
