// SPDX-License-Identifier: Apache-2.0
// The loops of counting.hpp, compiled once for each set of instructions (cmake/settings.cmake). All
// in whole numbers, so that the order of sums changes nothing.
#ifdef __SSE2__
#include <immintrin.h>
#endif

#include "counting.hpp"

namespace tamlo::signal::TAMLO_SET {
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

constexpr std::size_t bytes = 8 * TAMLO_WIDTH;
constexpr std::size_t lanes = bytes / sizeof(std::int16_t);  // codes that a register holds
using Shorts [[gnu::vector_size(bytes)]] = std::int16_t;
using Words [[gnu::vector_size(bytes)]] = std::int32_t;
using Longs [[gnu::vector_size(bytes)]] = std::uint64_t;
using Place [[gnu::vector_size(bytes), gnu::aligned(2), gnu::may_alias]] = std::int16_t;

// a b of each lane, those of neighbours added in twice the width: what no operator says.
inline Words paired(Shorts a, Shorts b) {
#if TAMLO_WIDTH == 8
  return (Words)_mm512_madd_epi16((__m512i)a, (__m512i)b);
#elif TAMLO_WIDTH == 4
  return (Words)_mm256_madd_epi16((__m256i)a, (__m256i)b);
#elif defined(__SSE2__)
  return (Words)_mm_madd_epi16((__m128i)a, (__m128i)b);
#else
  Words result{};
  for (std::size_t k = 0; k < lanes / 2; ++k) {
    // Unsigned: of -32768 four times the sum is 2^31.
    result[k] = static_cast<std::int32_t>(static_cast<std::uint32_t>(a[2 * k] * b[2 * k]) +
                                          static_cast<std::uint32_t>(a[2 * k + 1] * b[2 * k + 1]));
  }
  return result;
#endif
}

}  // namespace

CodeSums sums_of(const std::int16_t* codes, std::size_t n) {
  CodeSums result{.min = codes[0], .max = codes[0]};
  // So many turns that a sum of pairs, of 2^16 at most, stays within 32 bits.
  constexpr std::size_t turns = 16384;
  const auto whole = n / lanes * lanes;
  Shorts min = result.min - Shorts{}, max = min;
  const Shorts ones = 1 - Shorts{};
  Longs squares{};
  std::size_t i = 0;
  while (i < whole) {
    const auto end = whole - i > turns * lanes ? i + turns * lanes : whole;
    Words sum{};
    for (; i < end; i += lanes) {
      const Shorts x = *reinterpret_cast<const Place*>(codes + i);
      sum += paired(x, ones);
      // Up to 2^31, which has no sign here.
      const auto two = (Longs)paired(x, x);
      squares += (two & 0xffffffffU) + (two >> 32);
      min = x < min ? x : min;
      max = x > max ? x : max;
    }
    for (std::size_t k = 0; k < lanes / 2; ++k) result.sum += sum[k];
  }
  for (std::size_t k = 0; k < lanes / 4; ++k) result.squares += squares[k];
  const auto extend = [&](std::int16_t code) {
    result.min = code < result.min ? code : result.min;
    result.max = code > result.max ? code : result.max;
  };
  for (std::size_t k = 0; k < lanes; ++k) {
    extend(min[k]);
    extend(max[k]);
  }
  for (; i < n; ++i) {
    const std::int64_t x = codes[i];
    result.sum += x;
    result.squares += static_cast<std::uint64_t>(x * x);
    extend(codes[i]);
  }
  return result;
}

}  // namespace tamlo::signal::TAMLO_SET
