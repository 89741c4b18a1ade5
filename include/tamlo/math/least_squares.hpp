// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <span>
#include <vector>

namespace tamlo::math {

/// Covariance of n observations that share some causes: the own variance of each (all > 0), and a
/// column of n sensitivities for each shared cause of unit variance:
///
///     V = diag(variances) + sum_j columns[j] columns[j]^T
struct SharedCovariance {
  std::vector<double> variances{};
  std::vector<std::vector<double>> columns{};
};

/// y = offset + gain x, by generalised least squares. Both parameters are linear in y, and the
/// weights say how: offset = sum offset_weights[i] y[i], so that any further cause can be carried
/// through the fit.
struct LineFit {
  double offset{};
  double gain{};
  double offset_variance{};
  double gain_variance{};
  double covariance{};
  std::vector<double> offset_weights{};
  std::vector<double> gain_weights{};
};

/// Needs at least two different x (the caller sees to it; asserted). Cost grows with
/// n times the square of the number of shared causes, and memory with their product.
/// Source: Aitken (1936); V^-1 by the Woodbury identity.
LineFit fit_line(std::span<const double> x, std::span<const double> y, const SharedCovariance& v);

/// The weighted mean of y, as a line without gain: gain and its variance are 0.
LineFit fit_mean(std::span<const double> y, const SharedCovariance& v);

/// y^T V^-1 y.
double chi_squared(std::span<const double> y, const SharedCovariance& v);

}  // namespace tamlo::math
