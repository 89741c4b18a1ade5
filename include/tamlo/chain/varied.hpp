// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <span>

#include "tamlo/chain/chain.hpp"

namespace tamlo::chain {

/// Readings of the quantity `x` by many units, as read_untared() gives them one by one to the bit:
/// rows[i][t] is parameter i of unit t, each row as long as `out`. Up to 1024 units.
void read_varied(const Chain& chain, double x, const double* const* rows, std::span<double> out);

}  // namespace tamlo::chain
