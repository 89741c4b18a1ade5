// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <span>

#include "math/draws.hpp"
#include "tamlo/chain/detail/batch.hpp"

namespace tamlo::chain {

/// Readings of the quantity `x` by many units, as read_untared() gives them one by one to the bit
/// on every set of instructions: rows[i][t] is parameter i of unit t, each row as long as `out`,
/// which is no longer than math::draws_block.
void read_units(const Chain& chain, double x, const double* const* rows, std::span<double> out,
                math::Instructions with = math::widest_instructions());

/// Unquantised codes of many units at the quantity `x`, as code() gives them one by one, with rows
/// as above.
void codes_of_units(const Chain& chain, double x, const double* const* rows, std::span<double> out,
                    math::Instructions with = math::widest_instructions());

}  // namespace tamlo::chain
