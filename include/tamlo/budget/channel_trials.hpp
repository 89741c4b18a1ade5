// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "tamlo/budget/propagate.hpp"
#include "tamlo/chain/chain.hpp"

/// The sources of a channel as inputs of the propagation engine, and its whole chain as their
/// model.
namespace tamlo::budget {

/// One input for each source, a deviation about 0 in the unit of its parameter, as it is in a
/// reading at `x`: noise after average and filter is normal, interference arcsine, quantisation
/// uniform.
std::vector<Input> inputs_of(const chain::Chain& chain, double x);

/// Error of indication at `x`, reading minus quantity, by trials of all sources through the chain.
Trials simulate(const chain::Chain& chain, double x, const TrialsRequest& request);

/// The same trials one by one, in the order of their numbers: for a picture of their distribution.
std::vector<double> sample(const chain::Chain& chain, double x, std::uint64_t count,
                           const TrialsRequest& request);

}  // namespace tamlo::budget
