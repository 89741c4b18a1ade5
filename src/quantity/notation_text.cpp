// SPDX-License-Identifier: Apache-2.0
// What a place of the notation allows, in words.
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "notation_words.hpp"
#include "tamlo/names.hpp"
#include "tamlo/quantity/notation.hpp"

namespace tamlo::quantity {
namespace {

std::string drift_text(const Limit& limit) {
  const auto* found = std::ranges::find_if(
      drifts, [&](const Per& per) { return per.drift == limit.drift && per.per == limit.per; });
  return found == std::end(drifts) ? "" : std::string(found->text);
}

// Number and unit; in s or K where the unit itself has no text that reads back the same, else the
// nearest that there is.
std::string number_and_unit(double si, const Unit& unit) {
  auto number = format_number(si, unit);
  if (number.empty()) {
    for (const std::string_view base : {"s", "K"}) {
      const auto coherent = tamlo::quantity::unit(base);
      if (coherent.dimension == unit.dimension) return number_and_unit(si, coherent);
    }
    number = fmt::format("{:.17g}", (si - unit.offset) / unit.scale());
  }
  const bool tight = unit.symbol.empty();
  return number + (tight ? "" : " ") + unit.symbol;
}

}  // namespace

std::string to_string(const Limit& limit) {
  const auto size = number_and_unit(limit.size, limit.unit) + drift_text(limit);
  if (limit.with_steps) return fmt::format("{:.5g} dB SNR", signal_to_noise(limit.size));
  if (limit.noise) return size + " rms";
  std::string text = std::string(plus_minus) + size;
  if (limit.box > 0.0) text += " box " + number_and_unit(limit.box, tamlo::quantity::unit("K"));
  if (limit.basis == Basis::span) text += " of span";
  if (limit.basis == Basis::range) text += " of range";
  switch (limit.distribution) {
    case Distribution::uniform:
      return text;
    case Distribution::triangular:
      return text + " (triangular)";
    case Distribution::arcsine:
      return text + " (arcsine)";
    case Distribution::normal:
      break;
  }
  if (limit.coverage_factor == 1.0) return text + " (typ)";
  return text + " (k=" + format_number(limit.coverage_factor) + ")";
}

std::string to_string(const Value& value) {
  std::vector<std::string> parts_of_text;
  if (value.nominal) parts_of_text.push_back(number_and_unit(*value.nominal, value.unit));
  for (const auto& limit : value.limits) parts_of_text.push_back(to_string(limit));
  return fmt::format("{}", fmt::join(parts_of_text, " "));
}

std::string to_string(const Range& range) {
  const auto low = format_number(range.low, range.unit);
  const auto high = format_number(range.high, range.unit);
  if (low.empty() || high.empty()) {
    Unit coherent = tamlo::quantity::unit(range.unit.offset != 0.0 ? "K" : "s");
    if (coherent.dimension == range.unit.dimension && coherent != range.unit) {
      return to_string(Range{.low = range.low, .high = range.high, .unit = coherent});
    }
  }
  const bool tight = range.unit.symbol.empty();
  return low + ".." + high + (tight ? "" : " ") + range.unit.symbol;
}

namespace {

std::string with_similar(std::string advice, std::string_view found) {
  const auto near = similar_unit(found);
  if (near.empty() || near == found) return advice;
  return advice + fmt::format(" (did you mean {}? capitals count)", near);
}

// Of an absolute limit the unit of the place is said.
std::string_view in_words(Basis basis) {
  return name_in({"", "%, ppm", "LSB", "digits", "% of span", "% of range"}, basis);
}

}  // namespace

std::string unit_advice(std::string_view found, const Unit& expected) {
  const auto& symbol = expected.symbol;
  std::string advice = symbol.empty() ? "a number without a unit" : "a unit of " + symbol;
  if (!symbol.empty() && find_unit("m" + symbol)) {
    advice += fmt::format(", such as {0}, m{0} or k{0}", symbol);
  }
  return with_similar(std::move(advice), found);
}

std::string limit_advice(std::string_view found, const Expected& expected) {
  std::vector<std::string> kinds;
  for (const auto basis : expected.bases) {
    const bool absolute = basis == Basis::absolute;
    const auto own = expected.unit ? expected.unit->symbol : "V";
    kinds.push_back(absolute ? own : std::string(in_words(basis)));
  }
  std::erase(kinds, "");
  return with_similar(
      fmt::format("a limit in {}, also per K, per year or per 1000 h", fmt::join(kinds, ", ")),
      found);
}

}  // namespace tamlo::quantity
