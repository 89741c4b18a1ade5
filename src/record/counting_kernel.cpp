// SPDX-License-Identifier: Apache-2.0
// The loops of counting.hpp, compiled once for each set of instructions (cmake/settings.cmake). All
// in whole numbers, so that the order of sums changes nothing.
#include <immintrin.h>

#include "counting.hpp"

namespace tamlo::record::TAMLO_SET {

namespace {

template <class Code>
inline bool find(const Code* codes, std::size_t n, std::int32_t first,
                 std::uint16_t* __restrict places) {
  // Without a sign, so that what lies below the first is far above it.
  const auto from = static_cast<std::uint32_t>(first);
  std::uint32_t all = 0;
  for (std::size_t i = 0; i < n; ++i) {
    const auto one = static_cast<std::uint32_t>(codes[2 * i]) - from;
    const auto other = static_cast<std::uint32_t>(codes[2 * i + 1]) - from;
    all |= one | other;
    places[i] = static_cast<std::uint16_t>(one * narrow + other);
  }
  return all < narrow;
}

}  // namespace

bool find_pairs(const std::int16_t* codes, std::size_t n, std::int32_t first,
                std::uint16_t* places) {
  return find(codes, n, first, places);
}
bool find_pairs(const std::uint16_t* codes, std::size_t n, std::int32_t first,
                std::uint16_t* places) {
  return find(codes, n, first, places);
}
bool find_pairs(const std::int32_t* codes, std::size_t n, std::int32_t first,
                std::uint16_t* places) {
  return find(codes, n, first, places);
}

void add_pairs(const std::uint32_t* pairs, std::uint32_t* __restrict counts) {
  std::uint32_t columns[narrow] = {};
  for (std::size_t one = 0; one < narrow; ++one) {
    const auto* const row = pairs + one * narrow;
    std::uint32_t sum = 0;
    for (std::size_t other = 0; other < narrow; ++other) {
      sum += row[other];
      columns[other] += row[other];
    }
    counts[one] += sum;
  }
  for (std::size_t other = 0; other < narrow; ++other) counts[other] += columns[other];
}

namespace {

// As many codes as a register holds, and what the compiler does not find by itself: products of
// neighbours, added in twice the width.
#if TAMLO_WIDTH == 8
using Register = __m512i;
inline Register load(const std::int16_t* from) { return _mm512_loadu_si512(from); }
inline Register pairs_of(Register a, Register b) { return _mm512_madd_epi16(a, b); }
inline Register lesser(Register a, Register b) { return _mm512_min_epi16(a, b); }
inline Register greater(Register a, Register b) { return _mm512_max_epi16(a, b); }
#elif TAMLO_WIDTH == 4
using Register = __m256i;
inline Register load(const std::int16_t* from) {
  return _mm256_loadu_si256(reinterpret_cast<const __m256i*>(from));
}
inline Register pairs_of(Register a, Register b) { return _mm256_madd_epi16(a, b); }
inline Register lesser(Register a, Register b) { return _mm256_min_epi16(a, b); }
inline Register greater(Register a, Register b) { return _mm256_max_epi16(a, b); }
#else
using Register = __m128i;
inline Register load(const std::int16_t* from) {
  return _mm_loadu_si128(reinterpret_cast<const __m128i*>(from));
}
inline Register pairs_of(Register a, Register b) { return _mm_madd_epi16(a, b); }
inline Register lesser(Register a, Register b) { return _mm_min_epi16(a, b); }
inline Register greater(Register a, Register b) { return _mm_max_epi16(a, b); }
#endif

constexpr std::size_t lanes = sizeof(Register) / sizeof(std::int16_t);
using Shorts [[gnu::vector_size(sizeof(Register))]] = std::int16_t;
using Words [[gnu::vector_size(sizeof(Register))]] = std::int32_t;
using Unsigned [[gnu::vector_size(sizeof(Register))]] = std::uint64_t;

inline void take(CodeSums& sums, std::int16_t code) {
  const std::int64_t x = code;
  sums.sum += x;
  sums.squares += static_cast<std::uint64_t>(x * x);
  sums.least = code < sums.least ? code : sums.least;
  sums.most = code > sums.most ? code : sums.most;
}

}  // namespace

CodeSums sums_of(const std::int16_t* codes, std::size_t n) {
  CodeSums result{.least = codes[0], .most = codes[0]};
  // So many turns that a sum of pairs, of 2^16 at most, stays within 32 bits.
  constexpr std::size_t turns = 16384;
  const auto whole = n / lanes * lanes;
  Shorts least = result.least - Shorts{}, most = least;
  const Shorts ones = 1 - Shorts{};
  Unsigned squares{};
  std::size_t i = 0;
  while (i < whole) {
    const auto end = whole - i > turns * lanes ? i + turns * lanes : whole;
    Words sum{};
    for (; i < end; i += lanes) {
      const Register x = load(codes + i);
      sum += (Words)pairs_of(x, (Register)ones);
      // Up to 2^31, which has no sign here.
      const auto two = (Unsigned)pairs_of(x, x);
      squares += (two & 0xffffffffU) + (two >> 32);
      least = (Shorts)lesser((Register)least, x);
      most = (Shorts)greater((Register)most, x);
    }
    for (std::size_t k = 0; k < lanes / 2; ++k) result.sum += sum[k];
  }
  for (std::size_t k = 0; k < lanes / 4; ++k) result.squares += squares[k];
  for (std::size_t k = 0; k < lanes; ++k) {
    result.least = least[k] < result.least ? least[k] : result.least;
    result.most = most[k] > result.most ? most[k] : result.most;
  }
  for (; i < n; ++i) take(result, codes[i]);
  return result;
}

}  // namespace tamlo::record::TAMLO_SET
