// SPDX-License-Identifier: Apache-2.0
#include "tamlo/quantity/unit.hpp"

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>
#include <map>
#include <utility>

#include "tamlo/detail/per_thread.hpp"
#include "tamlo/error.hpp"
#include "tamlo/math/detail/power_of_ten.hpp"

namespace tamlo::quantity {
namespace {

struct Symbol {
  std::string_view text;
  std::array<int, 11> powers{};  // in the order of Base
  int exponent = 0;
  double factor = 1.0;
  double offset = 0.0;
  bool prefixes = false;
};

// kg, m, s, A, K, lm, bit, code, digit, cycle, sample
constexpr Symbol symbols[] = {
    {.text = "V", .powers = {1, 2, -3, -1}, .prefixes = true},
    {.text = "A", .powers = {0, 0, 0, 1}, .prefixes = true},
    {.text = "ohm", .powers = {1, 2, -3, -2}, .prefixes = true},
    {.text = "S", .powers = {-1, -2, 3, 2}, .prefixes = true},
    {.text = "F", .powers = {-1, -2, 4, 2}, .prefixes = true},
    {.text = "H", .powers = {1, 2, -2, -2}, .prefixes = true},
    {.text = "C", .powers = {0, 0, 1, 1}, .prefixes = true},
    {.text = "Hz", .powers = {0, 0, -1}, .prefixes = true},
    {.text = "s", .powers = {0, 0, 1}, .prefixes = true},
    {.text = "min", .powers = {0, 0, 1}, .factor = 60.0},
    {.text = "h", .powers = {0, 0, 1}, .factor = 3600.0},
    {.text = "d", .powers = {0, 0, 1}, .factor = 86400.0},
    {.text = "day", .powers = {0, 0, 1}, .factor = 86400.0},
    {.text = "days", .powers = {0, 0, 1}, .factor = 86400.0},
    {.text = "year", .powers = {0, 0, 1}, .factor = 31557600.0},  // 365.25 days
    {.text = "years", .powers = {0, 0, 1}, .factor = 31557600.0},
    {.text = "K", .powers = {0, 0, 0, 0, 1}, .prefixes = true},
    {.text = "degC", .powers = {0, 0, 0, 0, 1}, .offset = 273.15},
    {.text = "degF", .powers = {0, 0, 0, 0, 1}, .factor = 5.0 / 9.0, .offset = 459.67 * 5.0 / 9.0},
    {.text = "m", .powers = {0, 1}, .prefixes = true},
    {.text = "g", .powers = {1}, .exponent = -3, .prefixes = true},
    {.text = "W", .powers = {1, 2, -3}, .prefixes = true},
    {.text = "J", .powers = {1, 2, -2}, .prefixes = true},
    {.text = "N", .powers = {1, 1, -2}, .prefixes = true},
    {.text = "Pa", .powers = {1, -1, -2}, .prefixes = true},
    {.text = "bar", .powers = {1, -1, -2}, .exponent = 5, .prefixes = true},
    {.text = "lx", .powers = {0, -2, 0, 0, 0, 1}, .prefixes = true},
    {.text = "bit", .powers = {0, 0, 0, 0, 0, 0, 1}},
    {.text = "bits", .powers = {0, 0, 0, 0, 0, 0, 1}},
    {.text = "LSB", .powers = {0, 0, 0, 0, 0, 0, 0, 1}},
    {.text = "digit", .powers = {0, 0, 0, 0, 0, 0, 0, 0, 1}},
    {.text = "digits", .powers = {0, 0, 0, 0, 0, 0, 0, 0, 1}},
    {.text = "cycle", .powers = {0, 0, 0, 0, 0, 0, 0, 0, 0, 1}},
    {.text = "cycles", .powers = {0, 0, 0, 0, 0, 0, 0, 0, 0, 1}},
    {.text = "Sa", .powers = {0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1}, .prefixes = true},
    {.text = "%", .exponent = -2},
    {.text = "ppm", .exponent = -6},
    {.text = "ppb", .exponent = -9},
    {.text = "sqrt(Hz)"},  // a half power, set below
};

constexpr std::pair<char, int> prefixes[] = {{'p', -12}, {'n', -9}, {'u', -6}, {'m', -3},
                                             {'c', -2},  {'k', 3},  {'M', 6},  {'G', 9}};

Unit from(const Symbol& symbol) {
  Unit result{.symbol = std::string(symbol.text),
              .exponent = symbol.exponent,
              .factor = symbol.factor,
              .offset = symbol.offset};
  for (std::size_t i = 0; i < symbol.powers.size(); ++i) {
    result.dimension.halves[i] = static_cast<std::int8_t>(2 * symbol.powers[i]);
  }
  if (symbol.text == "sqrt(Hz)") {
    result.dimension.halves[static_cast<std::size_t>(Base::second)] = -1;
  }
  return result;
}

const Symbol* find_symbol(std::string_view text) {
  const auto* found = std::ranges::find(symbols, text, &Symbol::text);
  return found == std::end(symbols) ? nullptr : found;
}

// "kohm", "mV", "s", "m^3"
std::optional<Unit> find_term(std::string_view text) {
  int power = 1;
  if (const auto caret = text.find('^'); caret != std::string_view::npos) {
    const char* end = text.data() + text.size();
    const auto [stop, error] = std::from_chars(text.data() + caret + 1, end, power);
    if (error != std::errc{} || stop != end || power < 1 || power > 9) return {};
    text = text.substr(0, caret);
  }
  std::optional<Unit> result;
  if (const auto* symbol = find_symbol(text)) {
    result = from(*symbol);
  } else if (text.size() > 1) {
    const auto* prefix = std::ranges::find(prefixes, text.front(), &std::pair<char, int>::first);
    const auto* stem = find_symbol(text.substr(1));
    if (prefix == std::end(prefixes) || stem == nullptr || !stem->prefixes) return {};
    if (prefix->first == 'c' && stem->text != "m") return {};
    result = from(*stem);
    result->exponent += prefix->second;
  }
  if (!result || (power != 1 && result->offset != 0.0)) return {};
  for (auto& half : result->dimension.halves) half = static_cast<std::int8_t>(half * power);
  result->exponent *= power;
  result->factor = std::pow(result->factor, power);
  return result;
}

void replace_all(std::string& text, std::string_view from_text, std::string_view to) {
  for (auto at = text.find(from_text); at != std::string::npos; at = text.find(from_text, at)) {
    text.replace(at, from_text.size(), to);
  }
}

std::string ascii(std::string_view text) {
  std::string result(text);
  replace_all(result, "\u03a9", "ohm");  // Greek capital omega
  replace_all(result, "\u2126", "ohm");  // the ohm sign
  replace_all(result, "\u00b5", "u");    // the micro sign
  replace_all(result, "\u03bc", "u");    // Greek small mu
  replace_all(result,
              "\u00b0"
              "C",
              "degC");
  replace_all(result, "\u00b7", " ");
  replace_all(result, "*", " ");
  return result;
}

std::string lower(std::string_view text) {
  std::string result(text);
  std::ranges::transform(result, result.begin(), [](unsigned char c) { return std::tolower(c); });
  return result;
}

std::optional<Unit> spelled_out(std::string_view text) {
  const std::string spelled = ascii(text);
  if (spelled.empty()) return Unit{};
  Unit result;
  int sign = 1;
  int terms = 0;
  for (std::size_t at = 0; at <= spelled.size();) {
    const std::size_t end = std::min(spelled.find_first_of(" /", at), spelled.size());
    const auto written = std::string_view(spelled).substr(at, end - at);
    const auto term = find_term(written);
    if (!term) return {};
    // A part of something comes first, as in ppm/K: nothing is measured in d/year %.
    const bool part = written == "%" || written == "ppm" || written == "ppb";
    if (part && terms > 0) return {};
    for (std::size_t i = 0; i < result.dimension.halves.size(); ++i) {
      auto& half = result.dimension.halves[i];
      half = static_cast<std::int8_t>(half + sign * term->dimension.halves[i]);
    }
    result.exponent += sign * term->exponent;
    result.factor = sign > 0 ? result.factor * term->factor : result.factor / term->factor;
    result.offset = term->offset;
    ++terms;
    sign = end < spelled.size() && spelled[end] == '/' ? -1 : 1;
    at = end + 1;
  }
  if (terms > 1) result.offset = 0.0;  // per degC is per kelvin
  result.symbol = spelled;
  return result;
}

}  // namespace

double Unit::scale() const { return math::power_of_ten(exponent) * factor; }

std::optional<Unit> find_unit(std::string_view text) {
  // A board asks for the same few again and again: a search reads thousands of boards.
  constexpr std::size_t most_known = 256;
  static const detail::PerThread<std::map<std::string, std::optional<Unit>, std::less<>>> memory;
  auto& known = memory.own();
  if (const auto found = known.find(text); found != known.end()) return found->second;
  const auto unit = spelled_out(text);
  if (known.size() < most_known) known.emplace(text, unit);
  return unit;
}

Unit label_unit(std::string_view label) {
  return {.symbol = std::string(label), .dimension = {.label = std::string(label)}};
}

Unit unit_or_label(std::string_view symbol) {
  return find_unit(symbol).value_or(label_unit(symbol));
}

Unit unit(std::string_view text) {
  auto found = find_unit(text);
  if (!found) throw ArgumentError("no unit is written \"" + std::string(text) + "\"");
  return *std::move(found);
}

bool has_one_unit(const Unit& own) { return own.dimension == unit("bit").dimension; }

Unit difference_unit(const Unit& own) {
  if (own.offset == 0.0) return own;
  return unit("K");
}

std::string similar_unit(std::string_view text) {
  const std::string wanted = lower(ascii(text));
  for (const auto& symbol : symbols) {
    if (lower(symbol.text) == wanted) return std::string(symbol.text);
    if (!symbol.prefixes) continue;
    for (const auto& [letter, exponent] : prefixes) {
      if (letter == 'c' && symbol.text != "m") continue;
      const std::string spelled = letter + std::string(symbol.text);
      if (lower(spelled) == wanted) return spelled;
    }
  }
  return {};
}

double in_unit(double si, const Unit& unit) {
  // A division by the exact power of ten is one rounding; a product with its inverse is two.
  const double number = (si - unit.offset) / unit.factor;
  return unit.exponent > 0 ? number / math::power_of_ten(unit.exponent)
                           : number * math::power_of_ten(-unit.exponent);
}

void from_si(std::span<const double> si, const Unit& unit, std::span<double> numbers) {
  for (std::size_t i = 0; i < si.size(); ++i) numbers[i] = in_unit(si[i], unit);
}

void to_si(std::span<const double> numbers, const Unit& unit, std::span<double> si) {
  const double scale = unit.scale();
  for (std::size_t i = 0; i < numbers.size(); ++i) si[i] = numbers[i] * scale + unit.offset;
}

}  // namespace tamlo::quantity
