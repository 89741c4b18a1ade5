// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/budget/advice.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/budget/detail/conditions.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/chain/sampled.hpp"
#include "tamlo/chain/settings.hpp"
#include "tamlo/check/check.hpp"
#include "tamlo/explore/explore.hpp"
#include "tamlo/export.hpp"
#include "tamlo/firmware/plan.hpp"
#include "tamlo/firmware/registers.hpp"
#include "tamlo/meter/bench_plan.hpp"
#include "tamlo/meter/calibrate.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/meter/detail/live.hpp"
#include "tamlo/meter/detail/pairing.hpp"
#include "tamlo/meter/diagnose.hpp"
#include "tamlo/meter/drift.hpp"
#include "tamlo/meter/units.hpp"
#include "tamlo/record/detail/sample_times.hpp"
#include "tamlo/record/verdict.hpp"
#include "tamlo/simulate/coverage.hpp"

/// What each command gives, as plain data. Their fields are described once
/// (src/result/fields_*.hpp) and written from there in JSON, CSV and Markdown; the schemas are made
/// from the same descriptions. Text and pictures read the same structs.
namespace tamlo {
namespace result TAMLO_API {

/// A finding, and where in the files the key stands that it is about. Lines and columns count from
/// 1; 0 where the board was built in code.
struct FoundAt : check::Finding {
  std::string file{};
  std::uint64_t line = 0, column = 0, end_column = 0;
};
/// Of `check`.
struct Check {
  std::vector<std::string> channels{};
  std::vector<FoundAt> findings{};
  std::vector<check::Omission> omissions{};  ///< what the board does not say
  std::vector<std::string> ideal{};          ///< channels of which no part has a limit

  /// How many findings are so grave.
  std::uint64_t count(check::Severity severity) const;
};
/// The findings of these channels, errors first. Throws as check::check().
Check check_of(const model::Board& board, const std::vector<std::string>& channels);

/// How a channel follows a moving quantity.
struct Ramp {
  double slope = 0.0;  ///< of the quantity, a second
  double step = 0.0;   ///< of the reading
  double time_between_steps = 0.0;
};

/// A threshold of the firmware.
struct Threshold {
  chain::ThresholdFigures figures{};
  double on_asked = 0.0, off_asked = 0.0;  ///< the quantity
  double expanded = 0.0;                   ///< of a reading there
  double coverage = 0.0;
};

/// An edge between two zones: a threshold that compares readings.
struct ZoneEdge {
  std::string below{}, above{};  ///< names of the zones
  double at = 0.0;               ///< the quantity, as asked
  chain::ThresholdFigures figures{};
  double standard_uncertainty = 0.0;  ///< of a reading there
  double expanded = 0.0;
  double coverage = 0.0;
};
/// A stretch of the quantity that the firmware tells apart.
struct Zone {
  std::string name{};
  double from = 0.0, to = 0.0;  ///< the quantity
  double codes = 0.0;           ///< its width, in register values
  bool narrow = false;          ///< under four of them, or under the noise of a reading
};

/// The settings of one channel.
struct ChannelSettings {
  chain::Chain chain{};
  chain::Settings settings{};
  chain::Dynamics dynamics{};
  std::optional<Threshold> threshold{};
  std::vector<ZoneEdge> zone_edges{};
  std::vector<Zone> zones{};
  std::optional<Ramp> ramp{};
  std::optional<chain::SampledSine> sine{};
};
/// What else is asked of a channel beside its settings.
struct SettingsRequest {
  std::optional<double> slope{};      ///< of the quantity a second, for the ramp
  std::optional<double> frequency{};  ///< of the sine, Hz
  /// As in budget::Request, for thresholds and zones.
  std::uint64_t rough_units = budget::Request{}.rough_units;
};
/// Throws as chain::settings() and chain::sampled_sine() do.
ChannelSettings settings_of(chain::Chain chain, const SettingsRequest& request = {});

/// Of `channel`.
struct Settings {
  std::vector<ChannelSettings> channels{};
};

/// Values and codes of one channel, step by step.
struct ChannelTraces {
  std::string channel{};
  quantity::Unit unit{};
  std::vector<chain::Trace> forward{};
  std::vector<chain::InverseTrace> back{};
};
/// Of `convert`.
struct Traces {
  std::vector<ChannelTraces> channels{};
};

/// The integers of one channel, and what its budget says with them.
struct ChannelFirmware {
  firmware::Plan plan{};
  int float_operations = 0;  ///< of the plain formula, a logarithm or power as 100
  std::optional<bool> target_met{};
  double error = 0.0;             ///< SI: |bias| and expanded uncertainty at the worst place
  std::optional<double> limit{};  ///< SI: that the target sets there
  std::vector<std::string> files{};
};
/// Evaluates the budget of the board's channel with these integers; `chain` is the channel's as the
/// board has it. Throws as firmware::plan() does.
ChannelFirmware firmware_of(const model::Board& board, const chain::Chain& chain,
                            const firmware::Request& request);

/// Of `firmware`.
struct Firmwares {
  std::vector<ChannelFirmware> channels{};
};

/// The words of one channel, or what a device was found to be set to.
struct ChannelRegisters {
  firmware::ChannelWords words{};
  std::optional<firmware::FoundSettings> found{};
};
/// Of `registers`.
struct Registers {
  std::vector<ChannelRegisters> channels{};
};

/// How a link did.
struct WatchedLink {
  std::string name{};
  std::uint64_t lines = 0, malformed = 0, lost = 0;
  std::string problem{};  ///< of the last line that did not fit, or why it was lost
};

/// What came over links.
struct Watched {
  std::vector<WatchedLink> links{};
  std::vector<meter::LiveView> channels{};
};

/// A candidate of a design, in words.
struct ExploredChoice {
  std::string name{}, value{};
};
/// An amount that candidates have, and its limit.
struct ExploredAmount {
  std::string name{};
  double value = 0.0;  ///< in the unit
  std::string unit{};
};
/// A candidate, with its choices by name.
struct ExploredCandidate {
  std::uint64_t number = 0;
  bool feasible = false;
  double error = 0.0, latency = 0.0;
  std::vector<ExploredAmount> amounts{};
  std::vector<ExploredChoice> choices{};
};

/// The candidate of the least error, latency, or amount.
struct ExploredBest {
  std::string least{};
  ExploredCandidate candidate{};
};
/// What a target costs, and the next tighter one: in the first goal that is an amount.
struct ExploredCost {
  std::string channel{};
  explore::Target target = explore::Target::accuracy;
  double now = 0.0, cost = 0.0;  ///< cost in the unit of the amount
  std::uint64_t number = 0;
  std::optional<double> next{}, next_cost{};
  std::optional<std::uint64_t> next_number{};
};

/// The front of all candidates.
struct Explored {
  std::vector<std::string> channels{}, goals{};
  std::uint64_t candidates = 0, tried = 0, feasible = 0, evaluated = 0;
  std::vector<std::string> without_accuracy{};  ///< channels of which no error is known
  std::vector<ExploredCandidate> front{}, nearest{};
  std::vector<ExploredBest> best{};
  std::string cost_of{};  ///< the amount that costs are in, with its unit
  std::vector<ExploredCost> costs{};
  std::vector<std::string> never_matter{};  ///< choices that change no goal of the front
  std::string relax_first{};  ///< where nothing is feasible: what would have to give way least
};
/// What a budget claims beside what virtual units show.
struct CoveredChannel {
  std::string channel{};
  quantity::Unit unit{};
  simulate::CoverageProof proof{};
  bool holds = false;
};
/// Of `simulate --coverage`.
struct Covered {
  std::uint64_t seed = 0, first = 0;
  std::vector<CoveredChannel> channels{};
};

/// Tolerances as loose as the targets let them be.
struct LoosenedKey {
  std::string key{}, as_it_is{}, loosest{};
};
/// Of `explore --solve`.
struct Loosened {
  std::vector<std::string> channels{};
  std::vector<LoosenedKey> keys{};
  bool meets = false, unlimited = false;
  double factor = 0.0, error = 0.0;
};
Explored explored_of(const explore::Space& space, const explore::Exploration& exploration);

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
/// Of `budget`.
struct Budgets {
  std::vector<ChannelBudget> channels{};
};

/// All that one channel of one unit of the board gives beside the meter.
struct ChannelComparison {
  std::string board_unit{};  ///< empty where the file does not say
  meter::Comparison comparison{};
  meter::Diagnosis diagnosis{};
  std::optional<meter::Drift> drift{};  ///< since an earlier file
};
/// Units of the board, where the file has several.
struct ChannelUnits {
  std::string channel{};
  quantity::Unit unit{};
  meter::Units units{};
};
/// Of `compare`.
struct Comparisons {
  std::vector<ChannelComparison> channels{};
  std::vector<ChannelUnits> units{};
};

/// What a correction makes of the rows of a file.
struct BeforeAfter {
  std::string readings{};            ///< the file
  double before = 0.0, after = 0.0;  ///< the largest difference from the meter, SI
  int passed_before = 0, passed_after = 0, rows = 0;
};
BeforeAfter before_after(std::string readings, const meter::Comparison& before,
                         const meter::Comparison& after);

/// The calibration of one channel.
struct ChannelCalibration {
  meter::Calibration calibration{};
  std::vector<BeforeAfter> before_after{};
};
/// Of `calibrate`.
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
/// Of `record`.
struct Records {
  std::vector<ChannelRecord> channels{};
};

enum class Format : std::uint8_t { json, csv, markdown };

/// JSON: one document, its format, the command and the version first. An infinite figure is null.
/// CSV and Markdown: a table for each list, the unit in the heading.
std::string write(const Check& result, Format format);
std::string write(const Settings& result, Format format);
std::string write(const Traces& result, Format format);
std::string write(const Budgets& result, Format format);
std::string write(const Comparisons& result, Format format);
std::string write(const Calibrations& result, Format format);
std::string write(const Firmwares& of, Format format);
std::string write(const Registers& of, Format format);
std::string write(const Watched& of, Format format);
std::string write(const Explored& of, Format format);
std::string write(const Covered& of, Format format);
std::string write(const Loosened& of, Format format);
std::string write(const meter::BenchPlan& of, Format format);
std::string write(const Records& result, Format format);

/// A text as JSON has it, in its quotes.
std::string json_text(std::string_view text);

/// The commands whose results have a schema, and the JSON Schema of one; empty for another.
std::vector<std::string> commands();
std::string schema(std::string_view command);

}  // namespace result
}  // namespace tamlo
