// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string_view>

#include "tamlo/export.hpp"
#include "tamlo/quantity/notation.hpp"
#include "tamlo/quantity/unit.hpp"
#include "tamlo/quantity/value.hpp"

/// Values for boards that are built in code, in the notation of the board file:
///
///     board.references.push_back({.name = "precision", .voltage = volts("2.5 V ±0.05 %")});
///
/// Each throws NotationError, with the column, for a text that is not in the notation or has
/// another unit.
namespace tamlo {
namespace quantity TAMLO_API {

/// A value in a unit that unit() knows, with limits that are absolute or relative.
inline Value value_in(std::string_view unit_name, std::string_view text) {
  return parse_value(text, {.unit = unit(unit_name)});
}
inline Value volts(std::string_view text) { return value_in("V", text); }
inline Value amperes(std::string_view text) { return value_in("A", text); }
inline Value ohms(std::string_view text) { return value_in("ohm", text); }
inline Value farads(std::string_view text) { return value_in("F", text); }
inline Value kelvins(std::string_view text) { return value_in("K", text); }
/// A bare number: "100 ±0.5 %".
inline Value ratio(std::string_view text) { return value_in("", text); }

/// Limits alone of a converter's error: "±2 LSB ±2 ppm/K", "±1 mV".
inline Value converter_limits(std::string_view text) {
  return parse_value(text,
                     {.unit = unit("V"), .bases = {Basis::absolute, Basis::relative, Basis::code}});
}
/// Limits alone of a meter's accuracy: "±0.05 % ±2 digits", "±0.1 % ±1 mV".
inline Value meter_limits(std::string_view text) {
  return parse_value(
      text,
      {.unit = unit("V"), .bases = {Basis::absolute, Basis::relative, Basis::range, Basis::digit}});
}
/// One limit of a target, where the quantity is in that unit: "±0.5 % of span".
inline Limit target_limit(std::string_view unit_name, std::string_view text) {
  const auto value =
      parse_value(text, {.unit = difference_unit(unit(unit_name)),
                         .bases = {Basis::absolute, Basis::relative, Basis::span, Basis::code}});
  if (value.nominal || value.limits.size() != 1) {
    throw NotationError(1, std::string(text), "one limit, such as \"±0.5 % of span\"");
  }
  return value.limits.front();
}

/// A range of any unit: "0..60 V".
inline Range range(std::string_view text) { return parse_range(text, {}); }

}  // namespace quantity
}  // namespace tamlo
