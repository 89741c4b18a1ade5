// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <span>
#include <string>

#include "tamlo/export.hpp"
#include "tamlo/quantity/unit.hpp"

namespace tamlo {
namespace quantity TAMLO_API {

/// Formats for people: the number in `unit` with so many significant digits, no trailing zeros
/// dropped.
std::string significant(double si, const Unit& unit, int digits);

/// Formats for people: the value with the SI prefix that keeps the number between 1 and 1000, with
/// at most so many significant digits and without trailing zeros: engineering(6.103515625e-4, "V",
/// 10) is "610.3515625 uV". Units that take no prefix are left as they are.
std::string engineering(double si, const Unit& unit, int digits);

/// Returns the smallest value of `digits` significant digits in `unit` that is not below `si`, so
/// that a bound stays one when it is printed: 0.399915 becomes 0.4 with four.
double rounded_up(double si, const Unit& unit, int digits);

/// A number with so many decimals.
std::string fixed(double value, int decimals);

/// The fewest decimals with which all of the numbers are whole, `most` at most.
int decimals_of(std::span<const double> numbers, int most);

/// Returns the ending of a noun that is counted: "3 row" + "s".
template <class Count>
constexpr const char* plural(Count count) {
  return count == 1 ? "" : "s";
}

}  // namespace quantity
}  // namespace tamlo
