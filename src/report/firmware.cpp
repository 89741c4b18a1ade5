// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <cmath>
#include <optional>
#include <tuple>

#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
Report of(const firmware::ChannelFirmware& firmware) {
  const auto& plan = firmware.plan;
  const auto& arithmetic = plan.arithmetic;
  Report report;
  say(report.verdict, Tone::heading, "{}: the arithmetic is off by {} at most; {} is allowed",
      plan.channel,
      amount(quantity::rounded_up(plan.bound, quantity::difference_unit(plan.unit), 3), plan.unit),
      amount(plan.allowed, plan.unit));
  if (firmware.target_met) {
    say(report.verdict, *firmware.target_met ? Tone::good : Tone::bad,
        "TARGET {}: a reading with this firmware is within {}; {} is allowed",
        *firmware.target_met ? "MET" : "MISSED", amount(firmware.error, plan.unit),
        amount(firmware.limit.value_or(0.0), plan.unit));
  }
  Table table{.title = "", .columns = {{"part", false}, {"how", false}}};
  const auto row = [&](const char* what, const std::string& how) {
    table.rows.push_back({std::string(what), how});
  };
  row("reading", firmware::in_words(arithmetic));
  if (plan.filter.per_code != 1.0) {
    row("number",
        fmt::format("register value * {:g}: what average and filter keep", plan.filter.per_code));
  }
  row("one count", quantity::engineering(plan.count, quantity::difference_unit(plan.unit), 6));
  if (plan.wrong_step > 0)
    row("backward", fmt::format("by up to {} counts, as the formula does", plan.wrong_step));
  row("worst at", fmt::format("register value {:.10g}", plan.bound_at));
  if (arithmetic.form != firmware::Form::straight) {
    row("covers", fmt::format("register values {:.10g} to {:.10g}; beyond them the reading stays",
                              static_cast<double>(arithmetic.first) / plan.filter.per_code,
                              static_cast<double>(arithmetic.last) / plan.filter.per_code));
  }
  row("word", fmt::format("{} bit; the widest number is {}", arithmetic.bits, arithmetic.widest()));
  row("cost",
      fmt::format(
          "{} operations in integers, {} bytes of tables and constants; the plain formula takes "
          "{} in floating point",
          plan.operations, arithmetic.table_bytes(), firmware.float_operations));
  if (arithmetic.bits > 32 && arithmetic.form == firmware::Form::straight) {
    row("8-bit core", "products of 64 bits: there floating point is no slower, good to 24 bits");
  }
  for (const auto& stage : plan.filter.stages) {
    row("filter",
        fmt::format("{}: {} bits{}", stage.name, stage.out_bits,
                    stage.rounding > 0.0 ? fmt::format(", rounds by {:.2g} LSB at most",
                                                       quantity::rounded_up(stage.rounding, {}, 2))
                                         : ", exact"));
  }
  if (plan.filter.settling > 1)
    row("valid", fmt::format("from reading {} on", plan.filter.settling));
  row("in span", fmt::format("register values {} to {} with every part at its limits; NAME_fault "
                             "tells others",
                             plan.lowest_code, plan.highest_code));
  const std::tuple<const char*, const char*, std::optional<std::int64_t>> faults[] = {
      {"open", "sensor reads", plan.open_code},
      {"shorted", "sensor reads", plan.shorted_code},
      {"reference", "without it", plan.no_reference_code}};
  for (const auto& [what, reads, code] : faults) {
    if (!code) continue;
    row(what, fmt::format("{} register value {}: {}", reads, *code,
                          plan.gives(*code) ? "NOT SEEN, the span has it too" : "seen"));
  }
  if (plan.filter.transient > 0.0) {
    row("moving",
        fmt::format(
            "a filter in integers moves a reading by up to {} LSB while the input changes",
            quantity::significant(quantity::rounded_up(plan.filter.transient, {}, 2), {}, 2)));
  }
  if (plan.tared) {
    row("tare",
        fmt::format("not in the code: subtract the reading that was taken at {}", *plan.tared));
  }
  if (firmware.unit) {
    const auto& unit = *firmware.unit;
    row("unit", fmt::format("adds {:.5g} counts and {:.5g} % of the reading; rounds by {} at most",
                            unit.offset / 256.0, unit.gain / 10737418.24,
                            amount(quantity::rounded_up(unit.error * plan.count,
                                                        quantity::difference_unit(plan.unit), 3),
                                   plan.unit)));
  }
  if (plan.corrected) row("calibration", "the correction is in the numbers");
  if (!firmware.files.empty()) {
    row("written", fmt::format("{}", fmt::join(firmware.files, ", ")));
  }
  report.tables.push_back(std::move(table));
  return report;
}

Report of(const result::QuantityFirmware& firmware) {
  const auto& plan = firmware.plan;
  if (firmware.without_code) {
    return {.verdict = {{fmt::format("{}: no code: {}", plan.quantity, *firmware.without_code),
                         Tone::doubtful}}};
  }
  const auto bound = quantity::rounded_up(plan.bound, quantity::difference_unit(plan.unit), 3);
  Table table{
      .title = "",
      .columns = {{"part", false}, {"how", false}},
      .rows = {{"formula", plan.expression},
               {"readings", fmt::format("{}, in counts", fmt::join(plan.channels, ", "))},
               {"cost", fmt::format("{} operations in single precision", plan.operations)}}};
  if (!firmware.files.empty())
    table.rows.push_back({"written", fmt::format("{}", fmt::join(firmware.files, ", "))});
  return {
      .verdict = {{fmt::format("{}: the arithmetic is off by {} at most, while each reading lies "
                               "in its span",
                               plan.quantity, amount(bound, plan.unit)),
                   Tone::heading}},
      .tables = {std::move(table)}};
}

}  // namespace tamlo::report
