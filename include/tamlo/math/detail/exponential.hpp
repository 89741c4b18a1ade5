// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "tamlo/export.hpp"

namespace tamlo {
namespace math TAMLO_API {

/// e^x of x up to 700, within 3e-16 of its value; 0 below -700. Branch-free, so that a loop of them
/// takes several at once, and the same bits wherever it is compiled: `Set` is a type of the
/// caller's own, that keeps what is compiled for one set of instructions apart from the rest.
template <class Set>
inline double exponential(double x) {
  const double held = x < -700.0 ? -700.0 : x;
  // x = k ln 2 + r; the sum leaves k in the low bits. ln 2 in two parts, the first with room for k.
  const double shifted = held * 1.4426950408889634 + 0x1.8p52;
  const double k = shifted - 0x1.8p52;
  const double r = (held - k * 0x1.62e42fefa3800p-1) - k * 0x1.ef35793c76730p-45;
  // Taylor's series, |r| < 0.35; the first term left out is below 1e-17. In pairs, not one after
  // the other: a long chain of products would be waited for.
  const double r2 = r * r, r4 = r2 * r2, r8 = r4 * r4;
  const double low =
      (0.5 + r * (1.0 / 6.0)) + r2 * (1.0 / 24.0 + r * (1.0 / 120.0)) +
      r4 * ((1.0 / 720.0 + r * (1.0 / 5040.0)) + r2 * (1.0 / 40320.0 + r * (1.0 / 362880.0)));
  const double high = (1.0 / 3628800.0 + r * (1.0 / 39916800.0)) +
                      r2 * (1.0 / 479001600.0 + r * (1.0 / 6227020800.0));
  const double mantissa = 1.0 + (r + r2 * (low + r8 * high));
  const auto bits = __builtin_bit_cast(unsigned long long, mantissa) +
                    (__builtin_bit_cast(unsigned long long, shifted) << 52);
  return x < -700.0 ? 0.0 : __builtin_bit_cast(double, bits);
}

}  // namespace math
}  // namespace tamlo
