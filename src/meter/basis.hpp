// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <vector>

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

}  // namespace tamlo::meter
