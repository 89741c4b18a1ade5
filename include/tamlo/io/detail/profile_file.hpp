// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/quantity/unit.hpp"

/// Reader of profiles: a quantity over time.
namespace tamlo {
namespace io TAMLO_API {

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
