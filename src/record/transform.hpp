// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <vector>

#include "tamlo/math/draws.hpp"

// The discrete Fourier transform of the spectra, of which transform_kernel.cpp has the loops once
// for each set of instructions; the same bits on all.
namespace tamlo::record {

/// Real and imaginary parts, apart.
struct SplitComplex {
  std::vector<double> real{}, imaginary{};
  explicit SplitComplex(std::size_t n) : real(n), imaginary(n) {}
  double square(std::size_t k) const { return real[k] * real[k] + imaginary[k] * imaginary[k]; }
};

#define TAMLO_DECLARE(set)                                                                         \
  namespace set {                                                                                  \
  /* One pass of radix 4 over four parts of `m` groups of `stride`, and the last one of radix 2 */ \
  void radix_4(const double* roots_real, const double* roots_imaginary, const double* from_real,   \
               const double* from_imaginary, double* to_real, double* to_imaginary, std::size_t m, \
               std::size_t stride, std::size_t root_step);                                         \
  void radix_2(const double* from_real, const double* from_imaginary, double* to_real,             \
               double* to_imaginary, std::size_t stride);                                          \
  }
TAMLO_DECLARE(sse2)
TAMLO_DECLARE(avx2)
TAMLO_DECLARE(avx512)
#undef TAMLO_DECLARE

/// Of a length that is a power of two, 4 or more. Short ones by Stockham's way, which leaves the
/// bins in order; long ones as columns and rows of a square, so that each part stays in the cache
/// (Bailey, 1990).
class Transform {
 public:
  explicit Transform(std::size_t n);
  /// In place.
  void operator()(SplitComplex& values);

 private:
  std::size_t n_, rows_;
  SplitComplex roots_;                     // exp(-2 pi i k / n)
  SplitComplex row_roots_, column_roots_;  // of the sides of the square
  SplitComplex work_, batch_, batch_work_;

  void columns(SplitComplex& values);
  void lines(SplitComplex& values);
};

}  // namespace tamlo::record
