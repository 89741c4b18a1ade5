// SPDX-License-Identifier: Apache-2.0
#include "tamlo/quantity/format.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>

#include "tamlo/math/detail/power_of_ten.hpp"
#include "tamlo/quantity/detail/number.hpp"

namespace tamlo::quantity {
namespace {

// So many digits, without the zeros at their end, and without an exponent where a person needs
// none.
std::string rounded(double number, int digits) {
  const auto text = fmt::format("{:.{}e}", number, digits - 1);
  double value = 0.0;
  const auto read = std::from_chars(text.data(), text.data() + text.size(), value);
  return read.ec == std::errc{} && std::isfinite(value) ? format_number(value)
                                                        : fmt::format("{:g}", number);
}

}  // namespace

std::string significant(double si, const Unit& unit, int digits) {
  const double number = in_unit(si, unit);
  if (number == 0.0) return "0";
  const int magnitude = static_cast<int>(math::decade_of(std::abs(number)));
  if (magnitude < -5 || magnitude > 9) return fmt::format("{:.{}e}", number, digits - 1);
  return fmt::format("{:.{}f}", number, std::max(0, digits - 1 - magnitude));
}

double rounded_up(double si, const Unit& unit, int digits) {
  const double number = si / unit.scale();
  if (!(number > 0.0) || !std::isfinite(number)) return si;
  const double place = math::power_of_ten(math::decade_of(number) + 1 - digits);
  // A number that has so few digits stays, whatever its last bits are.
  return std::ceil(number / place * (1.0 - 1e-12)) * place * unit.scale();
}

std::string engineering(double si, const Unit& unit, int digits) {
  Unit plain = unit;
  const bool label = !unit.dimension.label.empty();
  if (!label && unit.offset == 0.0 && unit.factor == 1.0 && !unit.symbol.empty() && si != 0.0 &&
      std::isfinite(si)) {
    // The unit without its prefix, then the prefix that fits the number.
    for (const auto stem : {"V", "A", "ohm", "F", "Hz", "s", "K", "W", "Sa/s"}) {
      if (tamlo::quantity::unit(stem).dimension != unit.dimension) continue;
      const int power = static_cast<int>(std::floor(std::log10(std::abs(si)) / 3.0 + 1e-12)) * 3;
      for (const auto* prefix : {"p", "n", "u", "m", "", "k", "M", "G"}) {
        const auto candidate = find_unit(std::string(prefix) + stem);
        if (candidate && candidate->exponent == power) plain = *candidate;
      }
      break;
    }
  }
  const auto text = rounded(in_unit(si, plain), digits);
  return plain.symbol.empty() ? text : text + " " + plain.symbol;
}

std::string fixed(double value, int decimals) { return fmt::format("{:.{}f}", value, decimals); }

int decimals_of(std::span<const double> numbers, int most) {
  int decimals = 0;
  const auto whole = [&](double number) {
    const double scaled = number * math::power_of_ten(decimals);
    return std::abs(scaled - std::round(scaled)) < 1e-6 * std::max(1.0, std::abs(scaled));
  };
  while (decimals < most && !std::ranges::all_of(numbers, whole)) ++decimals;
  return decimals;
}

}  // namespace tamlo::quantity
