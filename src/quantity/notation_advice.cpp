// SPDX-License-Identifier: Apache-2.0
// What a place of the notation allows, in words.
#include <fmt/format.h>
#include <fmt/ranges.h>

#include "notation_words.hpp"
#include "tamlo/names.hpp"

namespace tamlo::quantity {
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
