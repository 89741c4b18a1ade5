// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <array>
#include <cstddef>
#include <memory>
#include <span>
#include <vector>

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

// The one decomposition that fits and correlated draws need. Eigen is included by its source
// alone: it costs seconds in each file and for each shape of matrix.

/// A symmetric matrix without negative eigenvalues, as P^T L D L^T P: with pivots, so that a
/// singular one is no obstacle to its root.
class SymmetricFactors {
 public:
  /// `values` are size * size, row by row; only the lower triangle is looked at.
  explicit SymmetricFactors(std::span<const double> values);
  SymmetricFactors(SymmetricFactors&&) noexcept;
  ~SymmetricFactors();

  /// Rows of the matrix.
  std::size_t size() const;
  /// The x of matrix x = right; for a matrix that is not singular.
  std::vector<double> solve(std::span<const double> right) const;
  /// The smallest of D: below 0 by more than rounding where the matrix has a negative eigenvalue.
  double smallest_pivot() const;
  /// R with R R^T = matrix, row by row; what of D is below 0 counts as 0.
  std::vector<double> root() const;

 private:
  struct Factors;
  std::unique_ptr<Factors> factors_;
};

/// Covariance of n observations that share some causes: the own variance of each (all > 0), and a
/// column of n sensitivities for each shared cause of unit variance:
///
///     V = diag(variances) + sum_j columns[j] columns[j]^T
struct SharedCovariance {
  std::vector<double> variances{};
  std::vector<std::vector<double>> columns{};
};

/// y = sum parameters[j] columns[j], by generalised least squares; the columns do not depend on one
/// another. Cost grows with n times the square of the number of shared causes, and memory with
/// their product. Source: Aitken (1936); V^-1 by the Woodbury identity.
struct SharedFit {
  std::vector<double> parameters{};
  std::vector<double> covariance{};            ///< row by row
  std::vector<std::vector<double>> weights{};  ///< parameters[j] = sum weights[j][i] y[i]
};
SharedFit fit_columns(const std::vector<std::vector<double>>& columns, std::span<const double> y,
                      const SharedCovariance& v);

/// V^-1 y, for a matrix that is factored once.
class InverseCovariance {
 public:
  /// Throws ArgumentError where it has none.
  explicit InverseCovariance(const SharedCovariance& v);
  ~InverseCovariance();
  /// Its product with a vector of as many.
  std::vector<double> times(std::span<const double> y) const;

 private:
  struct Factors;
  std::unique_ptr<Factors> factors_;
};

/// y^T V^-1 y.
double chi_squared(std::span<const double> y, const SharedCovariance& v);

}  // namespace math
}  // namespace tamlo
