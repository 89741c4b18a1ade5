// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>

#include "tamlo/export.hpp"

namespace tamlo {
namespace quantity TAMLO_API {

/// The base units of the SI that the trade needs, and the counting units of converters and meters.
enum class Base : std::uint8_t {
  kilogram,
  metre,
  second,
  ampere,
  kelvin,
  lumen,
  bit,
  code,
  digit,
  cycle,
  sample,
  count_
};

/// Dimension of a figure. Two quantities are comparable when their dimensions are equal. Exponents
/// are kept in halves, so that a noise density in V/sqrt(Hz) has one too. A unit that the user made
/// up ("l/min", "%RH") is a dimension of its own, identified by its label.
struct Dimension {
  std::array<std::int8_t, static_cast<std::size_t>(Base::count_)> halves{};
  std::string label{};

  bool operator==(const Dimension&) const = default;
  /// True for a bare number or ratio.
  bool none() const { return *this == Dimension{}; }
};

/// One way to write a dimension: value in SI = (number * 10^exponent) * factor + offset.
/// Powers of ten stay apart from other factors so that text converts without any rounding.
struct Unit {
  std::string symbol{};  ///< as it is printed: "mV", "kohm", "degC", "l/min"; empty for a number
  Dimension dimension{};
  int exponent = 0;     ///< decimal exponent of the prefixes: -3 for mV
  double factor = 1.0;  ///< what is no power of ten: 60 for min
  double offset = 0.0;  ///< 273.15 for degC

  bool operator==(const Unit&) const = default;
  /// The size of one such unit in SI, for a difference (the offset does not enter).
  double scale() const;
};

/// Numbers in `unit` to SI; `si` is as long.
void to_si(std::span<const double> numbers, const Unit& unit, std::span<double> si);
void from_si(std::span<const double> si, const Unit& unit, std::span<double> numbers);
double in_unit(double si, const Unit& unit);

/// Reads a unit: products by space or "*", quotients by "/", powers by "^", SI prefixes,
/// "sqrt(Hz)". Symbols are case-sensitive. "Ω", "µ" and "°C" are read as "ohm", "u" and "degC".
/// Returns nothing for text that is no known unit (it may still be a label of the user's).
std::optional<Unit> find_unit(std::string_view text);

/// A unit of the user's own: a label and nothing else.
Unit label_unit(std::string_view label);
/// Returns the known unit of that symbol, else a label of the user's own.
Unit unit_or_label(std::string_view symbol);

/// The unit that is known to exist; for constants in code. Asserts that it does.
Unit unit(std::string_view text);

/// Says whether values of this dimension have one unit alone, as bits have: a bare number means it.
bool has_one_unit(const Unit& unit);

/// The unit of a difference of two values in `unit`: K for degC and degF, else the same.
Unit difference_unit(const Unit& unit);

/// The known spelling nearest to `text` in letters alone ("Kohm" -> "kohm"), or empty.
std::string similar_unit(std::string_view text);

}  // namespace quantity
}  // namespace tamlo
