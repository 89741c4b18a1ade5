// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <optional>
#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/quantity/value.hpp"

namespace tamlo::model {
struct Board;
struct Meter;
}  // namespace tamlo::model

/// Plans of measurements beside a meter that decide whether a channel meets its target
/// (docs/method.md, "Plan of the bench").
namespace tamlo {
namespace meter TAMLO_API {

/// One position of the knob. SI.
struct PlannedPosition {
  double at = 0.0;
  double limit = 0.0;       ///< what the target allows; the budget itself without one
  double guard_band = 0.0;  ///< expanded uncertainty of the difference, of so many repeats
  /// Probability that the row passes or fails: of a unit drawn from the budget, and of one that is
  /// off by the whole of its budget.
  double decided = 0.0, decided_at_limit = 0.0;
};

/// A source of the channel, a limit of the meter, or a known fault, and whether these rows show it.
struct FaultSeen {
  std::string fault{};
  /// Size of a source in its own limits: how far it must be off to be seen at 95 %; nothing where
  /// the rows do not show it at all.
  std::optional<double> limits{};
  std::optional<double> probability{};  ///< of a known fault: that it is seen
  std::vector<std::string> like{};  ///< those that it could be taken for, by a likelihood under 20
};

/// Positions and repeats of a measurement, with the probability that each verdict is decided.
struct BenchPlan {
  std::string channel{}, meter{};
  quantity::Unit unit{};
  bool has_target = false;
  double coverage = 0.95;
  std::vector<PlannedPosition> positions{};  ///< rising
  int repeats = 1;
  /// Probability of the least decided row, for a unit drawn from the budget.
  double decided = 0.0;
  double least_decided_at = 0.0;
  /// Probability at the least decided place of the whole span that the unit's error there is
  /// known to be inside or outside the limit, from the budget and these rows together.
  double span_decided = 0.0;
  double least_decided_of_span = 0.0;
  double decided_by_better_meter =
      0.0;  ///< of the least decided row, of a quarter of the uncertainty
  std::vector<FaultSeen> faults{};
};

/// Returns where to measure, and how often, so that verdicts are decided. `positions` of 0: as many
/// as are needed, 3 to 12, the ends (a fiftieth of the span inside it) and the middle first
/// (D-optimal for offset, gain and curvature), then one by one at the least decided place; another
/// number: so many, evenly. Repeats are the fewest, up to 64, with which the least decided row
/// comes to 95 %, or within half a percent of what 64 decide. A fault counts as seen by the
/// chi-squared test of the comparison (Patnaik, 1949). Throws CompareError for a meter whose ranges
/// do not hold the span.
BenchPlan plan_bench(const model::Board& board, const std::string& channel,
                     const model::Meter& meter, std::size_t positions = 0, double coverage = 0.95);

/// So many positions, even over the span but for a fiftieth at both ends; one is in the middle.
std::vector<double> even_positions(const quantity::Range& span, std::size_t count);

}  // namespace meter
}  // namespace tamlo
