// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <memory>
#include <span>
#include <vector>

#include "tamlo/export.hpp"

/// The one decomposition that fits and correlated draws need. Eigen is included by its source
/// alone: it costs seconds in each file and for each shape of matrix.
namespace tamlo {
namespace math TAMLO_API {

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

}  // namespace math
}  // namespace tamlo
