// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>

namespace tamlo::math {

/// The sets of instructions that the loops over many numbers are compiled for, a namespace each:
/// what every machine of the kind has, and two of x86. Results are the same bits on all of them.
enum class Instructions : std::uint8_t { base, avx2, avx512 };

// Declares something for each set; where only the base is compiled, the other two are names for it.
#ifdef TAMLO_X86_KERNELS
#define TAMLO_EACH_SET(declare) declare(base) declare(avx2) declare(avx512)
#else
#define TAMLO_EACH_SET(declare)        \
  declare(base) namespace avx2 = base; \
  namespace avx512 = base;
#endif

/// The widest that this machine has.
Instructions widest_instructions();
/// Lets widest_instructions() say no more than `most` from now on, so that one machine can compare
/// and measure all of them.
void hold_instructions(Instructions most);

/// The one of three that is compiled for `with`.
template <class Function>
Function* chosen(Instructions with, Function* base, Function* avx2, Function* avx512) {
  return with == Instructions::avx512 ? avx512 : with == Instructions::avx2 ? avx2 : base;
}

/// The one that this machine runs best.
template <class Function>
Function* chosen(Function* base, Function* avx2, Function* avx512) {
  return chosen(widest_instructions(), base, avx2, avx512);
}

}  // namespace tamlo::math
