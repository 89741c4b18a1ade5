// SPDX-License-Identifier: Apache-2.0
#include "math/instructions.hpp"

#include <algorithm>
#include <atomic>

#include "tamlo/math/detail/instruction_sets.hpp"

namespace tamlo::math {
namespace {

Instructions of_this_machine() {
#ifdef TAMLO_X86_KERNELS
  // Of the last kind all that its kernels are compiled for (cmake/settings.cmake).
  if (__builtin_cpu_supports("avx512f") && __builtin_cpu_supports("avx512dq") &&
      __builtin_cpu_supports("avx512bw")) {
    return Instructions::avx512;
  }
  if (__builtin_cpu_supports("avx2")) return Instructions::avx2;
#endif
  return Instructions::base;
}

std::atomic<Instructions>& widest() {
  static std::atomic<Instructions> widest = of_this_machine();
  return widest;
}

}  // namespace

Instructions widest_instructions() { return widest().load(std::memory_order_relaxed); }

void hold_instructions(Instructions most) { widest() = std::min(most, of_this_machine()); }

InstructionSets instruction_sets() {
#ifdef TAMLO_X86_KERNELS
  static constexpr std::string_view names[] = {"SSE2", "AVX2", "AVX-512"};
  return {.compiled = "SSE2, AVX2, AVX-512",
          .in_use = names[static_cast<std::size_t>(widest_instructions())]};
#else
  return {.compiled = "baseline", .in_use = "baseline"};
#endif
}

}  // namespace tamlo::math
