// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "tamlo/budget/budget.hpp"
#include "tamlo/chain/settings.hpp"
#include "tamlo/check/check.hpp"
#include "tamlo/io/record_file.hpp"
#include "tamlo/meter/calibrate.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/meter/diagnose.hpp"
#include "tamlo/meter/drift.hpp"
#include "tamlo/meter/units.hpp"
#include "tamlo/record/verdict.hpp"

/// One JSON document for each command (share/tamlo/schema/). Figures of the quantity are in `unit`,
/// differences of degC in K; all others are SI. Fields are named as the C++ members. One channel
/// stands at the top of the document, several in `channels`. An infinite figure is null.
namespace tamlo::io {

std::string to_json(const std::vector<check::Finding>& findings,
                    const std::vector<std::string>& channels);
std::string to_json(const std::vector<chain::Chain>& chains);
std::string to_json(const chain::Chain& chain, const std::vector<chain::Trace>& traces,
                    const std::vector<chain::InverseTrace>& inverse_traces);
/// `pairs`: each channel twice, as it is and as it was changed.
std::string to_json(const std::vector<budget::Budget>& budgets, bool pairs = false);

/// All that one channel of one unit of the board gives beside the meter.
struct CompareResult {
  std::string unit{};  ///< of the board; empty where the file does not say
  meter::Comparison comparison{};
  meter::Diagnosis diagnosis{};
  std::optional<meter::Drift> drift{};  ///< since an earlier file
};
/// Units of the board, where the file has several.
struct UnitsResult {
  std::string channel{};
  quantity::Unit unit{};
  meter::Units units{};
};
std::string to_json(const std::vector<CompareResult>& results,
                    const std::vector<UnitsResult>& over_units);

/// What a correction makes of the rows of a file.
struct BeforeAfter {
  std::string readings{};            ///< the file
  double before = 0.0, after = 0.0;  ///< the largest difference from the meter, SI
  int passed_before = 0, passed_after = 0, rows = 0;
};
std::string to_json(const meter::Calibration& calibration,
                    const std::vector<BeforeAfter>& before_after);

/// All that a record of one channel gives.
struct RecordResult {
  record::Verdict verdict{};
  quantity::Unit unit{};  ///< of the channel
  RecordRead read{};
};
std::string to_json(const std::vector<RecordResult>& results);

}  // namespace tamlo::io
