// SPDX-License-Identifier: Apache-2.0
#include "tamlo/math/least_squares.hpp"

#include <Eigen/Cholesky>
#include <Eigen/Core>
#include <Eigen/LU>
#include <cassert>

namespace tamlo::math {
namespace {

using Eigen::MatrixXd;
using Eigen::VectorXd;

VectorXd vector(std::span<const double> values) {
  return Eigen::Map<const VectorXd>(values.data(), static_cast<Eigen::Index>(values.size()));
}

std::vector<double> plain(const VectorXd& values) {
  return {values.data(), values.data() + values.size()};
}

// V^-1 as an operator, without ever forming the n x n matrix. Rows are first divided by their own
// standard deviation, so that what is factored, I + Z^T Z, has no eigenvalue under 1.
class Inverse {
 public:
  explicit Inverse(const SharedCovariance& v)
      : own_(vector(v.variances).cwiseSqrt()),
        z_(own_.size(), static_cast<Eigen::Index>(v.columns.size())) {
    assert((own_.array() > 0.0).all());
    for (std::size_t j = 0; j < v.columns.size(); ++j) {
      z_.col(static_cast<Eigen::Index>(j)) = vector(v.columns[j]).cwiseQuotient(own_);
    }
    shared_.compute(MatrixXd::Identity(z_.cols(), z_.cols()) + z_.transpose() * z_);
  }

  MatrixXd operator*(const MatrixXd& m) const {
    const MatrixXd whitened = m.array().colwise() / own_.array();
    const MatrixXd kept = whitened - z_ * shared_.solve(z_.transpose() * whitened);
    return kept.array().colwise() / own_.array();
  }

 private:
  VectorXd own_;
  MatrixXd z_;
  Eigen::LLT<MatrixXd> shared_;
};

// Rows of weights: parameters = weights * y; and their covariance.
struct Fit {
  MatrixXd weights;
  MatrixXd covariance;
};

Fit fit(const MatrixXd& design, const SharedCovariance& v) {
  const MatrixXd weighted = Inverse(v) * design;
  const MatrixXd covariance = (design.transpose() * weighted).inverse();
  return {.weights = covariance * weighted.transpose(), .covariance = covariance};
}

}  // namespace

LineFit fit_line(std::span<const double> x, std::span<const double> y, const SharedCovariance& v) {
  assert(x.size() == y.size() && y.size() == v.variances.size());
  const VectorXd abscissa = vector(x);
  const double centre = abscissa.mean();
  const double scale = (abscissa.array() - centre).abs().maxCoeff();
  assert(scale > 0.0);
  MatrixXd design(abscissa.size(), 2);
  design.col(0).setOnes();
  design.col(1) = (abscissa.array() - centre) / scale;

  auto [weights, covariance] = fit(design, v);
  Eigen::Matrix2d back;  // from centred and scaled parameters to the caller's
  back << 1.0, -centre / scale, 0.0, 1.0 / scale;
  weights = back * weights;
  covariance = back * covariance * back.transpose();
  const VectorXd parameters = weights * vector(y);
  return {.offset = parameters(0),
          .gain = parameters(1),
          .offset_variance = covariance(0, 0),
          .gain_variance = covariance(1, 1),
          .covariance = covariance(0, 1),
          .offset_weights = plain(weights.row(0)),
          .gain_weights = plain(weights.row(1))};
}

LineFit fit_mean(std::span<const double> y, const SharedCovariance& v) {
  const auto ones = MatrixXd::Ones(static_cast<Eigen::Index>(y.size()), 1);
  const auto [weights, covariance] = fit(ones, v);
  return {.offset = (weights * vector(y))(0),
          .gain = 0.0,
          .offset_variance = covariance(0, 0),
          .gain_variance = 0.0,
          .covariance = 0.0,
          .offset_weights = plain(weights.row(0)),
          .gain_weights = std::vector<double>(y.size(), 0.0)};
}

SharedFit fit_columns(const std::vector<std::vector<double>>& columns, std::span<const double> y,
                      const SharedCovariance& v) {
  MatrixXd design(static_cast<Eigen::Index>(y.size()), static_cast<Eigen::Index>(columns.size()));
  VectorXd sizes(design.cols());
  for (Eigen::Index j = 0; j < design.cols(); ++j) {
    design.col(j) = vector(columns[static_cast<std::size_t>(j)]);
    sizes(j) = design.col(j).norm();
    design.col(j) /= sizes(j);
  }
  auto [weights, covariance] = fit(design, v);
  const VectorXd back = sizes.cwiseInverse();
  weights = back.asDiagonal() * weights;
  covariance = back.asDiagonal() * covariance * back.asDiagonal();
  SharedFit result{.parameters = plain(weights * vector(y))};
  for (Eigen::Index j = 0; j < design.cols(); ++j) {
    result.weights.push_back(plain(weights.row(j)));
    for (Eigen::Index i = 0; i < design.cols(); ++i) {
      result.covariance.push_back(covariance(j, i));
    }
  }
  return result;
}

struct InverseCovariance::Factors {
  Inverse inverse;
};
InverseCovariance::InverseCovariance(const SharedCovariance& v)
    : factors_(std::make_unique<Factors>(Inverse(v))) {}
InverseCovariance::~InverseCovariance() = default;

std::vector<double> InverseCovariance::times(std::span<const double> y) const {
  return plain(factors_->inverse * MatrixXd(vector(y)));
}

double chi_squared(std::span<const double> y, const SharedCovariance& v) {
  const VectorXd values = vector(y);
  return (values.transpose() * (Inverse(v) * values))(0);
}

}  // namespace tamlo::math
