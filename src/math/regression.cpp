// SPDX-License-Identifier: Apache-2.0
#include "tamlo/math/regression.hpp"

#include <algorithm>
#include <cmath>
#include <stdexcept>

#include "tamlo/error.hpp"
#include "tamlo/math/detail/linear.hpp"

namespace tamlo::math {
namespace {

// Up to so many rows are fitted in extended precision: the columns of a polynomial are nearly
// alike.
constexpr std::size_t most_extended = 4096;

template <class Real>
using ColumnsOf = std::vector<std::vector<Real>>;

template <class Real>
Real inner(const std::vector<Real>& a, const std::vector<Real>& b, std::size_t from = 0) {
  return dot(a.data() + from, b.data() + from, a.size() - from);
}

// Mirrors a column at the plane that `mirror`, of square norm 2, stands on; from a row on.
template <class Real>
void reflect(std::vector<Real>& column, const std::vector<Real>& mirror, std::size_t from) {
  const Real along = inner(mirror, column, from);
  for (std::size_t i = from; i < column.size(); ++i) column[i] -= along * mirror[i];
}

// Columns = Q R with Q orthonormal, by reflections (Householder, 1958): the columns become those of
// Q, and R is given, column by column.
template <class Real>
ColumnsOf<Real> orthonormalise(ColumnsOf<Real>& columns) {
  const auto k = columns.size();
  ColumnsOf<Real> r(k, std::vector<Real>(k)), mirrors;
  for (std::size_t j = 0; j < k; ++j) {
    auto mirror = columns[j];
    for (std::size_t i = 0; i < j; ++i) reflect(mirror, mirrors[i], i);
    std::copy_n(mirror.begin(), j, r[j].begin());
    std::fill_n(mirror.begin(), j, Real(0));
    const Real size = std::sqrt(inner(mirror, mirror));
    if (!(size >= Real(1e-15))) {
      throw DataError("the rows do not determine all parameters");
    }
    // To the side that is farther away, so that nothing cancels.
    r[j][j] = mirror[j] > 0 ? -size : size;
    mirror[j] -= r[j][j];
    const Real norm = std::sqrt(size * std::abs(mirror[j]));
    for (std::size_t i = j; i < mirror.size(); ++i) mirror[i] /= norm;
    mirrors.push_back(std::move(mirror));
  }
  for (std::size_t j = 0; j < k; ++j) {
    std::fill(columns[j].begin(), columns[j].end(), Real(0));
    columns[j][j] = 1;
    for (std::size_t i = j + 1; i-- > 0;) reflect(columns[j], mirrors[i], i);
  }
  return r;
}

// The inverse of an upper triangle, column by column.
template <class Real>
ColumnsOf<Real> inverse_of(const ColumnsOf<Real>& r) {
  ColumnsOf<Real> result(r.size(), std::vector<Real>(r.size()));
  for (std::size_t j = 0; j < r.size(); ++j) {
    result[j][j] = Real(1) / r[j][j];
    for (std::size_t i = j; i-- > 0;) {
      Real sum = 0;
      for (std::size_t k = i + 1; k <= j; ++k) sum += r[k][i] * result[j][k];
      result[j][i] = -sum / r[i][i];
    }
  }
  return result;
}

template <class Real>
Regression regress_in(std::span<const std::vector<double>> columns, std::span<const double> y,
                      std::span<const double> standards) {
  const auto n = y.size(), k = columns.size();
  std::vector<Real> values(n), roots(n, Real(1)), sizes(k);
  for (std::size_t i = 0; i < n; ++i) {
    if (!standards.empty()) roots[i] = Real(1) / standards[i];
    values[i] = roots[i] * y[i];
  }
  // Columns of one size, so that their dependence is judged by their directions.
  ColumnsOf<Real> q(k, std::vector<Real>(n));
  for (std::size_t j = 0; j < k; ++j) {
    for (std::size_t i = 0; i < n; ++i) q[j][i] = roots[i] * columns[j][i];
    sizes[j] = std::sqrt(inner(q[j], q[j]));
    if (!(sizes[j] > Real(0))) throw DataError("a column of zeros");
    for (auto& value : q[j]) value /= sizes[j];
  }
  // parameters = back turned, with back = diag(1 / sizes) R^-1 and turned = Q^T values.
  auto back = inverse_of(orthonormalise(q));
  for (auto& column : back) {
    for (std::size_t j = 0; j < k; ++j) column[j] /= sizes[j];
  }
  std::vector<Real> turned(k), off = values;
  for (std::size_t j = 0; j < k; ++j) {
    turned[j] = inner(q[j], values);
    for (std::size_t i = 0; i < n; ++i) off[i] -= turned[j] * q[j][i];
  }
  // A sum over the columns from one on, in the end as a double.
  const auto sum = [k](std::size_t from, auto&& term) {
    Real total = 0;
    for (std::size_t c = from; c < k; ++c) total += term(c);
    return static_cast<double>(total);
  };
  Regression result{.dof = static_cast<int>(n - k)};
  for (std::size_t j = 0; j < k; ++j) {
    result.parameters.push_back(sum(j, [&](auto c) { return back[c][j] * turned[c]; }));
    for (std::size_t i = 0; i < k; ++i) {
      result.covariance.push_back(
          sum(std::max(i, j), [&](auto c) { return back[c][j] * back[c][i]; }));
    }
    auto& weights = result.weights.emplace_back(n);
    for (std::size_t i = 0; i < n; ++i) {
      weights[i] = sum(j, [&](auto c) { return back[c][j] * q[c][i] * roots[i]; });
    }
  }
  for (std::size_t i = 0; i < n; ++i) {
    result.residuals.push_back(static_cast<double>(off[i] / roots[i]));
    result.leverages.push_back(sum(0, [&](auto c) { return q[c][i] * q[c][i]; }));
  }
  if (result.dof > 0) {
    result.residual_standard_deviation =
        static_cast<double>(std::sqrt(inner(off, off) / static_cast<Real>(result.dof)));
  }
  return result;
}

}  // namespace

Regression regress(std::span<const std::vector<double>> columns, std::span<const double> y,
                   std::span<const double> standards) {
  require(!columns.empty() && y.size() >= columns.size(),
          "a fit needs columns, and as many rows as columns");
  for (const auto& column : columns) require(column.size() == y.size(), "columns as long as y");
  require(standards.empty() || standards.size() == y.size(), "one uncertainty for each row");
  return y.size() <= most_extended ? regress_in<long double>(columns, y, standards)
                                   : regress_in<double>(columns, y, standards);
}

BothAxesFit fit_both_axes(std::span<const double> x, std::span<const double> y,
                          std::span<const double> x_standards,
                          std::span<const double> y_standards) {
  const auto n = x.size();
  require(n >= 2 && y.size() == n && x_standards.size() == n && y_standards.size() == n,
          "a line needs two points, each with its uncertainties");
  require_numbers(x, "points within ±1e150");
  require_numbers(y, "points within ±1e150");
  for (std::size_t i = 0; i < n; ++i) {
    const bool sound = x_standards[i] >= 0.0 && y_standards[i] >= 0.0 &&
                       x_standards[i] + y_standards[i] > 0.0 &&
                       std::isfinite(x_standards[i] + y_standards[i]);
    require(sound, "uncertainties of 0 or more, one of them above 0");
  }
  const std::vector<double> line[] = {std::vector<double>(n, 1.0), {x.begin(), x.end()}};
  BothAxesFit result{.gain = regress(line, y).parameters[1]};
  double mean_x = 0.0, mean_y = 0.0, sum = 0.0;
  std::vector<double> weight(n), adjusted(n);
  // With b the slope: W = 1 / (u_y^2 + b^2 u_x^2), and the adjusted x of each row from both.
  const auto adjust = [&] {
    const double b = result.gain;
    sum = mean_x = mean_y = 0.0;
    for (std::size_t i = 0; i < n; ++i) {
      weight[i] = 1.0 / (y_standards[i] * y_standards[i] + b * b * x_standards[i] * x_standards[i]);
      sum += weight[i];
      mean_x += weight[i] * x[i];
      mean_y += weight[i] * y[i];
    }
    mean_x /= sum;
    mean_y /= sum;
    for (std::size_t i = 0; i < n; ++i) {
      adjusted[i] = weight[i] * (y_standards[i] * y_standards[i] * (x[i] - mean_x) +
                                 b * x_standards[i] * x_standards[i] * (y[i] - mean_y));
    }
  };
  while (!result.converged && result.iterations < 200) {
    adjust();
    double above = 0.0, below = 0.0;
    for (std::size_t i = 0; i < n; ++i) {
      above += weight[i] * adjusted[i] * (y[i] - mean_y);
      below += weight[i] * adjusted[i] * (x[i] - mean_x);
    }
    const double next = above / below;
    result.converged = std::abs(next - result.gain) <= 1e-15 * std::abs(next);
    result.gain = next;
    ++result.iterations;
  }
  adjust();
  result.offset = mean_y - result.gain * mean_x;
  double centre = 0.0, spread = 0.0;
  for (std::size_t i = 0; i < n; ++i) centre += weight[i] * (mean_x + adjusted[i]) / sum;
  for (std::size_t i = 0; i < n; ++i) {
    const double from = mean_x + adjusted[i] - centre;
    const double off = y[i] - result.gain * x[i] - result.offset;
    spread += weight[i] * from * from;
    result.chi_squared += weight[i] * off * off;
    result.standards.push_back(1.0 / std::sqrt(weight[i]));
    result.adjusted.push_back(mean_x + adjusted[i]);
  }
  result.gain_standard = 1.0 / std::sqrt(spread);
  result.offset_standard = std::sqrt(1.0 / sum + centre * centre / spread);
  result.covariance = -centre / spread;
  return result;
}

double median(std::span<const double> values) {
  require(!values.empty(), "a median needs a value");
  require_numbers(values, "values within ±1e150");
  std::vector<double> sorted(values.begin(), values.end());
  const auto middle = sorted.begin() + static_cast<std::ptrdiff_t>(sorted.size() / 2);
  std::nth_element(sorted.begin(), middle, sorted.end());
  if (sorted.size() % 2 == 1) return *middle;
  return (*middle + *std::max_element(sorted.begin(), middle)) / 2.0;
}

std::vector<double> robust_residuals(std::span<const std::vector<double>> columns,
                                     std::span<const double> y, std::span<const double> standards) {
  std::vector<double> now(standards.begin(), standards.end());
  if (now.empty()) now.assign(y.size(), 1.0);
  const std::vector<double> given = now;
  std::vector<double> off(y.size());
  double before = 0.0;
  for (int round = 0; round < 30; ++round) {
    const auto fit = regress(columns, y, now);
    std::vector<double> sizes;
    for (std::size_t i = 0; i < y.size(); ++i) {
      off[i] = fit.residuals[i] / given[i];
      sizes.push_back(std::abs(off[i]));
    }
    const double scale = 1.4826 * median(sizes);
    if (!(scale > 0.0)) return std::vector<double>(y.size(), 0.0);
    for (std::size_t i = 0; i < y.size(); ++i) {
      off[i] /= scale;
      now[i] = given[i] * std::sqrt(std::max(1.0, std::abs(off[i]) / 1.345));
    }
    // The scale has come to rest.
    if (std::abs(scale - before) <= 1e-4 * scale) break;
    before = scale;
  }
  return off;
}

}  // namespace tamlo::math
