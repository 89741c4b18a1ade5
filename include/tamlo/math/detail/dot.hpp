// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <array>
#include <cstddef>
#include <span>

#include "tamlo/export.hpp"

namespace tamlo {
namespace math TAMLO_API {

/// sum a[i] b[i] of n values each, in four sums: faster, and rounded less, than in one; always in
/// the same order.
template <class Real>
Real dot(const Real* a, const Real* b, std::size_t n) {
  std::array<Real, 4> sums{};
  const std::size_t whole = n / 4 * 4;
  for (std::size_t i = 0; i < whole; i += 4) {
    for (std::size_t lane = 0; lane < 4; ++lane) sums[lane] += a[i + lane] * b[i + lane];
  }
  for (std::size_t i = whole; i < n; ++i) sums[0] += a[i] * b[i];
  return (sums[0] + sums[1]) + (sums[2] + sums[3]);
}

/// Returns the inner product of two vectors; `b` is as long as `a`.
inline double dot(std::span<const double> a, std::span<const double> b) {
  return dot(a.data(), b.data(), a.size());
}

}  // namespace math
}  // namespace tamlo
