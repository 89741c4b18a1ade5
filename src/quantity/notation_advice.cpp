// SPDX-License-Identifier: Apache-2.0
// What a place of the notation allows, in words.
#include <fmt/format.h>
#include <fmt/ranges.h>

#include "notation_words.hpp"

namespace tamlo::quantity {
namespace {

std::string with_similar(std::string advice, std::string_view found) {
  const auto near = similar_unit(found);
  if (near.empty() || near == found) return advice;
  return advice + fmt::format(" (did you mean {}? capitals count)", near);
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
    switch (basis) {
      case Basis::absolute:
        kinds.push_back(expected.unit ? expected.unit->symbol : "V");
        break;
      case Basis::relative:
        kinds.emplace_back("%, ppm");
        break;
      case Basis::code:
        kinds.emplace_back("LSB");
        break;
      case Basis::digit:
        kinds.emplace_back("digits");
        break;
      case Basis::span:
        kinds.emplace_back("% of span");
        break;
      case Basis::range:
        kinds.emplace_back("% of range");
        break;
    }
  }
  std::erase(kinds, "");
  return with_similar(
      fmt::format("a limit in {}, also per K, per year or per 1000 h", fmt::join(kinds, ", ")),
      found);
}

}  // namespace tamlo::quantity
