// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <memory>
#include <vector>

#include "row_figures.hpp"
#include "tamlo/meter/diagnose.hpp"

// The one place that says whether readings agree with the budget, and what is to blame if not.
namespace tamlo::meter {

/// A source of the channel, or a limit of the meter on one of its ranges.
struct PossibleCause {
  Suspect::Source named{};
  double standard_in_limits = 0.0;  ///< standard uncertainty, in limits
  std::vector<double> effect{};     ///< on each row of the evidence
};
std::vector<PossibleCause> possible_causes(const chain::Chain& chain, const model::Meter& meter,
                                           const RowFigures& evidence);

/// The rows that a decision was made with: all, or of very many the thinned ones.
struct DecidedRows {
  std::vector<Reading> readings{};
  RowFigures figures{};
};

struct Decision {
  DecidedRows rows{};
  Agreement agreement{};
  std::vector<Suspect> suspects{};  ///< the likeliest first; disjoint
  Side side = Side::neither;
  CausesTogether together{};  ///< where they do not agree
};

/// True of a quantity of several channels: it stands as a chain that has its span, its target and
/// its sources, and no path to a code.
inline bool is_quantity(const chain::Chain& chain) { return chain.parameters.empty(); }

/// Throws ArgumentError for the evidence of a quantity of several channels.
void require_channel(const Evidence& evidence);

/// Chi-squared of all rows, and each source of the channel and each limit of the meter held against
/// 400 rows at most, taken evenly. A fault is claimed where either lies in the outer (1 - coverage)
/// / 2 of what a sound channel beside a sound meter shows. `of_all_rows` is of the readings.
Decision decide(const chain::Chain& chain, const model::Meter& meter,
                const std::vector<Reading>& readings, const RowFigures& of_all_rows);

/// Parts of an Evidence.
struct Evidence::Parts {
  chain::Chain chain;
  model::Meter meter;
  std::vector<Reading> readings;
  double coverage = 0.95;
  RowFigures rows{};
  Decision decision{};
};

/// Decides on rows and puts all together.
std::shared_ptr<const Evidence::Parts> gathered(const chain::Chain& chain,
                                                const model::Meter& meter,
                                                std::vector<Reading> readings, RowFigures rows);

}  // namespace tamlo::meter
