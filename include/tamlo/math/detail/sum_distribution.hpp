// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <vector>

#include "tamlo/export.hpp"

namespace tamlo {
namespace math TAMLO_API {

/// The distribution of a sum of independent, symmetric parts about 0, by its characteristic
/// function
///
///     F(x) = 1/2 + 1/pi integral_0^inf sin(t x) / t  prod phi_i(t) dt
///
/// (Gil-Pelaez, 1951) as a sum over equal steps of t. Absolute accuracy of below(): 1e-4 where the
/// normal rest has a 1000th of the variance or more; a smaller one is taken as that large, which
/// moves no quantile by more than 0.03 standard deviations.
class SumDistribution {
 public:
  /// Distribution of a part.
  enum class Shape : std::uint8_t { normal, uniform, triangular, arcsine };
  /// One part of the sum.
  struct Part {
    Shape shape = Shape::normal;
    double variance = 0.0;  ///< 0 or more, in any unit
  };

  /// Takes parts whose variances sum up to more than 0. A part of less than a 20th of the sum is as
  /// good as normal. Throws ArgumentError for a sum that is 0 or not finite.
  explicit SumDistribution(const std::vector<Part>& parts);

  /// Returns the probability that the sum lies below `x` standard deviations of the sum.
  double below(double x) const;
  /// Returns the k for which the sum lies within k standard deviations of 0 with the probability
  /// `coverage` in (0, 1).
  double coverage_factor(double coverage) const;

 private:
  double step_ = 0.0, reach_ = 0.0;
  std::vector<double> terms_{};  // none: the sum is normal
};

}  // namespace math
}  // namespace tamlo
