// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "tamlo/budget/advice.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/budget/conditions.hpp"
#include "tamlo/chain/settings.hpp"
#include "tamlo/check/check.hpp"
#include "tamlo/io/record_file.hpp"
#include "tamlo/meter/calibrate.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/meter/diagnose.hpp"
#include "tamlo/meter/drift.hpp"
#include "tamlo/meter/units.hpp"
#include "tamlo/record/verdict.hpp"
#include "tamlo/report/table.hpp"

/// The results of the core, said to people: the verdict first, then the figures, then what to do.
namespace tamlo::report {

Report of(const std::vector<check::Finding>& findings, const std::vector<std::string>& channels);
Report of(const chain::Chain& chain, const chain::Settings& settings);
Report of(const chain::Chain& chain, const chain::Trace& trace);
Report of(const chain::Chain& chain, const chain::InverseTrace& trace);
/// Many values at once, one at least: a row for each, a column for each step.
Report columns(const std::vector<chain::Trace>& traces);
Report columns(const std::vector<chain::InverseTrace>& traces);
/// That so many of them are beyond the converter.
Report clipped(std::uint64_t count, std::uint64_t of);
/// Leaves the first column and the one that is called `name`; false, and all names in `known`, if
/// there is none.
bool keep_column(Report& report, const std::string& name, std::vector<std::string>& known);
/// How often the reading changes while the quantity moves.
Line ramp(const chain::Chain& chain, double slope);
Report of(const budget::Budget& budget);
/// What to change first, for the budget that it belongs to.
Report of(const budget::Advice& advice, const budget::Budget& budget);
/// Two budgets side by side, source by source, at the worst place of each.
Report of_change(const budget::Budget& before, const budget::Budget& after);
/// A budget as a condition changes; `name` and `unit` are the condition's.
Report of(const std::vector<budget::UnderCondition>& rows, const budget::Budget& budget,
          const std::string& name, const quantity::Unit& unit);
Report of(const meter::Comparison& comparison);

/// What the diagnosis says: the fault, or the likeliest parts.
Report of(const meter::Diagnosis& diagnosis);
Report of(const meter::Drift& drift, const meter::Comparison& comparison);
Report of(const meter::Units& units, const std::string& channel, const quantity::Unit& unit);
Report of(const meter::Calibration& calibration);
/// What a correction makes of the rows of a file: largest differences and rows that pass.
Line before_after(const std::string& file, double before, double after, int passed_before,
                  int passed_after, int rows, const quantity::Unit& unit);

Report of(const record::Verdict& verdict, const quantity::Unit& unit);
/// What the times of a record's file say.
void add_times(Report& report, const std::optional<io::SampleTimes>& times);

/// The one line of a result that comes first.
Line headline(const budget::Budget& budget);
Line headline(const meter::Comparison& comparison);
Line headline(const meter::Calibration& calibration);

/// What the offset and the gain of the differences say beside what the budget expected of them.
std::vector<Line> statements(const meter::Comparison& comparison);

}  // namespace tamlo::report
