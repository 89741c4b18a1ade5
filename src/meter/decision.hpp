// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <vector>

#include "row_figures.hpp"
#include "tamlo/meter/diagnose.hpp"

// The one place that says whether readings agree with the budget, and what is to blame if not.
namespace tamlo::meter {

/// Returns so many of very many rows, taken, evenly.
std::vector<Reading> thinned(const std::vector<Reading>& readings);

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

/// Chi-squared of all rows, and each source of the channel and each limit of the meter held against
/// the rows that thinned() leaves. A fault is claimed where either lies in the outer (1 - coverage)
/// / 2 of what a sound channel beside a sound meter shows. `of_all_rows` is of the readings.
Decision decide(const chain::Chain& chain, const model::Meter& meter,
                const std::vector<Reading>& readings, const RowFigures& of_all_rows,
                double coverage);

/// Parts of an Evidence.
struct Evidence::Parts {
  chain::Chain chain;
  model::Meter meter;
  std::vector<Reading> readings;
  double coverage = 0.95;
  RowFigures rows{};
  Decision decision{};
};

}  // namespace tamlo::meter
