// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <span>
#include <vector>

#include "tamlo/export.hpp"

/// Fits of observations that do not share causes; least_squares.hpp has those that do.
namespace tamlo {
namespace math TAMLO_API {

/// y = sum parameters[j] columns[j] by least squares, the rows weighted by 1 / standards^2.
struct Regression {
  std::vector<double> parameters{};
  /// (X^T W X)^-1, row by row: the covariance of the parameters where the standards are known, and
  /// to be multiplied by residual_standard_deviation^2 where they are only in proportion.
  std::vector<double> covariance{};
  std::vector<double> residuals{};
  std::vector<double> leverages{};             ///< of each row on its own fitted value, 0 to 1
  std::vector<std::vector<double>> weights{};  ///< parameters[j] = sum weights[j][i] y[i]
  double residual_standard_deviation = 0.0;    ///< sqrt(sum (residual / standard)^2 / dof)
  int dof = 0;                                 ///< rows - parameters
  /// Returns the residual of row i from a fit without it: residual / (1 - leverage).
  double left_out(std::size_t row) const { return residuals[row] / (1.0 - leverages[row]); }
};

/// Householder's QR, up to 4096 rows in extended precision. `standards` may be empty: all rows
/// weigh the same. Needs no fewer rows than columns, and columns that do not depend on one another:
/// throws DataError where they do. Of the certified sets of NIST StRD the parameters have 9
/// digits or more (Norris, Pontius, Wampler 1 to 5).
Regression regress(std::span<const std::vector<double>> columns, std::span<const double> y,
                   std::span<const double> standards = {});

/// A straight line y = offset + gain x where both have errors.
struct BothAxesFit {
  double offset = 0.0, gain = 0.0;
  double offset_standard = 0.0, gain_standard = 0.0, covariance = 0.0;
  double chi_squared = 0.0;         ///< of rows - 2 degrees of freedom
  std::vector<double> standards{};  ///< of y in each row, with that of x at the slope
  std::vector<double> adjusted{};   ///< x of the place on the line that each row stands for
  int iterations = 0;
  bool converged = false;  ///< the gain changed by less than 1e-15 of itself
};

/// York, Evensen, Martinez and De Basabe Delgado (2004), for errors that do not correlate. Needs
/// two different x, and standards above 0 of x or y in each row.
BothAxesFit fit_both_axes(std::span<const double> x, std::span<const double> y,
                          std::span<const double> x_standards, std::span<const double> y_standards);

/// The median; reorders nothing. Needs at least one value.
double median(std::span<const double> values);

/// Residuals of a fit that few rows cannot bend (Huber's weights, reached by iteration), in their
/// robust standard deviation, 1.4826 times the median of their sizes; all 0 if that is 0.
std::vector<double> robust_residuals(std::span<const std::vector<double>> columns,
                                     std::span<const double> y,
                                     std::span<const double> standards = {});

}  // namespace math
}  // namespace tamlo
