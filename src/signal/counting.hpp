// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <cstdint>

#include "math/instructions.hpp"

// Loops over codes, which counting_kernel.cpp defines once for each set of instructions.
namespace tamlo::signal {

/// Sums of 16-bit codes; exact.
struct CodeSums {
  std::int64_t sum = 0;
  std::uint64_t squares = 0;
  std::int16_t min = 0, max = 0;
};

/// Codes that lie so near to one another are counted in pairs.
constexpr std::size_t narrow = 64;

#define TAMLO_DECLARE(set)                                                                      \
  namespace set {                                                                               \
  /* The place of each of n pairs of codes of first, ..., first + 63 in a table of 64 by 64; */ \
  /* false, and places without a meaning, if there is any other code */                         \
  bool find_pairs(const std::int16_t* codes, std::size_t n, std::int32_t first,                 \
                  std::uint16_t* places);                                                       \
  bool find_pairs(const std::uint16_t* codes, std::size_t n, std::int32_t first,                \
                  std::uint16_t* places);                                                       \
  bool find_pairs(const std::int32_t* codes, std::size_t n, std::int32_t first,                 \
                  std::uint16_t* places);                                                       \
  /* Adds what such a table counts to the counts of the 64 codes */                             \
  void add_pairs(const std::uint32_t* pairs, std::uint32_t* counts);                            \
  /* Of 0 < n <= 2^33 codes */                                                                  \
  CodeSums sums_of(const std::int16_t* codes, std::size_t n);                                   \
  }
TAMLO_EACH_SET(TAMLO_DECLARE)
#undef TAMLO_DECLARE

}  // namespace tamlo::signal
