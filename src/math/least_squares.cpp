// SPDX-License-Identifier: Apache-2.0
#include "tamlo/math/detail/linear.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <utility>

#include "tamlo/error.hpp"

namespace tamlo::math {
namespace {

using Columns = std::vector<std::vector<double>>;

}  // namespace

// Rows are first divided by their own standard deviation, so that what is factored, I + Z^T Z, has
// no eigenvalue under 1; V itself is never formed.
struct InverseCovariance::Factors {
  std::vector<double> own;
  Columns z;
  SymmetricFactors shared;
};

namespace {

Columns whitened(Columns columns, const std::vector<double>& own) {
  for (auto& column : columns) {
    for (std::size_t i = 0; i < own.size(); ++i) column[i] /= own[i];
  }
  return columns;
}

// The products of each column of `a` with each of `b`, row by row; known to be symmetric.
std::vector<double> products(const Columns& a, const Columns& b, double on_diagonal) {
  const auto size = a.size();
  std::vector<double> result(size * size);
  for (std::size_t j = 0; j < size; ++j) {
    for (std::size_t i = 0; i <= j; ++i) {
      result[i * size + j] = result[j * size + i] = dot(a[i], b[j]) + (i == j ? on_diagonal : 0.0);
    }
  }
  return result;
}

}  // namespace

InverseCovariance::InverseCovariance(const SharedCovariance& v) {
  auto own = v.variances;
  for (const auto& column : v.columns) {
    require(column.size() == own.size(), "columns as long as the variances");
    require_numbers(column, "columns within ±1e150");
  }
  for (auto& value : own) {
    require(value > 0.0 && std::isfinite(value), "a variance is above 0");
    value = std::sqrt(value);
  }
  auto z = whitened(v.columns, own);
  SymmetricFactors shared(products(z, z, 1.0));
  factors_.reset(new Factors{std::move(own), std::move(z), std::move(shared)});
}
InverseCovariance::~InverseCovariance() = default;

std::vector<double> InverseCovariance::times(std::span<const double> y) const {
  const auto& [own, z, shared] = *factors_;
  require(y.size() == own.size(), "as many values as variances");
  std::vector<double> result(y.begin(), y.end());
  for (std::size_t i = 0; i < own.size(); ++i) result[i] /= own[i];
  std::vector<double> along;
  for (const auto& column : z) along.push_back(dot(column, result));
  const auto parts = shared.solve(along);
  for (std::size_t j = 0; j < z.size(); ++j) {
    for (std::size_t i = 0; i < own.size(); ++i) result[i] -= z[j][i] * parts[j];
  }
  for (std::size_t i = 0; i < own.size(); ++i) result[i] /= own[i];
  return result;
}

namespace {

// Parameters = weights * y, a row of weights for each; and their covariance.
struct Fit {
  Columns weights;
  Columns covariance{};
};

Fit fit(const Columns& design, const SharedCovariance& v) {
  const InverseCovariance inverse(v);
  const auto size = design.size();
  Columns weighted;
  for (const auto& column : design) weighted.push_back(inverse.times(column));
  const SymmetricFactors factors(products(design, weighted, 0.0));
  Fit result{.weights = Columns(size, std::vector<double>(v.variances.size()))};
  for (std::size_t j = 0; j < size; ++j) {
    std::vector<double> one(size);
    one[j] = 1.0;
    result.covariance.push_back(factors.solve(one));
    for (std::size_t k = 0; k < size; ++k) {
      const double by = result.covariance[j][k];
      for (std::size_t i = 0; i < v.variances.size(); ++i) {
        result.weights[j][i] += by * weighted[k][i];
      }
    }
  }
  return result;
}

}  // namespace

SharedFit fit_columns(const std::vector<std::vector<double>>& columns, std::span<const double> y,
                      const SharedCovariance& v) {
  const auto n = v.variances.size();
  require(!columns.empty() && y.size() == n, "a column, and as many values as variances");
  require_numbers(y, "values within ±1e150");
  for (const auto& column : columns) {
    require(column.size() == n, "columns as long as the values");
    require_numbers(column, "columns within ±1e150");
    require(dot(column, column) > 0.0, "a column is not 0 throughout");
  }
  // Columns of one size, so that what is factored is not ill-conditioned by their units.
  Columns design = columns;
  std::vector<double> sizes;
  for (auto& column : design) {
    sizes.push_back(std::sqrt(dot(column, column)));
    for (auto& value : column) value /= sizes.back();
  }
  auto [weights, covariance] = fit(design, v);
  SharedFit result;
  for (std::size_t j = 0; j < design.size(); ++j) {
    for (auto& weight : weights[j]) weight /= sizes[j];
    result.parameters.push_back(dot(weights[j], y));
    result.weights.push_back(std::move(weights[j]));
    for (std::size_t i = 0; i < design.size(); ++i) {
      result.covariance.push_back(covariance[j][i] / sizes[j] / sizes[i]);
    }
  }
  return result;
}

double chi_squared(std::span<const double> y, const SharedCovariance& v) {
  return dot(y, InverseCovariance(v).times(y));
}

}  // namespace tamlo::math
