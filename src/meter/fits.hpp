// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <limits>
#include <vector>

#include "row_figures.hpp"
#include "tamlo/meter/calibrate.hpp"

// The shapes of a correction: each is a sum of a few functions of the reading, linear in what the
// rows say.
namespace tamlo::meter {

struct Basis {
  Model model = Model::line;
  int order = 1;
  double centre = 0.0, half_width = 1.0;
  std::vector<double> nodes{};  ///< of a piecewise one

  /// The functions at a reading.
  std::vector<double> at(double reading) const;
  std::size_t size() const;
};

/// Returns the basis for readings between `low` and `high`; `zero` is where the quantity's unit has
/// its zero.
Basis basis_of(Model model, int order, double low, double high, double zero);

/// Columns of the functions at all readings.
std::vector<std::vector<double>> columns_of(const Basis& basis,
                                            const std::vector<double>& readings);

/// Different positions that a model needs: as many as its shape has functions.
std::size_t needs(Model model, int order);

// The models of a calibration, each fitted to the rows, and the choice among them.

inline constexpr double infinite = std::numeric_limits<double>::infinity();

// One model fitted to the rows.
struct Fitted {
  Basis basis{};
  std::vector<double> beta{};
  std::vector<std::vector<double>> row_weights{};
  std::vector<double> residuals{};
  TriedModel candidate{};
};

// The rows as a fit sees them: readings, what must be added to them, and what each row is worth.
struct Rows {
  std::vector<double> readings{}, wanted{}, standards{}, of_reading{}, of_meter{};
  double zero = 0.0, low = 0.0, high = 0.0;
  std::size_t positions = 0;

  Rows(const RowFigures& evidence, const std::vector<Reading>& given, double zero_of_unit);
};

/// Throws CalibrationError where the rows cannot determine the model.
void refuse_what_cannot_be(const Rows& rows, Model model, int order, const quantity::Unit& unit);

Fitted fit_model(const Rows& rows, Model model, int order);

/// All models that the rows determine with something to spare.
std::vector<Fitted> tried(const Rows& rows);

/// The one of the least criterion; where several are within 2 of it, the one with fewest
/// parameters.
std::size_t best_of(const std::vector<Fitted>& fits);

}  // namespace tamlo::meter
