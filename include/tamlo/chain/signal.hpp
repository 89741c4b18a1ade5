// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <span>

namespace tamlo::chain {

/// The actual values of everything that a chain is made of, in the order of Chain::parameters.
using Parameters = std::span<const double>;

/// What passes along a chain: the value (the quantity, ohms, amperes, volts) and, of a voltage, the
/// resistance that it comes from. Leakage and whatever loads the node act on that resistance.
struct Signal {
  double value = 0.0;
  double resistance = 0.0;
};

}  // namespace tamlo::chain
