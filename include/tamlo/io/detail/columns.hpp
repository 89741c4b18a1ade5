// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <istream>
#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/quantity/unit.hpp"

/// A column of values, one a line, as a pipe brings them. "#" begins a comment line.
namespace tamlo {
namespace io TAMLO_API {

/// Every line with its own unit ("48 V"), or bare numbers below a heading with the unit in brackets
/// ("voltage [V]"). SI. Throws BadInput with every line that is wrong.
std::vector<double> read_column(std::istream& from, const quantity::Unit& unit);

/// The lines themselves, without blanks around them; a first line that begins with a letter is a
/// heading.
std::vector<std::string> read_words(std::istream& from);

// Reader of profiles: a quantity over time.

/// A course of the quantity over time.
struct Profile {
  std::vector<double> times{};   ///< s, rising, two at least
  std::vector<double> values{};  ///< SI, as many

  /// Straight between the rows; before the first and behind the last it stays.
  double at(double seconds) const;
};

/// A CSV of two columns, "time [s]" and the quantity with its unit. Throws BadInput.
Profile load_profile(const std::string& path, const quantity::Unit& unit);

}  // namespace io
}  // namespace tamlo
