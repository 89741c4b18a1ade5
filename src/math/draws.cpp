// SPDX-License-Identifier: Apache-2.0
#include "tamlo/math/draws.hpp"

#include <algorithm>
#include <array>
#include <cassert>

namespace tamlo::math {

// One for each set of instructions, from draws_kernel.hpp.
#define TAMLO_BLOCKS(set)                                                                       \
  namespace set {                                                                               \
  void uniform_block(unsigned long long seed, unsigned long long row, unsigned long long first, \
                     double* out);                                                              \
  void normal_block(unsigned long long seed, unsigned long long row, unsigned long long first,  \
                    double* out);                                                               \
  void arcsine_block(unsigned long long seed, unsigned long long row, unsigned long long first, \
                     double* out);                                                              \
  }
TAMLO_BLOCKS(sse2)
TAMLO_BLOCKS(avx2)
TAMLO_BLOCKS(avx512)
#undef TAMLO_BLOCKS

namespace {

using Block = void (*)(unsigned long long, unsigned long long, unsigned long long, double*);

void row_of(const std::array<Block, 3>& blocks, std::uint64_t seed, std::uint64_t row,
            std::uint64_t first, std::span<double> out, Instructions with) {
  assert(first % 1024 == 0 && out.size() <= 1024);
  const Block block = blocks[static_cast<std::size_t>(with)];
  if (out.size() == 1024) {
    block(seed, row, first, out.data());
    return;
  }
  std::array<double, 1024> whole;
  block(seed, row, first, whole.data());
  std::copy_n(whole.begin(), out.size(), out.begin());
}

}  // namespace

Instructions widest_instructions() {
  static const Instructions widest = [] {
    if (__builtin_cpu_supports("avx512f") && __builtin_cpu_supports("avx512dq")) {
      return Instructions::avx512;
    }
    return __builtin_cpu_supports("avx2") ? Instructions::avx2 : Instructions::sse2;
  }();
  return widest;
}

void uniform_row(std::uint64_t seed, std::uint64_t row, std::uint64_t first, std::span<double> out,
                 Instructions with) {
  row_of({sse2::uniform_block, avx2::uniform_block, avx512::uniform_block}, seed, row, first, out,
         with);
}

void normal_row(std::uint64_t seed, std::uint64_t row, std::uint64_t first, std::span<double> out,
                Instructions with) {
  row_of({sse2::normal_block, avx2::normal_block, avx512::normal_block}, seed, row, first, out,
         with);
}

void arcsine_row(std::uint64_t seed, std::uint64_t row, std::uint64_t first, std::span<double> out,
                 Instructions with) {
  row_of({sse2::arcsine_block, avx2::arcsine_block, avx512::arcsine_block}, seed, row, first, out,
         with);
}

}  // namespace tamlo::math
