// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/math/interval.hpp"

namespace tamlo {
namespace math TAMLO_API {

/// Two-sided coverage factor of Student's t for the coverage probability `coverage` in (0, 1) and
/// `dof` >= 1e-6 degrees of freedom; of the normal distribution for infinite ones
/// (JCGM 100, G.3.4 and table G.2). Relative accuracy 1e-14.
double coverage_factor(double coverage, double dof);

/// Standard deviations of normal noise that count as its peak to peak value: 99.9 % lie within.
constexpr double peak_to_peak = 6.6;

/// Probability that chi-squared of `dof` >= 1 degrees of freedom is above `value` >= 0.
double chi_squared_survival(double value, int dof);

/// Returns the survival function of a noncentral chi-squared, `noncentrality` from 0 to 1e6: a
/// Poisson mixture of central ones (Patnaik, 1949). Absolute accuracy 1e-10 up to a noncentrality
/// of 2000.
double chi_squared_survival(double value, int dof, double noncentrality);

/// The value that chi-squared of `dof` degrees of freedom, 1e-6 to 1e12, is below with that
/// probability.
double chi_squared_quantile(double probability, double dof);

/// Confidence interval of a standard deviation of so many degrees of freedom, of normal values.
struct DeviationInterval {
  double low = 0.0, high = 0.0;
};
DeviationInterval deviation_interval(double deviation, double dof, double coverage);

/// Probability that a standard normal value is below `z`.
double normal_cdf(double z);

/// The value that a standard normal one is below with that probability, in (0, 1); and one of
/// Student's t of `dof` >= 1e-6 degrees of freedom.
double normal_quantile(double probability);
double student_quantile(double probability, double dof);

/// Confidence interval of a probability, where `hits` of `trials` >= 1 independent ones came about;
/// never too narrow (Clopper and Pearson, 1934).
Interval probability_interval(std::uint64_t hits, std::uint64_t trials, double coverage);

/// Half-width, in standard deviations of a sample of `n` >= 2 normal values, of the interval about
/// their mean that holds the part `content` of all with the probability `confidence`; within 1 %
/// from 5 values on (Howe, 1969).
double tolerance_factor(int n, double content, double confidence);

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
