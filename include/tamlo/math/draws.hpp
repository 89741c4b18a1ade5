// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <span>

/// Random numbers by the row, for trials by the million. The number for a trial depends on the
/// seed, the row and the trial's own number alone (Philox 4x32, 10 rounds; Salmon, Moraes, Dror and
/// Shaw, 2011), so any part of a row can be made anywhere. The same bits on every set of
/// instructions.
namespace tamlo::math {

enum class Instructions : std::uint8_t { sse2, avx2, avx512 };

/// The widest that this machine has.
Instructions widest_instructions();

/// Uniform in (0, 1), never an end, 2^-52 apart, of the trials `first`, `first` + 1, ... `first` is
/// a multiple of 1024, and the row no longer than 1024.
void uniform_row(std::uint64_t seed, std::uint64_t row, std::uint64_t first, std::span<double> out,
                 Instructions with = widest_instructions());

/// Standard normal (Box and Muller, 1958), within 2e-15 of the exact transform; the same rules.
void normal_row(std::uint64_t seed, std::uint64_t row, std::uint64_t first, std::span<double> out,
                Instructions with = widest_instructions());

/// sin(pi (u - 1/2)) of a uniform row: what an arcsine distribution is made of.
void arcsine_row(std::uint64_t seed, std::uint64_t row, std::uint64_t first, std::span<double> out,
                 Instructions with = widest_instructions());

}  // namespace tamlo::math
