// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "evidence.hpp"
#include "tamlo/meter/diagnose.hpp"

// Known faults, each tried on the readings.
namespace tamlo::meter {

/// All that a signature is looked for in.
struct Scene {
  const model::Board& board;
  const std::string& channel;
  const model::Meter& meter;
  const std::vector<Reading>& readings;
  const chain::Chain& chain;
  const Evidence& evidence;
  const math::InverseCovariance& inverse;
  double chi_squared;  ///< of the readings without a fault
  bool claimed;        ///< they are such as a sound channel hardly shows
  double coverage;
};

std::vector<Signature> signatures(const Scene& scene);

/// Faults of a board or a firmware that differ from the description.
std::vector<Signature> changed_chains(const Scene& scene);
/// Faults that show in the readings' own values: an end of the codes, low bits that never move.
std::vector<Signature> marks(const Scene& scene);
/// Faults of single rows: a high bit that stands still, two rows in each other's place.
std::vector<Signature> high_bits_and_swaps(const Scene& scene);

/// The evidence of the same readings from a board `world` that a `firmware` scales.
Evidence gather_changed(const Scene& scene, const chain::Chain& world,
                        const chain::Chain& firmware);
/// Kept where the fault explains the readings, and they are not explained without it.
void keep_if_it_explains(std::vector<Signature>& found, const Scene& scene, Signature signature,
                         const Evidence& evidence);

}  // namespace tamlo::meter
