// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <algorithm>
#include <utility>
#include <vector>

#include "tamlo/chain/chain.hpp"
#include "tamlo/math/detail/linear.hpp"
#include "tamlo/meter/compare.hpp"

// What the budget and the meter say about a set of readings, as figures of their rows: what
// comparison, diagnosis and calibration all begin with.
namespace tamlo::meter {

inline double squared(double x) { return x * x; }

using math::dot;

/// Effect of each source of a chain on each row.
struct Effects {
  std::vector<double> bias{};      ///< known, of the reading
  std::vector<double> expanded{};  ///< of the budget
  double coverage_factor = 0.0;
  std::vector<std::vector<double>> of_source{};  ///< [source][row], with their signs
};

/// At many rows the budget is read off a grid of 1025 points, straight between them: within 1e-6 of
/// itself where the budget bends over no less than a tenth of the span.
Effects effects_at(const chain::Chain& chain, const std::vector<double>& at, double coverage);

/// The quantity at each row, from what the meter showed where it touches.
std::vector<double> positions(const chain::Chain& chain, const model::Meter& meter,
                              const std::vector<Reading>& readings);

/// Returns the number of different values.
inline std::size_t different(std::vector<double> values) {
  std::ranges::sort(values);
  return static_cast<std::size_t>(std::unique(values.begin(), values.end()) - values.begin());
}

struct RowFigures {
  std::vector<double> at{};          ///< the quantity, from the meter
  std::vector<double> difference{};  ///< reading - at
  Effects effects{};
  math::SharedCovariance measured{};  ///< meter, noise, quantisation: what repeats would show
  math::SharedCovariance channel{};   ///< what is fixed in this unit
  std::vector<std::pair<std::size_t, std::size_t>> limit_of{};  ///< of each column of `measured`
  std::vector<std::size_t> source_of{};                         ///< of each column of `channel`
  std::vector<double> meter{};     ///< variance of the meter in each row
  std::vector<double> averages{};  ///< variance that further repeats would average
  std::vector<double> noise{};     ///< variance of single readings, as the budget says
  /// Variance of each row that was taken from the spread of repeats, 0 where it was not; and the
  /// degrees of freedom of that spread.
  std::vector<double> spread{};
  int spread_dof = 0;
  double coverage = 0.95;

  std::size_t rows() const { return at.size(); }
  /// Difference less the known bias.
  std::vector<double> unexpected() const;
  /// Returns the covariance of the differences as the budget predicts them.
  math::SharedCovariance all() const;
  /// Standard uncertainty of a difference as a statement about this unit.
  double standard_uncertainty(std::size_t row) const;
  /// Student's t for a combined uncertainty of a row: by the degrees of freedom of its repeats
  /// where their spread is a part of it (Welch and Satterthwaite).
  double coverage_factor(std::size_t row, double combined) const;
};

/// ObservedNoise of single readings as their repeats show it, beside what was predicted.
struct NoiseSeen {
  double observed = 0.0;  ///< standard deviation
  double predicted = 0.0;
  int dof = 0;  ///< 0: no repeats
};
NoiseSeen noise_observed(const RowFigures& evidence, const std::vector<Reading>& readings);

/// Returns the figures of rows with effects of their own, those of the sources of `chain`.
RowFigures figures_of_rows(const chain::Chain& chain, const model::Meter& meter,
                           const std::vector<Reading>& readings, Effects effects);

/// Throws CompareError for a reading that no range of the meter holds.
RowFigures figures_of_rows(const chain::Chain& chain, const model::Meter& meter,
                           const std::vector<Reading>& readings, double coverage);

}  // namespace tamlo::meter
