// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <span>
#include <vector>

#include "tamlo/model/board.hpp"

// What the one who finds a correction shares with the chain that carries it.
namespace tamlo::chain {

/// Hats over two nodes or more, at a reading; beyond them the outermost pieces go on.
std::vector<double> hats(std::span<const double> nodes, double reading);

/// The reading that is corrected to `x`; corrections are small beside the span.
double before_correction(const model::Correction& correction, double x);

}  // namespace tamlo::chain
