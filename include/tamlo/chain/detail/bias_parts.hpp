// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "tamlo/export.hpp"

namespace tamlo {
namespace chain TAMLO_API {

struct Chain;

/// A named part of the bias at one place, and what takes it away.
struct BiasPart {
  std::string name{};    ///< "self-heating"
  double size = 0.0;     ///< SI, with its sign: what the reading is off more because of it
  std::string remedy{};  ///< what takes it away
};

/// Returns the known errors that every unit has and the firmware does not correct: self-heating,
/// leads that are not subtracted, a meter that loads the pin, integers that truncate. Each is the
/// reading with it less the reading without it, all else nominal; parts below a thousandth of a
/// code are left out.
std::vector<BiasPart> bias_parts(const Chain& chain, double x);

/// Returns true where no part of the channel has a limit: its budget is then one of ideal parts.
bool of_ideal_parts(const Chain& chain);

}  // namespace chain
}  // namespace tamlo
