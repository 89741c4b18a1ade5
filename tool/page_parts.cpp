// SPDX-License-Identifier: Apache-2.0
#include "page_parts.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "records.hpp"
#include "tamlo/names.hpp"
#include "tamlo/quantity/format.hpp"
#include "tamlo/report/plot.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {
namespace {

constexpr int points_of_span = 101;

// Under the channel's own heading its name need not be said again.
report::Line without_name(report::Line line, const std::string& channel) {
  if (line.text.starts_with(channel + ": ")) line.text.erase(0, channel.size() + 2);
  return line;
}

}  // namespace

std::vector<report::PageStep> path_of(const chain::Chain& chain) {
  const auto& span = chain.channel.span;
  const auto low = chain::trace(chain, span.low), high = chain::trace(chain, span.high);
  std::vector<report::PageStep> path;
  for (std::size_t i = 0; i < std::min(low.steps.size(), high.steps.size()); ++i) {
    const auto value = [](const chain::Step& step) {
      return quantity::engineering(step.value, step.unit, 4);
    };
    path.push_back({low.steps[i].stage, value(low.steps[i]), value(high.steps[i])});
  }
  return path;
}

report::PagePart budget_part(const model::Board& board, const chain::Chain& chain, double coverage,
                             report::PageChannel& into) {
  const auto units = budget::rough_units_among(board.channels.size());
  result::ChannelBudget result{
      .budget = budget::evaluate(chain, {.coverage = coverage, .rough_units = units})};
  result.advice = budget::advise(board, chain.channel.name, coverage);
  const auto& name = chain.channel.name;
  into.verdict = without_name(report::headline(result.budget), name);
  // Its headline stands above.
  auto reports = report::of(result, false);
  if (!reports.empty() && !reports.front().verdict.empty())
    reports.front().verdict.erase(reports.front().verdict.begin());
  return {.title = "Error budget",
          .reports = std::move(reports),
          .figures = {{report::chart_of_span(
                           budget::over_span(chain, points_of_span, {.coverage = coverage})),
                       fmt::format("{}: bias and expanded uncertainty over the span, beside what "
                                   "the target allows; the table has the figures",
                                   name)}}};
}

report::PagePart findings_part(const model::Board& board, report::PageChannel& into) {
  const auto check = check::examine(board, {into.name});
  const auto errors = check.count(check::Severity::error),
             warnings = check.count(check::Severity::warning);
  into.checked =
      errors + warnings == 0 ? "sound" : fmt::format("{} errors, {} warnings", errors, warnings);
  return {.title = "What needs attention", .reports = {report::of(check)}};
}

report::PageChannel quantity_channel(const io::LoadedBoard& board, const model::Quantity& quantity,
                                     double coverage) {
  const auto budget = budget::evaluate(quantity, board.chains, {.coverage = coverage});
  report::PageChannel result{.name = quantity.name, .measures = "= " + quantity.expression};
  auto report = report::of(budget);
  result.verdict = without_name(report.verdict.front(), quantity.name);
  auto findings = findings_part(board, result);
  report.verdict.erase(report.verdict.begin());
  result.parts = {std::move(findings), {.title = "Error budget", .reports = {std::move(report)}}};
  return result;
}

namespace {

// A part that says one thing.
report::Report remark(std::string text) { return {.remarks = {{std::move(text)}}}; }

// Of several units the first that fails, else the first.
void put_above(const meter::Comparison& comparison, report::PageChannel& into) {
  const auto headline = without_name(report::headline(comparison), into.name);
  if (into.compared.text.empty() ||
      (headline.tone == report::Tone::bad && into.compared.tone != report::Tone::bad)) {
    into.compared = headline;
  }
}

report::PagePart comparison_part(const model::Board& board, const PageReadings& readings,
                                 const Bench& bench, const PageArguments& arguments,
                                 double coverage, report::PageChannel& into) {
  const auto& rows = bench.of;
  auto result = comparison_of(board, readings.now, bench);
  if (readings.earlier && !bench.evidence.of_quantity()) {
    result.drift =
        drift_since(board, *readings.earlier, bench, arguments, arguments.apart, coverage);
  }
  put_above(result.comparison, into);
  return {.title = "Beside the meter" + (rows.unit.empty() ? "" : ", unit " + rows.unit),
          .reports = report::of(result),
          .figures = {{report::chart_of(result.comparison),
                       fmt::format("{}: differences from the meter beside what the budget and the "
                                   "meter allow; the table has the figures",
                                   rows.channel)}}};
}

// What a calibration by these rows buys; nothing of a channel that has one, and in words where the
// rows do not do for one.
std::vector<report::PagePart> calibration_part(const model::Board& board, const Bench& bench,
                                               const std::string& file, double coverage) {
  if (bench.evidence.of_quantity() || bench.evidence.chain().channel.correction) return {};
  report::PagePart part{.title = "What a calibration would achieve"};
  try {
    const auto calibration = meter::calibrate(bench.evidence, {.coverage = coverage});
    const auto ways = both_ways(bench, board, bench.of.channel, calibration.correction, coverage);
    part.reports.push_back(report::of(result::ChannelCalibration{
        .calibration = calibration,
        .before_after = {meter::before_after(file, ways.before, ways.after)}}));
    part.figures.push_back(
        {report::chart_of_before_after(ways.before, ways.after, calibration),
         bench.of.channel +
             ": differences before and after the correction; the table has the figures"});
  } catch (const Error& error) {
    part.reports = {remark(fmt::format("none can be made of these rows: {}", error.what()))};
  }
  return {std::move(part)};
}

}  // namespace

std::vector<report::PagePart> meter_parts(const model::Board& board, const PageReadings& readings,
                                          const PageArguments& arguments, double coverage,
                                          report::PageChannel& into) {
  const auto& file = readings.now;
  std::vector<io::ChannelReadings> own;
  for (const auto& channel : file.channels) {
    if (channel.channel == into.name) own.push_back(channel);
  }
  std::vector<report::PagePart> parts;
  std::vector<Bench> benches;
  for (const auto& each : own) {
    benches.push_back(bench_of(board, file, each, arguments, coverage));
  }
  const auto together = io::over_units(benches);
  for (const auto& units : together) {
    parts.push_back({.title = "All units together",
                     .reports = {report::of(units)},
                     .figures = {{report::chart_of_units(units.units, units.channel, units.unit),
                                  units.channel + ": offset and gain of each unit, with the "
                                                  "interval that holds most of all"}}});
  }
  for (const auto& bench : benches) {
    // Of many units the one page has the figures together, and each in a fold, or not at all.
    if (!together.empty() && arguments.units) {
      put_above(meter::compare(bench.evidence), into);
      continue;
    }
    auto compared = comparison_part(board, readings, bench, arguments, coverage, into);
    compared.folded = !together.empty();
    parts.push_back(std::move(compared));
    if (!together.empty()) continue;
    for (auto& part : calibration_part(board, bench, arguments.data, coverage)) {
      parts.push_back(std::move(part));
    }
  }
  return parts;
}

std::vector<PageRecord> records_of(const io::LoadedBoard& board, const PageArguments& arguments) {
  std::vector<PageRecord> result;
  for (const auto& text : arguments.records) {
    const auto equals = text.find('=');
    const auto head = text.substr(0, equals);
    const auto kinds = names_of<record::Input>();
    RecordArguments record_arguments;
    record_arguments.boards = arguments.boards;
    record_arguments.coverage = arguments.coverage;
    record_arguments.input = head.substr(0, head.find(':'));
    if (head.find(':') != std::string::npos)
      record_arguments.channels = {head.substr(head.find(':') + 1)};
    if (equals == std::string::npos ||
        std::ranges::find(kinds, record_arguments.input) == kinds.end()) {
      refuse("--record", "\"" + text + "\"",
             io::one_of(record_arguments.input, kinds,
                        "KIND=FILE or KIND:CHANNEL=FILE, where KIND is "));
    }
    record_arguments.data = text.substr(equals + 1);
    if (record_arguments.data == "-")
      refuse("--record", "standard input", "a file, whose identity the page has");
    // Of files whose names do not say it.
    if (!record_arguments.data.ends_with(".csv") && !record_arguments.data.ends_with(".wav"))
      record_arguments.layout = arguments.layout;
    const auto taken = take(board, record_arguments);
    for (std::size_t i = 0; i < taken.channels.size(); ++i) {
      const auto& record = taken.channels[i];
      PageRecord one{.channel = record.verdict.channel, .damaged = !record.damage.empty()};
      auto report = report::of(record);
      if (!report.verdict.empty()) one.verdict = without_name(report.verdict.front(), one.channel);
      one.part = {.title = fmt::format("Its record of a {} input, {}", record_arguments.input,
                                       record_arguments.data),
                  .reports = {std::move(report)}};
      const auto usual = report::usual_picture(record.verdict);
      if (auto chart =
              report::chart_of(record.verdict, taken.captures[i].capture, record.unit, usual)) {
        one.part.figures.push_back(
            {*std::move(chart),
             fmt::format("{}: {} of the record; the table has the figures", one.channel, usual)});
      }
      result.push_back(std::move(one));
    }
  }
  return result;
}

report::PagePart firmware_part(const model::Board& board, const chain::Chain& chain) {
  report::PagePart part{.title = "Integers for the firmware, and their bound", .folded = true};
  try {
    part.reports.push_back(report::of(firmware::plan_with_budget(board, chain, {})));
  } catch (const Error& error) {
    part.reports = {remark(fmt::format("none: {}", error.what()))};
  }
  return part;
}

std::vector<report::PagePart> registers_part(const model::Board& board, const chain::Chain& chain,
                                             const std::vector<firmware::RegisterMap>& maps) {
  for (const auto& map : maps) {
    if (map.converter != chain.converter.name) continue;
    return {{.title = "Register words",
             .reports = {report::of(result::ChannelRegisters{
                 .words = firmware::words_of(map, board, chain.channel.name)})},
             .folded = true}};
  }
  return {};
}

report::PagePart settings_part(const chain::Chain& chain) {
  report::PagePart part{.title = "Settings, every default",
                        .reports = {report::of(budget::settings(chain))},
                        .folded = true};
  if (!chain.firmware.digital.stages.empty()) {
    part.figures.push_back(
        {report::chart_of_response(chain),
         chain.channel.name + ": the gain of average and filter over frequency"});
  }
  return part;
}

}  // namespace tamlo::tool
