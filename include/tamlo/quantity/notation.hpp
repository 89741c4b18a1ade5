// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/quantity/detail/number.hpp"
#include "tamlo/quantity/value.hpp"

namespace tamlo {
namespace quantity TAMLO_API {

/// Names what a place is for: a value with its limits, limits alone, or noise.
enum class Meant : std::uint8_t { value, limits, noise };

/// Requirements of a value: the dimension of `unit`, with limits on these bases. Without a unit any
/// is accepted, one of the user's own as well; limits then have the unit of the value.
struct Expected {
  std::optional<Unit> unit{};
  std::vector<Basis> bases = {Basis::absolute, Basis::relative};
  bool difference = false;     ///< a difference of two values is meant: 0.1 degC are 0.1 K
  Meant meant = Meant::value;  ///< of limits a number needs no sign: "2 LSB max"
  bool one_value = false;      ///< parse_range() takes one value for a range from it to itself, too
};

/// Reads a value in datasheet notation:
///
///     value  = [ number [unit] ] { limit } | number unit "rms"
///     limit  = ( "±" | "+-" ) number unit [ "/" per ] [ "of" ("span" | "range" | "reading") ]
///              [ "(" "k=" number | "typ" | "uniform" | "triangular" | "arcsine" ")" ]
///     per    = "K" | "year" | "1000 h"
///
/// "±a" bare is a datasheet maximum: uniform. "(k=2)" and "(typ)" are normal, "rms" is noise.
///
/// Forms of data sheets with one meaning are read too: "68k" and "4k7" where ohms are expected,
/// "ksps" and "kHz" for kSa/s, "12" for 12 bit, "1 %" behind a value for "±1 %", "ppm/°C", "% of
/// full scale", "max", "typ", "3 sigma", "uVpp" (6.6 standard deviations). They are printed back in
/// the notation. Throws NotationError with the column.
Value parse_value(std::string_view text, const Expected& expected);

/// Reads "a..b unit" with a < b; also "a to b unit", "a - b unit", "a unit..b unit". Throws
/// NotationError with the column.
Range parse_range(std::string_view text, const Expected& expected);

/// Reads "2 V/s", "0.5 K/min": a change of a quantity in `unit` over time, in SI a second. Throws
/// NotationError.
double parse_slope(std::string_view text, const Unit& unit);

/// Writes in the notation, with the units that were read. What it writes reads back the same,
/// bit for bit.
std::string to_string(const Limit& limit);
std::string to_string(const Value& value);
std::string to_string(const Range& range);

}  // namespace quantity
}  // namespace tamlo
