// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>

namespace tamlo::math {

/// The sets of instructions that the loops over many numbers are compiled for, a namespace each.
/// Results are the same bits on all of them.
enum class Instructions : std::uint8_t { sse2, avx2, avx512 };

/// The widest that this machine has.
Instructions widest_instructions();
/// Lets widest_instructions() say no more than `most` from now on, so that one machine can compare
/// and measure all of them.
void hold_instructions(Instructions most);

/// The one of three that is compiled for `with`.
template <class Function>
Function* chosen(Instructions with, Function* sse2, Function* avx2, Function* avx512) {
  return with == Instructions::avx512 ? avx512 : with == Instructions::avx2 ? avx2 : sse2;
}

/// The one that this machine runs best.
template <class Function>
Function* chosen(Function* sse2, Function* avx2, Function* avx512) {
  return chosen(widest_instructions(), sse2, avx2, avx512);
}

}  // namespace tamlo::math
