// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/report/table.hpp"
#include "tamlo/result/results.hpp"

/// The results of the core, said to people: the verdict first, then the figures, then what to do.
namespace tamlo {
namespace report TAMLO_API {

Report of(const check::Examined& check);
Report of(const budget::ChannelSettings& settings);
/// A report for each value, and for each code.
std::vector<Report> of(const result::ChannelTraces& traces);
/// Many values at once, one at least: a row for each, a column for each step. `all_digits`: so that
/// they read back the same.
Report columns(const std::vector<chain::Trace>& traces, bool all_digits);
Report columns(const std::vector<chain::InverseTrace>& traces, bool all_digits);
/// Returns the report that `count` values of `of` lie beyond the converter's range.
Report clipped(std::uint64_t count, std::uint64_t of);
/// `all`: also the sources that matter to nobody, which are one row else.
Report of(const budget::Budget& budget, bool all = false);
/// The budget, what it is over each condition, and what to change first.
std::vector<Report> of(const result::ChannelBudget& budget, bool all = false);
/// The budget of a quantity of several channels; `all`: also sources under 0.05 % of the variance.
Report of(const budget::QuantityBudget& budget, bool all = false);
/// Two budgets side by side, source by source, at the worst place of each.
Report of_change(const budget::Budget& before, const budget::Budget& after);
Report of_change(const budget::QuantityBudget& before, const budget::QuantityBudget& after);
/// Rows and verdict, what the diagnosis says, and the change since an earlier file.
std::vector<Report> of(const result::ChannelComparison& comparison);
Report of(const meter::Comparison& comparison);

/// Returns the report of a diagnosis: the fault, or the likeliest parts.
Report of(const meter::Diagnosis& diagnosis);
Report of(const meter::ChannelUnits& units);
Report of(const result::ChannelCalibration& calibration);
Report of(const meter::Calibration& calibration);
Report of(const result::ChannelRecord& record);
Report of(const firmware::ChannelFirmware& firmware);
Report of(const result::QuantityFirmware& firmware);
Report of(const result::ChannelRegisters& registers);
Report of(const result::Watched& watched);
Report of(const meter::BenchPlan& plan);
Report of(const explore::Explored& explored);
Report of(const result::Loosened& loosened);
Report of(const result::CoveredChannel& covered);
/// A row in one line, as it was taken.
std::string line_of(const meter::Row& row, const quantity::Unit& unit);
/// Returns the instruction for a position, and what it waits for; SI.
std::string instruction(const std::string& channel, double at, const quantity::Unit& unit,
                        meter::Direction direction, std::size_t number, std::size_t index,
                        bool by_source);
std::string waiting(meter::Waits waits, std::optional<double> shown, std::optional<double> reading,
                    double at, bool elsewhere, const quantity::Unit& unit);
/// One line of a live reading.
std::string line_of(const meter::LiveState& state);
/// Returns the line about a link that was lost.
std::string line_of_loss(const std::string& link, std::uint64_t lost, const std::string& problem);
/// Returns the line of a live view, with its distance from an aim.
std::string line_of(const meter::LiveView& view, std::optional<double> aim);
/// Returns the direction and the amount to turn to reach an aim.
std::string to_aim(const meter::LiveState& state, const quantity::Range& span, double aim);

/// The one line of a result that comes first.
Line headline(const budget::Budget& budget);
Line headline(const budget::QuantityBudget& budget);
Line headline(const meter::Comparison& comparison);
Line headline(const meter::Calibration& calibration);

/// A channel, or a quantity of several, and its headline.
struct Judged {
  std::string name{};
  Line headline{};
};
/// Returns headlines as test cases of one suite, in the XML that programs of continuous integration
/// read: a bad one is a failure, a plain one is skipped, as there is nothing that it must meet.
std::string junit(const std::string& suite, const std::vector<Judged>& all);

/// Returns the lines about offset and gain of the differences, beside what the budget expected.
std::vector<Line> statements(const meter::Comparison& comparison);

}  // namespace report
}  // namespace tamlo
