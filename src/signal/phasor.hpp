// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>

#include "math/instructions.hpp"

// Loops of the sine fit, which phasor_kernel.cpp defines once for each set of instructions; the
// same bits on all.
namespace tamlo::signal {

constexpr std::size_t phasor_block = 512;

/// Sums of the samples y of a block, and of their products with its phasor c + j s and with i times
/// it.
struct WithSamples {
  double y = 0.0, yy = 0.0, yc = 0.0, ys = 0.0, yic = 0.0, yis = 0.0;
};

#define TAMLO_DECLARE(set)                                                                    \
  namespace set {                                                                             \
  WithSamples with_samples(const double* cosine, const double* sine, const double* y,         \
                           std::size_t n);                                                    \
  /* sum (y - offset - (real c - imaginary s))^2 */                                           \
  double squares_off(const double* cosine, const double* sine, double real, double imaginary, \
                     double offset, const double* y, std::size_t n);                          \
  }
TAMLO_EACH_SET(TAMLO_DECLARE)
#undef TAMLO_DECLARE

}  // namespace tamlo::signal
