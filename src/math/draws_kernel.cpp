// SPDX-License-Identifier: Apache-2.0
// The loops of draws.cpp, compiled once for each set of instructions (cmake/settings.cmake), in a
// namespace of its own. Everything is element by element and without contraction, so the width
// changes no bit. Nothing of the standard library is called here: an inline function of it,
// compiled for this set, could be linked elsewhere.
#ifdef __SSE2__
#include <immintrin.h>
#endif

#include "math/draws.hpp"

namespace tamlo::math::TAMLO_SET {
namespace {

constexpr int width = TAMLO_WIDTH;  // lanes of 64 bits
constexpr int apart = draws_block / 4;
using Bits [[gnu::vector_size(8 * TAMLO_WIDTH)]] = unsigned long long;
using Reals [[gnu::vector_size(8 * TAMLO_WIDTH)]] = double;
// A place in memory, which need not be aligned.
using Place [[gnu::vector_size(8 * TAMLO_WIDTH), gnu::aligned(8), gnu::may_alias]] = double;

// The products of the low halves, and the square root: what no operator says.
#if TAMLO_WIDTH == 8
inline Bits mul32(Bits a, Bits b) {
  return (Bits)_mm512_maskz_mul_epu32(0xff, (__m512i)a, (__m512i)b);
}
inline Reals root(Reals x) { return (Reals)_mm512_maskz_sqrt_pd(0xff, (__m512d)x); }
#elif TAMLO_WIDTH == 4
inline Bits mul32(Bits a, Bits b) { return (Bits)_mm256_mul_epu32((__m256i)a, (__m256i)b); }
inline Reals root(Reals x) { return (Reals)_mm256_sqrt_pd((__m256d)x); }
#elif defined(__SSE2__)
inline Bits mul32(Bits a, Bits b) { return (Bits)_mm_mul_epu32((__m128i)a, (__m128i)b); }
inline Reals root(Reals x) { return (Reals)_mm_sqrt_pd((__m128d)x); }
#else
inline Bits mul32(Bits a, Bits b) { return (a & 0xffffffffULL) * (b & 0xffffffffULL); }
inline Reals root(Reals x) {
  for (int k = 0; k < width; ++k) x[k] = __builtin_sqrt(x[k]);
  return x;
}
#endif

inline Bits all(unsigned long long value) { return value - Bits{}; }
[[maybe_unused]] inline Reals all(double value) { return value - Reals{}; }
inline Reals as_reals(Bits bits) { return (Reals)bits; }
inline Bits as_bits(Reals reals) { return (Bits)reals; }

// Four numbers of 32 random bits for each counter. What is above them is taken off at the end only:
// no product sees it.
struct Quad {
  Bits word[4];
};

inline Quad philox(Bits counter, unsigned long long row, unsigned long long seed) {
  const Bits half = all(0xffffffffULL);
  Bits c0 = counter & half, c1 = counter >> 32, c2 = all(row & 0xffffffffULL), c3 = all(row >> 32);
  unsigned int k0 = static_cast<unsigned int>(seed), k1 = static_cast<unsigned int>(seed >> 32);
  for (int round = 0; round < 7; ++round) {
    const Bits a = mul32(c0, all(0xD2511F53ULL)), b = mul32(c2, all(0xCD9E8D57ULL));
    c0 = (b >> 32) ^ c1 ^ all(static_cast<unsigned long long>(k0));
    c1 = b;
    c2 = (a >> 32) ^ c3 ^ all(static_cast<unsigned long long>(k1));
    c3 = a;
    k0 += 0x9E3779B9U;
    k1 += 0xBB67AE85U;
  }
  return {{c0 & half, c1 & half, c2 & half, c3 & half}};
}

// 2^31 times the middle of one of 2^32 equal cells of (-1, 1).
inline Reals either_side(Bits word) {
  // In two steps: at 2^52 no number has a half.
  return (as_reals(word | 0x4330000000000000ULL) - 0x1p52) - (0x1p31 - 0.5);
}

// The middle of one of (0, 1).
inline Reals unit_interval(Bits word) {
  return (as_reals(word | 0x4330000000000000ULL) - (0x1p52 - 0.5)) * 0x1p-32;
}

// Natural logarithm of a normal number: exponent times ln 2, and the series of 2 artanh(s) for a
// mantissa in sqrt(1/2)..sqrt(2), where s^2 < 0.0295 and the first term left out is below 1e-17.
inline Reals logarithm(Reals x) {
  const Bits bits = as_bits(x);
  Reals exponent = as_reals((bits >> 52) | 0x4330000000000000ULL) - (0x1p52 + 1023.0);
  Reals mantissa = as_reals((bits & 0xfffffffffffffULL) | 0x3ff0000000000000ULL);
  const auto large = mantissa > 1.4142135623730951;
  mantissa = large ? mantissa * 0.5 : mantissa;
  exponent = large ? exponent + 1.0 : exponent;
  const Reals s = (mantissa - 1.0) / (mantissa + 1.0);
  const Reals z = s * s;
  // In pairs, not one after the other: a long chain of products would be waited for.
  const Reals z2 = z * z, z4 = z2 * z2;
  const Reals sum = ((1.0 / 3.0 + z * (1.0 / 5.0)) + z2 * (1.0 / 7.0 + z * (1.0 / 9.0))) +
                    z4 * ((1.0 / 11.0 + z * (1.0 / 13.0)) + z2 * (1.0 / 15.0 + z * (1.0 / 17.0)) +
                          z4 * (1.0 / 19.0 + z * (1.0 / 21.0)));
  const Reals small = 2.0 * s + 2.0 * s * z * sum;
  // ln 2 in two parts, the first with room for the exponent.
  return exponent * 0x1.62e42fefa3800p-1 + (small + exponent * 0x1.ef35793c76730p-45);
}

// cos and sin of 2 pi u: the nearest quarter turn, and Taylor's series within an eighth.
struct Turn {
  Reals cosine, sine;
};

inline Turn turn(Reals u) {
  const double magic = 0x1.8p52;
  const Reals shifted = u * 4.0 + magic;
  const Bits quarter = as_bits(shifted) & 3ULL;
  const Reals x = (u - (shifted - magic) * 0.25) * 6.283185307179586;
  const Reals z = x * x;
  const Reals z2 = z * z, z4 = z2 * z2;
  const Reals s =
      ((-1.0 / 6.0 + z * (1.0 / 120.0)) + z2 * (-1.0 / 5040.0 + z * (1.0 / 362880.0))) +
      z4 * ((-1.0 / 39916800.0 + z * (1.0 / 6227020800.0)) - z2 * (1.0 / 1307674368000.0));
  const Reals sine = x + x * z * s;
  const Reals c =
      ((1.0 / 24.0 - z * (1.0 / 720.0)) + z2 * (1.0 / 40320.0 - z * (1.0 / 3628800.0))) +
      z4 * ((1.0 / 479001600.0 - z * (1.0 / 87178291200.0)) + z2 * (1.0 / 20922789888000.0));
  const Reals cosine = 1.0 - 0.5 * z + z2 * c;
  const auto swapped = (quarter & 1ULL) != 0ULL;
  const Reals a = swapped ? sine : cosine, b = swapped ? cosine : sine;
  const auto negative_cosine = ((quarter + 1ULL) & 2ULL) != 0ULL;
  const auto negative_sine = (quarter & 2ULL) != 0ULL;
  return {negative_cosine ? -a : a, negative_sine ? -b : b};
}

// Counters from `first` on, a lane each.
inline Bits counters(unsigned long long first) {
  Bits lane;
  for (int i = 0; i < width; ++i) lane[i] = static_cast<unsigned long long>(i);
  return first + lane;
}

inline void put(double* out, Reals numbers) { *reinterpret_cast<Place*>(out) = numbers; }
inline Reals get(const double* from) { return *reinterpret_cast<const Place*>(from); }

}  // namespace

// Each puts `from` plus `unit` times a block of deviates into `out`. A counter gives the numbers of
// four trials, a quarter of the block apart.

void add_uniform(unsigned long long seed, unsigned long long row, unsigned long long first,
                 double unit, const double* from, double* out) {
  const double scale = unit * 0x1p-31;
  for (int i = 0; i < apart; i += width) {
    const Quad quad = philox(counters(first / 4 + static_cast<unsigned long long>(i)), row, seed);
    for (int k = 0; k < 4; ++k) {
      const int at = apart * k + i;
      put(out + at, get(from + at) + scale * either_side(quad.word[k]));
    }
  }
}

// In three passes, each short enough that the processor works on several turns of it at once.
void add_normal(unsigned long long seed, unsigned long long row, unsigned long long first,
                double unit, const double* from, double* out) {
  double u[4 * apart];
  for (int i = 0; i < apart; i += width) {
    const Quad quad = philox(counters(first / 4 + static_cast<unsigned long long>(i)), row, seed);
    for (int k = 0; k < 4; ++k) put(u + apart * k + i, unit_interval(quad.word[k]));
  }
  for (int k = 0; k < 4 * apart; k += 2 * apart) {
    for (int i = k; i < k + apart; i += width)
      put(u + i, unit * root(-2.0 * logarithm(get(u + i))));
    for (int i = k; i < k + apart; i += width) {
      const Reals radius = get(u + i);
      const Turn angle = turn(get(u + i + apart));
      put(out + i, get(from + i) + radius * angle.cosine);
      put(out + i + apart, get(from + i + apart) + radius * angle.sine);
    }
  }
}

// sin(pi (2 u - 1) / 2) = -cos(2 pi u / 2) of u uniform in (0, 1).
void add_arcsine(unsigned long long seed, unsigned long long row, unsigned long long first,
                 double unit, const double* from, double* out) {
  for (int i = 0; i < apart; i += width) {
    const Quad quad = philox(counters(first / 4 + static_cast<unsigned long long>(i)), row, seed);
    for (int k = 0; k < 4; ++k) {
      const int at = apart * k + i;
      put(out + at, get(from + at) - unit * turn(unit_interval(quad.word[k]) * 0.5).cosine);
    }
  }
}

}  // namespace tamlo::math::TAMLO_SET
