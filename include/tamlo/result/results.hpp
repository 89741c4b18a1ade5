// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

#include "tamlo/budget/advice.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/budget/detail/conditions.hpp"
#include "tamlo/budget/detail/settings.hpp"
#include "tamlo/budget/quantity_budget.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/check/check.hpp"
#include "tamlo/explore/detail/explored.hpp"
#include "tamlo/export.hpp"
#include "tamlo/firmware/c_code.hpp"
#include "tamlo/firmware/detail/planned.hpp"
#include "tamlo/firmware/registers.hpp"
#include "tamlo/meter/bench_plan.hpp"
#include "tamlo/meter/calibrate.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/meter/detail/live.hpp"
#include "tamlo/meter/detail/pairing.hpp"
#include "tamlo/meter/diagnose.hpp"
#include "tamlo/meter/drift.hpp"
#include "tamlo/meter/units.hpp"
#include "tamlo/record/detail/record_figures.hpp"
#include "tamlo/record/verdict.hpp"
#include "tamlo/simulate/coverage.hpp"

/// Results of all commands, as plain data. Their fields are described once
/// (src/result/fields_*.hpp) and written from there in JSON, CSV and Markdown; the schemas are made
/// from the same descriptions. Text and pictures read the same structs.
namespace tamlo {
namespace result TAMLO_API {

/// Result of `channel`.
struct ChannelsSettings {
  std::vector<budget::ChannelSettings> channels{};
};

/// Values and codes of one channel, step by step.
struct ChannelTraces {
  std::string channel{};
  quantity::Unit unit{};
  std::vector<chain::Trace> forward{};
  std::vector<chain::InverseTrace> back{};
};
/// Result of `convert`.
struct Traces {
  std::vector<ChannelTraces> channels{};
};

/// Code of a quantity of several channels, or why there is none.
struct QuantityFirmware {
  firmware::QuantityPlan plan{};
  std::optional<std::string> without_code{};
  std::vector<std::string> files{};
};

/// Result of `firmware`.
struct Firmwares {
  std::vector<firmware::ChannelFirmware> channels{};
  std::vector<QuantityFirmware> quantities{};
};

/// The words of one channel, or what a device was found to be set to.
struct ChannelRegisters {
  firmware::ChannelWords words{};
  std::optional<firmware::FoundSettings> found{};
};
/// Result of `registers`.
struct Registers {
  std::vector<ChannelRegisters> channels{};
};

/// Summary of a watched link.
struct WatchedLink {
  std::string name{};
  std::uint64_t lines = 0, malformed = 0, lost = 0;
  std::string problem{};  ///< of the last line that did not fit, or why it was lost
};

/// Summary of the values that came over links.
struct Watched {
  std::vector<WatchedLink> links{};
  std::vector<meter::LiveView> channels{};
};

/// Coverage that a budget claims, beside that of virtual units.
struct CoveredChannel {
  std::string channel{};
  quantity::Unit unit{};
  simulate::CoverageProof proof{};
  bool holds = false;
};
/// Result of `prove`.
struct Covered {
  std::uint64_t seed = 0, first = 0;
  std::vector<CoveredChannel> channels{};
};

/// Tolerances as loose as the targets let them be.
struct LoosenedKey {
  std::string key{}, as_it_is{}, loosest{};
};
/// Result of `explore --solve`.
struct Loosened {
  std::vector<std::string> channels{};
  std::vector<LoosenedKey> keys{};
  bool meets = false, unlimited = false;
  double factor = 0.0, error = 0.0;
};
/// A budget as one condition changes.
struct OverCondition {
  std::string condition{};          ///< "temperature" or "age"
  quantity::Unit condition_unit{};  ///< its own
  std::vector<budget::UnderCondition> points{};
};
/// The budget of one channel, with what was asked beside it.
struct ChannelBudget {
  budget::Budget budget{};
  bool changed = false;  ///< of the board that a what-if made
  std::vector<OverCondition> over{};
  std::optional<budget::Advice> advice{};
};
/// Result of `budget`.
struct Budgets {
  std::vector<ChannelBudget> channels{};
  std::vector<budget::QuantityBudget> quantities{};  ///< computed from several channels
  /// Their budgets on the board that --what-if and --set make; empty without them.
  std::vector<budget::QuantityBudget> changed_quantities{};
};

/// All that one channel of one unit of the board gives beside the meter.
struct ChannelComparison {
  std::string board_unit{};  ///< empty where the file does not say
  meter::Comparison comparison{};
  meter::Diagnosis diagnosis{};
  std::optional<meter::Drift> drift{};  ///< since an earlier file
};
/// Result of `compare`.
struct Comparisons {
  std::vector<ChannelComparison> channels{};
  std::vector<meter::ChannelUnits> units{};
};

/// The calibration of one channel.
struct ChannelCalibration {
  meter::Calibration calibration{};
  std::vector<meter::BeforeAfter> before_after{};
};
/// Result of `calibrate`.
struct Calibrations {
  std::vector<ChannelCalibration> channels{};
};

/// All that a record of one channel gives.
struct ChannelRecord {
  record::Verdict verdict{};
  quantity::Unit unit{};  ///< of the channel
  std::string damage{};   ///< where and why the file ended early; empty for a sound one
  std::optional<record::SampleTimes> times{};
};
/// Result of `record`.
struct Records {
  std::vector<ChannelRecord> channels{};
};

/// Result of an evaluation of `tune`: all verdicts, and one channel in full.
struct Tuned {
  check::Examined check{};
  Budgets budget{};
  std::string channel{};  ///< in full; empty where it is a quantity of several
  quantity::Unit unit{};
  std::vector<budget::ChannelSettings> settings{};
  std::vector<budget::SpanPoint> span{};
  chain::Response response{};
  std::vector<ChannelComparison> comparisons{};  ///< with readings, of every channel
};

enum class Format : std::uint8_t { json, csv, markdown, workbook };

/// A result with the meanings and units of its fields, from which all formats are written.
struct Document;
/// Holds no copy: the result must outlive it.
using DocumentPtr = std::shared_ptr<const Document>;
/// One of all results; of two of one command the first has its schema.
using AnyResult =
    std::variant<const check::Examined*, const ChannelsSettings*, const Traces*, const Budgets*,
                 const Comparisons*, const Calibrations*, const Records*, const Firmwares*,
                 const Registers*, const Watched*, const meter::BenchPlan*,
                 const explore::Explored*, const Loosened*, const Covered*, const Tuned*>;
DocumentPtr document_of(const AnyResult& any);

/// JSON: one document, its format, the command and the version first. An infinite figure is null.
/// CSV and Markdown: a table for each list, the unit in the heading. A workbook: bytes of a file.
/// Throws EnvironmentError where what writes workbooks is missing.
std::string write(const DocumentPtr& result, Format format);
template <class Result>
std::string write(const Result& result, Format format) {
  return write(document_of(&result), format);
}

/// A table as a CSV file of its own: the headings, then a line for each row.
struct TableFile {
  std::string name{};  ///< letters, digits and "_", with ".csv"; none twice
  std::string csv{};
};
std::vector<TableFile> table_files(const DocumentPtr& result);

/// Returns findings as SARIF 2.1.0 (OASIS), for programs that show them beside their lines; advice
/// is a note.
std::string sarif(const check::Examined& check);

/// A text as JSON has it, in its quotes.
std::string json_text(std::string_view text);

/// The commands whose results have a schema, and the JSON Schema of one; empty for another.
std::vector<std::string> commands();
std::string schema(std::string_view command);

}  // namespace result
}  // namespace tamlo
