// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <span>
#include <vector>

#include "tamlo/chain/chain.hpp"
#include "tamlo/model/board.hpp"

// What the one who finds a correction shares with the chain that carries it.
namespace tamlo::chain {

/// Holds the standard uncertainties of a meter at one place, SI: limit by limit, which are one
/// unknown for the whole of a range, and what is new at every reading.
struct MeterAtPlace {
  std::vector<double> limits{};  ///< of all ranges up to this one, one after the other
  double own = 0.0;              ///< display, and noise of the channel's reading
};
MeterAtPlace meter_at(const Chain& chain, const model::Meter& meter, double place);

/// True for what differs from place to place and is the same again at one: no step of the codes.
bool is_shape(const Chain& chain, std::size_t source);

/// Returns the correction that an adjustment of each unit is: nominally it takes the bias away at
/// its places, of each unit what it is off there, and it is as uncertain as the meter (nullptr:
/// ideal), the reading and the shape of the channel at these places make it.
model::Correction correction_by(const Chain& chain, const model::Adjustment& adjustment,
                                const model::Meter* meter);

/// Hats over two nodes or more, at a reading; beyond them the outermost pieces go on.
std::vector<double> hats(std::span<const double> nodes, double reading);

/// Returns a nominal reading of `x` as a correction leaves it: that of one unit is right there, an
/// adjustment of each unit takes away what it says.
double nominal_after(const model::Correction& correction, double reading, double x);

/// The reading that is corrected to `x`; corrections are small beside the span.
double before_correction(const model::Correction& correction, double x);

}  // namespace tamlo::chain
