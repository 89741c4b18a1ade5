// SPDX-License-Identifier: Apache-2.0
#include "tamlo/math/detail/linear.hpp"

#include <Eigen/Cholesky>
#include <algorithm>
#include <cassert>
#include <cmath>

namespace tamlo::math {

using Eigen::MatrixXd;

struct SymmetricFactors::Factors {
  Eigen::LDLT<MatrixXd> of;
};

SymmetricFactors::SymmetricFactors(std::span<const double> values)
    : factors_(std::make_unique<Factors>()) {
  const auto size = static_cast<Eigen::Index>(std::lround(std::sqrt(values.size())));
  assert(static_cast<std::size_t>(size * size) == values.size());
  // Row by row or column by column is the same for a symmetric matrix.
  factors_->of.compute(Eigen::Map<const MatrixXd>(values.data(), size, size));
}
SymmetricFactors::SymmetricFactors(SymmetricFactors&&) noexcept = default;
SymmetricFactors::~SymmetricFactors() = default;

std::size_t SymmetricFactors::size() const { return static_cast<std::size_t>(factors_->of.rows()); }

std::vector<double> SymmetricFactors::solve(std::span<const double> right) const {
  assert(right.size() == size());
  std::vector<double> result(right.size());
  Eigen::Map<Eigen::VectorXd>(result.data(), factors_->of.rows()) =
      factors_->of.solve(Eigen::Map<const Eigen::VectorXd>(right.data(), factors_->of.rows()));
  return result;
}

double SymmetricFactors::smallest_pivot() const {
  return factors_->of.info() == Eigen::Success ? factors_->of.vectorD().minCoeff() : -INFINITY;
}

std::vector<double> SymmetricFactors::root() const {
  MatrixXd lower = factors_->of.matrixL();
  for (Eigen::Index j = 0; j < lower.cols(); ++j) {
    lower.col(j) *= std::sqrt(std::max(0.0, factors_->of.vectorD()(j)));
  }
  const MatrixXd root = factors_->of.transpositionsP().transpose() * lower;
  std::vector<double> result;
  for (Eigen::Index i = 0; i < root.rows(); ++i) {
    for (Eigen::Index j = 0; j < root.cols(); ++j) result.push_back(root(i, j));
  }
  return result;
}

}  // namespace tamlo::math
