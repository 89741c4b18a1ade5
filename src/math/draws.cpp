// SPDX-License-Identifier: Apache-2.0
#include "math/draws.hpp"

#include <algorithm>
#include <array>
#include <cassert>

namespace tamlo::math {

// One for each set of instructions, from draws_kernel.cpp.
#define TAMLO_ADD(kind)                                                                      \
  void add_##kind(unsigned long long seed, unsigned long long row, unsigned long long first, \
                  double unit, const double* from, double* out);
#define TAMLO_ADDS(set)                                   \
  namespace set {                                         \
  TAMLO_ADD(uniform) TAMLO_ADD(normal) TAMLO_ADD(arcsine) \
  }
TAMLO_EACH_SET(TAMLO_ADDS)
#undef TAMLO_ADDS
#undef TAMLO_ADD

void add_deviates(Deviate deviate, std::uint64_t seed, std::uint64_t row, std::uint64_t first,
                  double unit, std::span<const double> from, std::span<double> out,
                  Instructions with) {
  assert(first % draws_block == 0 && out.size() <= draws_block && from.size() == out.size());
  using Add = void (*)(unsigned long long, unsigned long long, unsigned long long, double,
                       const double*, double*);
  static constexpr Add adds[3][3] = {
      {base::add_uniform, base::add_normal, base::add_arcsine},
      {avx2::add_uniform, avx2::add_normal, avx2::add_arcsine},
      {avx512::add_uniform, avx512::add_normal, avx512::add_arcsine}};
  const Add add = adds[static_cast<std::size_t>(with)][static_cast<std::size_t>(deviate)];
  if (out.size() == draws_block) {
    add(seed, row, first, unit, from.data(), out.data());
    return;
  }
  std::array<double, draws_block> whole{};
  std::ranges::copy(from, whole.begin());
  add(seed, row, first, unit, whole.data(), whole.data());
  std::copy_n(whole.begin(), out.size(), out.begin());
}

}  // namespace tamlo::math
