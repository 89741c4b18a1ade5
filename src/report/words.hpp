// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <fmt/format.h>

#include <cmath>
#include <string>
#include <utility>
#include <vector>

#include "tamlo/budget/budget.hpp"
#include "tamlo/math/detail/power_of_ten.hpp"
#include "tamlo/quantity/format.hpp"
#include "tamlo/quantity/notation.hpp"
#include "tamlo/report/table.hpp"

// Figures in words and cells, the same way in all reports.
namespace tamlo::report {

/// Adds a line to those of a report, of no tone or of one.
template <class... Arguments>
void say(std::vector<Line>& lines, fmt::format_string<Arguments...> text,
         Arguments&&... arguments) {
  lines.push_back({fmt::format(text, std::forward<Arguments>(arguments)...)});
}
template <class... Arguments>
void say(std::vector<Line>& lines, Tone tone, fmt::format_string<Arguments...> text,
         Arguments&&... arguments) {
  lines.push_back({fmt::format(text, std::forward<Arguments>(arguments)...), tone});
}

/// A figure of a channel beside its siblings: so many significant digits of `reference`, so that a
/// column has one number of decimals.
inline std::string aligned(double si, const quantity::Unit& unit, double reference, int digits) {
  const auto relative = quantity::difference_unit(unit);
  const double size = std::abs(reference) / relative.scale();
  const int magnitude = size > 0.0 ? static_cast<int>(math::decade_of(size)) : 0;
  double number = (si - unit.offset) / unit.scale();
  const int decimals = std::max(0, digits - 1 - magnitude);
  if (std::abs(number) < 0.5 * math::power_of_ten(-decimals)) number = 0.0;  // no "-0.00"
  return fmt::format("{:.{}f}", number, decimals);
}

inline std::string with_unit(const std::string& number, const quantity::Unit& unit) {
  return unit.symbol.empty() ? number : number + " " + unit.symbol;
}

/// A place of the span, of a budget.
template <class Budget>
std::string place_in(const Budget& budget, double x) {
  return with_unit(aligned(x, budget.unit, budget.span.width(), 4), budget.unit);
}

/// All digits.
inline std::string exact(double si, const quantity::Unit& unit) {
  auto text = quantity::format_number(si, unit);
  return text.empty() ? fmt::format("{:.17g}", (si - unit.offset) / unit.scale()) : text;
}

inline Cell figure(double si, const quantity::Unit& unit, double reference, int digits) {
  return aligned(si, unit, reference, digits);
}

/// A value and its unit.
inline std::string value_with_unit(double si, const quantity::Unit& unit, int digits) {
  return with_unit(quantity::significant(si, unit, digits), unit);
}

/// An uncertainty or difference: two or three significant digits and its unit.
inline std::string amount(double si, const quantity::Unit& unit, int digits = 3) {
  const auto relative = quantity::difference_unit(unit);
  return value_with_unit(si, relative, digits);
}

inline Cell percent(double ratio, int decimals) {
  return fmt::format("{:.{}f}", 100.0 * ratio, decimals);
}

/// Measure that a target is held against: "95 %", "worst case", or both of them.
inline std::string confidence(model::JudgedBy by, double coverage) {
  const auto covered = fmt::format("{:g} %", 100.0 * coverage);
  if (by == model::JudgedBy::both) return covered + " and worst case";
  return by == model::JudgedBy::worst_case ? std::string(name(by)) : covered;
}

/// "MET, 36 % to spare", or by how much it is missed: in the unit where nothing is allowed.
inline std::string outcome(bool met, double error, double limit, const quantity::Unit& unit) {
  const double spare = (limit - error) / limit;
  const auto by = std::isfinite(spare) ? fmt::format("{:.0f} %", 100.0 * std::abs(spare))
                                       : amount(error - limit, unit);
  return met ? fmt::format("MET, {} to spare", by) : fmt::format("MISSED by {}", by);
}

inline std::string heading(const std::string& name, const quantity::Unit& unit) {
  return unit.symbol.empty() ? name : fmt::format("{} [{}]", name, unit.symbol);
}

}  // namespace tamlo::report
