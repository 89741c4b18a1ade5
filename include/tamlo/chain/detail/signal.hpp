// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <span>

#include "tamlo/export.hpp"

namespace tamlo {
namespace chain TAMLO_API {

/// The actual values of everything that a chain is made of, in the order of Chain::parameters.
using Parameters = std::span<const double>;

/// Parameters of one unit among many, whose parameters lie in rows: rows[i][unit] is parameter i.
/// The laws take either, so that many units pass a part at once. `Set` is a type for each
/// instruction set that the laws are compiled for, and keeps their code apart.
template <class Set>
struct UnitOfMany {
  const double* const* rows;
  std::size_t unit;
  /// The value of a parameter in this unit.
  double operator[](std::size_t parameter) const { return rows[parameter][unit]; }
};

/// Signal between two parts: the value (the quantity, ohms, amperes, volts) and, of a voltage, its
/// source resistance. Leakage and loads act on that resistance.
struct Signal {
  double value = 0.0;
  double resistance = 0.0;
};

/// Returns the place of `x` between `low` (0) and `high` (1).
inline double fraction_of_span(double x, double low, double high) {
  return (x - low) / (high - low);
}

/// Returns the resistance of two resistors in parallel; 0 where there is none.
inline double parallel(double a, double b) { return a + b > 0.0 ? a * b / (a + b) : 0.0; }

}  // namespace chain
}  // namespace tamlo
