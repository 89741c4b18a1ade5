// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <string_view>

#include "tamlo/quantity/detail/limit.hpp"
#include "tamlo/quantity/notation.hpp"

// Words of the notation that are read and written.
namespace tamlo::quantity {

inline constexpr std::string_view plus_minus = "\u00b1";
inline constexpr double year = 31557600.0;
inline constexpr double thousand_hours = 3.6e6;

struct Per {
  std::string_view text;
  Drift drift;
  double per;
};
inline constexpr Per drifts[] = {
    {"/K", Drift::temperature, 1.0},       {"/degC", Drift::temperature, 1.0},
    {"/\u00b0C", Drift::temperature, 1.0}, {"/C", Drift::temperature, 1.0},
    {"/year", Drift::time, year},          {"/1000 h", Drift::time, thousand_hours}};

/// Returns the units that a place allows, with the one that `found` may mean.
std::string unit_advice(std::string_view found, const Unit& expected);
/// Returns the limits that a place allows.
std::string limit_advice(std::string_view found, const Expected& expected);

}  // namespace tamlo::quantity
