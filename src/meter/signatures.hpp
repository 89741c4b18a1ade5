// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <functional>
#include <string>
#include <utility>
#include <vector>

#include "row_figures.hpp"
#include "tamlo/meter/diagnose.hpp"

// Known faults, each tried on the readings.
namespace tamlo::meter {

/// All that a signature is looked for in.
struct DiagnosisContext {
  const model::Board& board;
  const std::string& channel;
  const model::Meter& meter;
  const std::vector<Reading>& readings;
  const std::vector<OtherChannel>& others;
  const chain::Chain& chain;
  const RowFigures& evidence;
  const math::InverseCovariance& inverse;
  double chi_squared;  ///< of the readings without a fault
  double left_by_one;  ///< chi-squared that the best single cause leaves of it
  bool claimed;        ///< they are such as a sound channel hardly shows
  double coverage;
};

std::vector<Signature> signatures(const DiagnosisContext& context);

/// Faults of a board or a firmware that differ from the description.
std::vector<Signature> changed_chains(const DiagnosisContext& context);
/// Returns the effect of each known fault on the rows, in the reading; faults without one are left
/// out.
std::vector<std::pair<std::string, std::vector<double>>> known_shifts(
    const DiagnosisContext& context);
/// Faults that show in the readings' own values: an end of the codes, low bits that never move.
std::vector<Signature> marks(const DiagnosisContext& context);
/// Faults that show in the noise of repeats: another number averaged, or the mains.
std::vector<Signature> noise_faults(const DiagnosisContext& context);
/// Faults of single rows: a high bit that stands still, two rows in each other's place.
std::vector<Signature> high_bits_and_swaps(const DiagnosisContext& context);

/// A board or a firmware that is not as described.
struct ChangedChain {
  chain::Chain as_built{}, firmware{};
  /// Function that gives what the firmware finds for a register value; none: that itself.
  std::function<double(const chain::Chain&, double)> found{};
  std::vector<double> at{};  ///< the quantity at its input in each row; none: that of the evidence
};

/// The evidence of the same readings from it.
RowFigures gather_changed(const DiagnosisContext& context, const ChangedChain& changed);
/// Kept where the fault explains the readings, and they are not explained without it.
void keep_if_it_explains(std::vector<Signature>& found, const DiagnosisContext& context,
                         Signature signature, const RowFigures& evidence);

}  // namespace tamlo::meter
