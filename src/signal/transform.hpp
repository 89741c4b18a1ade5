// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <span>
#include <vector>

#include "math/instructions.hpp"

// The discrete Fourier transform of the spectra, of which transform_kernel.cpp has the loops once
// for each set of instructions; the same bits on all.
namespace tamlo::signal {

/// Numbers that go through a transform beside one another.
constexpr std::size_t together = 8;

struct Root {
  double real = 1.0, imaginary = 0.0;
};

/// Layout of complex numbers in memory, in groups of `together`: numbers from one group to the
/// next, and from its real to its imaginary part.
struct Places {
  std::size_t step = 2 * together, gap = together;
};

#define TAMLO_DECLARE(set)                                                                         \
  namespace set {                                                                                  \
  /* One pass of radix 4 (Stockham) over four parts of m sets of `done` groups */                  \
  void radix_4(const Root* roots, std::size_t m, std::size_t done, const double* from,             \
               Places of_from, double* to, Places of_to);                                          \
  /* The last pass, of radix 2, where there is one */                                              \
  void radix_2(std::size_t done, const double* from, Places of_from, double* to, Places of_to);    \
  /* n groups times `turns`, to eight rows of n numbers */                                         \
  void turn_over(const double* from, const double* turns, std::size_t n, double* to,               \
                 Places of_to);                                                                    \
  /* weight (sample - mean): those at even places to n real parts, the others to imaginary ones */ \
  void weigh(const double* samples, const double* weights, double mean, std::size_t n,             \
             double* real, double* imaginary);                                                     \
  double sum_of(const double* samples, std::size_t n);                                             \
  /* Adds |X(k)|^2, 0 < k < n and k != n / 2, from the transform z of n complex numbers */         \
  void add_squares(const double* real, const double* imaginary, const double* roots_real,          \
                   const double* roots_imaginary, std::size_t n, double* power);                   \
  }
TAMLO_EACH_SET(TAMLO_DECLARE)
#undef TAMLO_DECLARE

/// Transforms n complex numbers, n a power of two. As columns and rows of a square, so that each
/// part stays in the cache (Bailey, 1990), of which eight go through side by side.
class Transform {
 public:
  explicit Transform(std::size_t n);
  /// n real parts and n imaginary ones behind them, in place.
  void operator()(double* values);

 private:
  struct alignas(64) Line {
    double of[together];
  };
  using Lines = std::vector<Line>;

  std::size_t n_, rows_, columns_;
  std::vector<Root> row_roots_{}, column_roots_{};
  Lines turns_{}, work_{}, batch_{}, other_batch_{}, turned_{};

  void directly(double* values);
  void passes(const std::vector<Root>& roots, const double* from, Places of_from, double* to,
              Places of_to);
};

/// Returns the mean of a multiple of eight samples.
double mean_of(std::span<const double> samples);

/// Powers of the bins of n real samples, n a power of two from 8 on: as complex numbers, half as
/// many, whose transform is taken apart again.
class RealTransform {
 public:
  explicit RealTransform(std::size_t n);
  /// Adds |sum_i weight_i (sample_i - mean) exp(-2 pi j k i / n)|^2 to power[k], k = 0 to n / 2.
  void add_squares(std::span<const double> samples, std::span<const double> weights, double mean,
                   std::span<double> power);

 private:
  Transform half_;
  std::vector<double> values_, roots_real_{}, roots_imaginary_{};
};

}  // namespace tamlo::signal
