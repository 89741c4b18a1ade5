// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>

#include "math/instructions.hpp"

/// Random numbers by the row, for trials by the million. The number for a trial depends on the
/// seed, the row and the trial's own number alone (Philox 4x32, of 7 rounds, the fewest that pass
/// every test of randomness; Salmon, Moraes, Dror and Shaw, 2011), so any part of a row can be made
/// anywhere. The same bits on every set of instructions.
namespace tamlo::math {

/// A row is made in blocks of so many trials: enough that setting a block up is no part of its
/// time, and few enough that the parameters of a channel stay in the second cache.
inline constexpr std::size_t draws_block = 1024;

enum class Deviate : std::uint8_t {
  uniform,  ///< in (-1, 1), never an end, 2^-31 apart
  normal,   ///< standard (Box and Muller, 1958), within 4e-15 of the exact transform
  arcsine,  ///< sin(pi u / 2) of such a uniform one
};

/// Puts `from` plus `unit` times the deviates of the trials `first`, `first` + 1, ... into `out`,
/// which is as long as `from` and may be the same. `first` is a multiple of draws_block, and there
/// are no more than that.
void add_deviates(Deviate deviate, std::uint64_t seed, std::uint64_t row, std::uint64_t first,
                  double unit, std::span<const double> from, std::span<double> out,
                  Instructions with = widest_instructions());

}  // namespace tamlo::math
