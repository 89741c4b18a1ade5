// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "tamlo/budget/propagate.hpp"
#include "tamlo/export.hpp"

namespace tamlo::chain {
struct Chain;
}  // namespace tamlo::chain

/// The sources of a channel as inputs of the propagation engine, and its whole chain as their
/// model.
namespace tamlo {
namespace budget TAMLO_API {

/// One input for each source, a deviation about 0 in the unit of its parameter, as it is in a
/// reading at `x`: noise after average and filter is normal, interference arcsine, quantisation
/// uniform.
std::vector<Input> inputs_of(const chain::Chain& chain, double x);

/// Returns mean, standard uncertainty and intervals of the error of indication at `x` (SI): the
/// sources of the channel drawn and pushed through the whole chain (JCGM 101). The same request
/// gives the same figures on any number of threads. Throws ArgumentError for a request out of its
/// range, DataError if a trial has no finite value.
Trials simulate(const chain::Chain& chain, double x, const TrialsRequest& request);

/// Returns `count` single trials in the order of their numbers, such as for a picture of their
/// distribution.
std::vector<double> sample(const chain::Chain& chain, double x, std::uint64_t count,
                           const TrialsRequest& request);

/// Returns the error of units that give one reading each, drawn conversion by conversion: with the
/// ends of the codes, the firmware's steps, its clamps and its overflow
/// (chain/reading_sampler.hpp).
Trials simulate_readings(const chain::Chain& chain, double x, const TrialsRequest& request);
std::vector<double> sample_readings(const chain::Chain& chain, double x, std::uint64_t count,
                                    std::uint64_t seed = 1);
/// Returns the errors of units at places spread evenly over a step of `x`, `step` codes wide, one
/// place for each unit. A closed form covers all places of a step together.
std::vector<double> sample_about(const chain::Chain& chain, double x, double step,
                                 std::uint64_t count, std::uint64_t seed);
/// The errors that the same units have on average on the day when they are adjusted: with their
/// tolerances alone.
std::vector<double> sample_expected(const chain::Chain& chain, double x, std::uint64_t count,
                                    std::uint64_t seed = 1);

/// Errors of the readings of several channels of the same units, `at` one place each: a source of a
/// reference or converter that they share is drawn once for all of them. One row for each channel.
std::vector<std::vector<double>> sample_together(const std::vector<const chain::Chain*>& chains,
                                                 const std::vector<double>& at, std::uint64_t count,
                                                 std::uint64_t seed = 1);

}  // namespace budget
}  // namespace tamlo
