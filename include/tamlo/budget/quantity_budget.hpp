// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "tamlo/budget/budget.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/board.hpp"

/// Budgets of quantities that the firmware computes from the readings of several channels
/// (docs/method.md, "Quantities of several channels").
namespace tamlo {
namespace budget TAMLO_API {

/// Describes one source of a quantity: of one channel, or of a part that several channels share.
struct QuantitySource {
  std::string name{};         ///< "tap_2: divider top tolerance", "precision voltage tolerance"
  double contribution = 0.0;  ///< SI of the quantity, through all channels together, with its sign
  double share = 0.0;         ///< of the combined variance
};

/// Holds the value of one channel there.
struct QuantityPlace {
  std::string channel{};
  double at = 0.0;  ///< SI
  quantity::Unit unit{};
};

/// Error budget of a quantity at one value of it, at the worst place of its channels. SI.
struct QuantityPoint {
  double at = 0.0;
  std::vector<QuantityPlace> places{};  ///< of the channels that the formula uses
  double bias = 0.0;                    ///< mean error of the units
  double combined = 0.0;
  double expanded = 0.0;  ///< that part of the units lies so near to the bias
  /// Expanded uncertainty if the channels had nothing in common: what shared parts add or save.
  double unrelated = 0.0;
  WorstCase worst_case{};
  std::optional<double> limit{};                      ///< what the target allows here
  model::JudgedBy by = model::JudgedBy::uncertainty;  ///< what is held against it
  std::vector<QuantitySource> sources{};              ///< in closed form, the largest share first
  std::vector<double> contributions{};  ///< of each of QuantityBudget::sources, SI of the quantity
  double error() const;                 ///< |bias| + expanded, or the larger end of the worst case
};

/// Returns the sources of less than 0.05 % of the variance each.
MinorSources minor_sources(const QuantityPoint& point);

/// The budget of a quantity: at both ends and the middle of its span or where it was asked for, as
/// far as its channels reach these values.
struct QuantityBudget {
  std::string quantity{};
  std::string expression{};
  quantity::Unit unit{};
  quantity::Range span{};
  double coverage = 0.95;
  std::uint64_t units = 0;  ///< that were drawn at each point
  std::vector<QuantityPoint> points{};
  /// The sources of its channels and its own, each once; in the first channel that has it.
  std::vector<chain::Source> sources{};
  std::vector<chain::Correlation> correlations{};  ///< of two of them
  const QuantityPoint& worst() const;  ///< that comes nearest to its limit; else the most uncertain
  bool target_met() const;             ///< true also without a target
};

/// Request for the budget of a quantity. Units are drawn with one deviation of each source; a
/// source of a reference or a converter has one deviation for all channels on it.
struct QuantityRequest {
  std::vector<double> at{};  ///< values of it, SI; none: both ends and the middle of its span
  double coverage = 0.95;
  std::uint64_t units = 20'000;
  std::uint64_t seed = 1;
};

/// Returns the budget of a quantity; `chains` has those of its channels. Figures are by trials of
/// readings as they happen (JCGM 101), the interval to 0.7 % of its size with 20 000 units; shares
/// and worst cases are in closed form (JCGM 100, 5.2). Throws ArgumentError where a channel is
/// missing, DataError where no readings of the channels give a value of its span.
QuantityBudget evaluate(const model::Quantity& quantity, const std::vector<chain::Chain>& chains,
                        const QuantityRequest& request = {});

}  // namespace budget
}  // namespace tamlo
