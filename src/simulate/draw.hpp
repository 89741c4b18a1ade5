// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "tamlo/chain/source.hpp"
#include "tamlo/math/random.hpp"

namespace tamlo::simulate {

/// A deviation from a source's distribution, of half-width `limit` and standard deviation
/// `standard`.
double deviation(const chain::Source& source, math::RandomStream& stream);

}  // namespace tamlo::simulate
