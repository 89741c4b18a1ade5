// SPDX-License-Identifier: Apache-2.0
#include "tamlo/math/random.hpp"

#include <Random123/philox.h>

#include <algorithm>
#include <array>
#include <cassert>
#include <cmath>
#include <numbers>

#include "math/draws.hpp"

namespace tamlo::math {
namespace {

constexpr std::uint64_t low = 0xffffffffU;

// The middle of one of 2^53 equal cells.
double unit_interval(std::uint32_t a, std::uint32_t b) {
  const std::uint64_t bits = ((std::uint64_t{a} << 32) | b) >> 11;
  return (static_cast<double>(bits) + 0.5) * 0x1p-53;
}

}  // namespace

double RandomStream::uniform() {
  const bool second = drawn_ % 2 == 1;
  if (!second) {
    const std::uint64_t index = drawn_ / 2;
    const r123::Philox4x32 cipher;
    const auto word = [](std::uint64_t value) { return static_cast<std::uint32_t>(value); };
    const auto bits =
        cipher({{word(index & low), word(index >> 32), word(number_ & low), word(number_ >> 32)}},
               {{word(seed_ & low), word(seed_ >> 32)}});
    block_ = {unit_interval(bits[0], bits[1]), unit_interval(bits[2], bits[3])};
  }
  ++drawn_;
  return block_[second ? 1 : 0];
}

double RandomStream::normal() {
  if (has_spare_) {
    has_spare_ = false;
    return spare_;
  }
  const double radius = std::sqrt(-2.0 * std::log(uniform()));
  const double angle = 2.0 * std::numbers::pi * uniform();
  spare_ = radius * std::sin(angle);
  has_spare_ = true;
  return radius * std::cos(angle);
}

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
