// SPDX-License-Identifier: Apache-2.0
// Vectors of numbers, for the loops that are compiled once for each set of instructions
// (cmake/settings.cmake). Types alone: a function here, compiled for one set, could be linked
// elsewhere.
#pragma once

#include <cstddef>

namespace tamlo::math {

/// A vector of n numbers, in as many registers as the set of instructions needs for them.
template <class Number, std::size_t n>
using Vector [[gnu::vector_size(n * sizeof(Number))]] = Number;

/// Stores the same in memory, where no more is known of it than that numbers stand there.
template <class Number, std::size_t n>
using StoredVector
    [[gnu::vector_size(n * sizeof(Number)), gnu::aligned(alignof(Number)), gnu::may_alias]] =
        Number;

}  // namespace tamlo::math
