// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <memory>
#include <span>
#include <vector>

#include "tamlo/export.hpp"

namespace tamlo {
namespace math TAMLO_API {

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
