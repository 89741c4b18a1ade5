// SPDX-License-Identifier: Apache-2.0
// The loops of draws.cpp, compiled once for each set of instructions. Whoever includes this has
// said: TAMLO_WIDTH, lanes of 64 bits; mul32(a, b), the products of the low halves; root(x).
// Everything is element by element and without contraction, so the width changes no bit. Nothing of
// the standard library is called here: an inline function of it, compiled for this set, could be
// linked elsewhere. There is no include guard, as every set includes it once, in a namespace of its
// own.

constexpr int width = TAMLO_WIDTH;
using Bits [[gnu::vector_size(8 * TAMLO_WIDTH)]] = unsigned long long;
using Reals [[gnu::vector_size(8 * TAMLO_WIDTH)]] = double;

inline Bits all(unsigned long long value) { return value - Bits{}; }
inline Reals all(double value) { return value - Reals{}; }
inline Reals as_reals(Bits bits) { return (Reals)bits; }
inline Bits as_bits(Reals reals) { return (Bits)reals; }

// Two numbers of 64 random bits for each counter.
struct Pair {
  Bits first, second;
};

inline Pair philox(Bits counter, unsigned long long row, unsigned long long seed) {
  const Bits half = all(0xffffffffULL);
  Bits c0 = counter & half, c1 = counter >> 32, c2 = all(row & 0xffffffffULL), c3 = all(row >> 32);
  unsigned int k0 = static_cast<unsigned int>(seed), k1 = static_cast<unsigned int>(seed >> 32);
  for (int round = 0; round < 10; ++round) {
    const Bits a = mul32(c0, all(0xD2511F53ULL)), b = mul32(c2, all(0xCD9E8D57ULL));
    c0 = (b >> 32) ^ c1 ^ all(static_cast<unsigned long long>(k0));
    c1 = b & half;
    c2 = (a >> 32) ^ c3 ^ all(static_cast<unsigned long long>(k1));
    c3 = a & half;
    k0 += 0x9E3779B9U;
    k1 += 0xBB67AE85U;
  }
  return {(c0 << 32) | c1, (c2 << 32) | c3};
}

// The middle of one of 2^52 equal cells of (0, 1).
inline Reals unit_interval(Bits bits) {
  return as_reals((bits >> 12) | 0x3ff0000000000000ULL) - (1.0 - 0x1p-53);
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
  Reals sum = all(1.0 / 21.0);
  sum = sum * z + 1.0 / 19.0;
  sum = sum * z + 1.0 / 17.0;
  sum = sum * z + 1.0 / 15.0;
  sum = sum * z + 1.0 / 13.0;
  sum = sum * z + 1.0 / 11.0;
  sum = sum * z + 1.0 / 9.0;
  sum = sum * z + 1.0 / 7.0;
  sum = sum * z + 1.0 / 5.0;
  sum = sum * z + 1.0 / 3.0;
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
  Reals s = all(-1.0 / 1307674368000.0);
  s = s * z + 1.0 / 6227020800.0;
  s = s * z - 1.0 / 39916800.0;
  s = s * z + 1.0 / 362880.0;
  s = s * z - 1.0 / 5040.0;
  s = s * z + 1.0 / 120.0;
  s = s * z - 1.0 / 6.0;
  const Reals sine = x + x * z * s;
  Reals c = all(1.0 / 20922789888000.0);
  c = c * z - 1.0 / 87178291200.0;
  c = c * z + 1.0 / 479001600.0;
  c = c * z - 1.0 / 3628800.0;
  c = c * z + 1.0 / 40320.0;
  c = c * z - 1.0 / 720.0;
  c = c * z + 1.0 / 24.0;
  const Reals cosine = 1.0 - 0.5 * z + z * z * c;
  const auto swapped = (quarter & 1ULL) != 0ULL;
  const Reals a = swapped ? sine : cosine, b = swapped ? cosine : sine;
  const auto negative_cosine = ((quarter + 1ULL) & 2ULL) != 0ULL;
  const auto negative_sine = (quarter & 2ULL) != 0ULL;
  return {negative_cosine ? -a : a, negative_sine ? -b : b};
}

// Calls store(place, numbers) for a whole block of 1024: the counters of a block are its own 512,
// and each gives the numbers of two trials, 512 apart.
template <class Store>
inline void block_of(unsigned long long seed, unsigned long long row, unsigned long long first,
                     Store store) {
  Bits lane;
  for (int i = 0; i < width; ++i) lane[i] = static_cast<unsigned long long>(i);
  for (int i = 0; i < 512; i += width) {
    const Bits counter = first / 2 + static_cast<unsigned long long>(i) + lane;
    store(i, philox(counter, row, seed));
  }
}

inline void put(double* out, Reals numbers) {
  for (int i = 0; i < width; ++i) out[i] = numbers[i];
}

void uniform_block(unsigned long long seed, unsigned long long row, unsigned long long first,
                   double* out) {
  block_of(seed, row, first, [&](int at, Pair pair) {
    put(out + at, unit_interval(pair.first));
    put(out + 512 + at, unit_interval(pair.second));
  });
}

void normal_block(unsigned long long seed, unsigned long long row, unsigned long long first,
                  double* out) {
  block_of(seed, row, first, [&](int at, Pair pair) {
    const Reals radius = root(-2.0 * logarithm(unit_interval(pair.first)));
    const Turn angle = turn(unit_interval(pair.second));
    put(out + at, radius * angle.cosine);
    put(out + 512 + at, radius * angle.sine);
  });
}

// sin(pi (u - 1/2)) = -cos(2 pi u / 2).
void arcsine_block(unsigned long long seed, unsigned long long row, unsigned long long first,
                   double* out) {
  block_of(seed, row, first, [&](int at, Pair pair) {
    put(out + at, -turn(unit_interval(pair.first) * 0.5).cosine);
    put(out + 512 + at, -turn(unit_interval(pair.second) * 0.5).cosine);
  });
}
