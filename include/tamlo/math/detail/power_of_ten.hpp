// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <array>
#include <cmath>

namespace tamlo::math {

/// Returns 10^n for a whole n: from -30 to 30 as the nearest double, since the pow() of some
/// systems is off by several last digits; elsewhere, also for an infinite n, what pow() gives.
inline double power_of_ten(double n) {
  constexpr std::array<double, 61> known{
      1e-30, 1e-29, 1e-28, 1e-27, 1e-26, 1e-25, 1e-24, 1e-23, 1e-22, 1e-21, 1e-20, 1e-19, 1e-18,
      1e-17, 1e-16, 1e-15, 1e-14, 1e-13, 1e-12, 1e-11, 1e-10, 1e-9,  1e-8,  1e-7,  1e-6,  1e-5,
      1e-4,  1e-3,  1e-2,  1e-1,  1e0,   1e1,   1e2,   1e3,   1e4,   1e5,   1e6,   1e7,   1e8,
      1e9,   1e10,  1e11,  1e12,  1e13,  1e14,  1e15,  1e16,  1e17,  1e18,  1e19,  1e20,  1e21,
      1e22,  1e23,  1e24,  1e25,  1e26,  1e27,  1e28,  1e29,  1e30};
  return std::abs(n) <= 30.0 ? known[static_cast<std::size_t>(n + 30.0)] : std::pow(10.0, n);
}

/// Returns the largest whole n with 10^n at most x: infinite for 0 and for an infinite x.
inline double decade_of(double x) { return std::floor(std::log10(x)); }

}  // namespace tamlo::math
