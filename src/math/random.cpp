// SPDX-License-Identifier: Apache-2.0
#include "tamlo/math/random.hpp"

#include <Random123/philox.h>

#include <cmath>
#include <numbers>

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

}  // namespace tamlo::math
