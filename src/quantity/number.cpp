// SPDX-License-Identifier: Apache-2.0
#include "tamlo/quantity/detail/number.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <cmath>
#include <iterator>
#include <utility>

#include "tamlo/math/detail/power_of_ten.hpp"
#include "tamlo/problem.hpp"

namespace tamlo::quantity {
namespace {

bool digit(char c) { return std::isdigit(static_cast<unsigned char>(c)) != 0; }

// Writes the digits of a decimal number as a person would: 0.00025, 240, 6.1e-7.
std::string layout(std::string digits, int point, bool negative) {
  const int count = static_cast<int>(digits.size());
  std::string text;
  if (point > 15 || point < -5) {
    text = digits.substr(0, 1);
    if (count > 1) text += "." + digits.substr(1);
    text += fmt::format("e{}", point - 1);
  } else if (point <= 0) {
    text = "0." + std::string(static_cast<std::size_t>(-point), '0') + digits;
  } else if (point >= count) {
    text = digits + std::string(static_cast<std::size_t>(point - count), '0');
  } else {
    digits.insert(static_cast<std::size_t>(point), ".");
    text = digits;
  }
  return negative ? "-" + text : text;
}

// Lays out what to_chars wrote as "-d.ddde+xx", divided by 10^exponent.
std::string laid_out(std::string_view scientific, int exponent) {
  const bool negative = scientific.starts_with('-');
  if (negative) scientific.remove_prefix(1);
  const auto e = scientific.find('e');
  std::string digits(scientific.substr(0, e));
  std::erase(digits, '.');
  if (digits.find_first_not_of('0') == std::string::npos) return negative ? "-0" : "0";
  int power = 0;
  const auto sign = scientific[e + 1] == '+' ? 1U : 0U;
  std::from_chars(scientific.data() + e + 1 + sign, scientific.data() + scientific.size(), power);
  return layout(std::move(digits), power + 1 - exponent, negative);
}

}  // namespace

NotationError::NotationError(std::size_t at, std::string what, std::string what_else)
    : Error(fmt::format("column {}: {}", at, sentence(what, what_else))),
      column(at),
      problem(std::move(what)),
      hint(std::move(what_else)) {}

std::optional<std::uint64_t> parse_whole(std::string_view text, std::string_view prefixes) {
  int base = 10;
  if (text.size() > 1 && text[0] == '0' && prefixes.find(text[1]) != std::string_view::npos) {
    const char letter = text[1];
    base = letter == 'x' || letter == 'X' ? 16 : letter == 'b' || letter == 'B' ? 2 : 8;
    text.remove_prefix(2);
  }
  std::uint64_t value = 0;
  const char* end = text.data() + text.size();
  const auto [stop, error] = std::from_chars(text.data(), end, value, base);
  if (text.empty() || error != std::errc{} || stop != end) return {};
  return value;
}

std::size_t characters(std::string_view text) {
  return static_cast<std::size_t>(
      std::ranges::count_if(text, [](char c) { return (c & '\xc0') != '\x80'; }));
}

namespace {

// Bytes of the character at the head of `text`, 0 where it is none (RFC 3629).
std::size_t length_of_character(std::string_view text) {
  const auto byte = [&](std::size_t i) { return static_cast<unsigned char>(text[i]); };
  const unsigned first = byte(0);
  if (first < 0x80) return 1;
  const std::size_t length = first >= 0xf0 ? 4 : first >= 0xe0 ? 3 : 2;
  if (first < 0xc2 || first > 0xf4 || text.size() < length) return 0;
  for (std::size_t i = 1; i < length; ++i) {
    if ((byte(i) & 0xc0U) != 0x80) return 0;
  }
  const unsigned second = byte(1);
  const bool overlong = (first == 0xe0 && second < 0xa0) || (first == 0xf0 && second < 0x90);
  const bool beyond = (first == 0xed && second > 0x9f) || (first == 0xf4 && second > 0x8f);
  return overlong || beyond ? 0 : length;
}

// Characters that turn the direction of writing (UAX 9, 2): a text may read other than it is.
bool turns_writing(std::string_view character) {
  constexpr std::string_view all[] = {"\u061c", "\u200e", "\u200f", "\u202a", "\u202b", "\u202c",
                                      "\u202d", "\u202e", "\u2066", "\u2067", "\u2068", "\u2069"};
  return std::ranges::find(all, character) != std::end(all);
}

}  // namespace

std::string printable(std::string_view text) {
  // As nearly all texts are.
  if (std::ranges::all_of(text, [](unsigned char c) { return c >= 0x20 && c < 0x7f; })) {
    return std::string(text);
  }
  std::string result;
  while (!text.empty()) {
    const auto length = length_of_character(text);
    const auto first = static_cast<unsigned char>(text.front());
    const bool high_control =
        length == 2 && first == 0xc2 && static_cast<unsigned char>(text[1]) < 0xa0;
    const auto taken = std::max<std::size_t>(1, length);
    if (first == '\n' || first == '\t') {
      result += first == '\n' ? "\\n" : "\\t";
    } else if (length == 0 || first < 0x20 || first == 0x7f || high_control ||
               turns_writing(text.substr(0, taken))) {
      for (const char c : text.substr(0, taken)) {
        result += fmt::format("\\x{:02x}", static_cast<unsigned char>(c));
      }
    } else {
      result += text.substr(0, taken);
    }
    text.remove_prefix(taken);
  }
  return result;
}

std::string toml_quoted(std::string_view text) {
  std::string result = "\"";
  for (const char c : text) {
    if (static_cast<unsigned char>(c) < 0x20 || c == 0x7f) {
      result += fmt::format("\\u{:04X}", static_cast<unsigned>(c));
      continue;
    }
    if (c == '"' || c == '\\') result += '\\';
    result += c;
  }
  return result + "\"";
}

std::string toml_key(std::string_view name) {
  const auto bare = [](unsigned char c) { return std::isalnum(c) != 0 || c == '_' || c == '-'; };
  if (!name.empty() && std::ranges::all_of(name, bare)) return std::string(name);
  return toml_quoted(name);
}

std::string csv_quoted(std::string_view text) {
  std::string result = "\"";
  for (const char c : text) result += c == '"' ? "\"\"" : std::string(1, c);
  return result + "\"";
}

std::size_t number_length(std::string_view text) {
  std::size_t at = 0;
  const auto char_at = [&](std::size_t i) { return i < text.size() ? text[i] : '\0'; };
  const auto digits = [&] {
    const auto from = at;
    while (digit(char_at(at))) ++at;
    return at - from;
  };
  if (char_at(at) == '-' || (char_at(at) == '+' && char_at(at + 1) != '-')) ++at;
  auto count = digits();
  if (char_at(at) == '.' && char_at(at + 1) != '.') {
    ++at;
    count += digits();
  }
  if (count == 0) return 0;
  if (char_at(at) == 'e' || char_at(at) == 'E') {
    const auto before = at++;
    if (char_at(at) == '-' || char_at(at) == '+') ++at;
    if (digits() == 0) at = before;
  }
  return at;
}

double parse_number(std::string_view text, const Unit& unit, std::size_t column) {
  if (text.empty() || number_length(text) != text.size()) {
    throw NotationError(column, text.empty() ? "nothing" : fmt::format("\"{}\"", text),
                        "a decimal number such as 2.5 or 1e-3, with a point and without spaces");
  }
  if (text.front() == '+') text.remove_prefix(1);
  const auto e = std::min(text.find_first_of("eE"), text.size());
  int power = 0;
  bool in_range = true;
  if (e < text.size()) {
    const auto sign = text[e + 1] == '+' ? 1U : 0U;
    const auto read = std::from_chars(text.data() + e + 1 + sign, text.data() + text.size(), power);
    in_range = read.ec == std::errc{} && std::abs(power) < 100000;
  }
  double value = 0.0;
  if (in_range) {
    const auto shifted = fmt::format("{}e{}", text.substr(0, e), power + unit.exponent);
    const auto read = std::from_chars(shifted.data(), shifted.data() + shifted.size(), value);
    in_range = read.ec == std::errc{};
    value = value * unit.factor + unit.offset;
  }
  if (!in_range || !std::isfinite(value)) {
    throw NotationError(column, fmt::format("\"{}\"", text),
                        "a number that a double can hold, about 1e-307 to 1e308");
  }
  return value;
}

std::string format_number(double si, const Unit& unit) {
  char buffer[64];
  const auto text_to = [&](const char* end) {
    return std::string_view(buffer, static_cast<std::size_t>(end - buffer));
  };
  constexpr auto scientific = std::chars_format::scientific;
  if (unit.factor == 1.0 && unit.offset == 0.0) {
    return laid_out(text_to(std::to_chars(buffer, std::end(buffer), si, scientific).ptr),
                    unit.exponent);
  }
  const double number = (si - unit.offset) / unit.factor / math::power_of_ten(unit.exponent);
  for (int digits = 0; digits <= 16; ++digits) {
    const auto end = std::to_chars(buffer, std::end(buffer), number, scientific, digits).ptr;
    auto text = laid_out(text_to(end), 0);
    if (parse_number(text, unit) == si) return text;
  }
  return {};
}

std::vector<double> preferred_numbers(int count) {
  constexpr std::array e24{1.0, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2.0, 2.2, 2.4, 2.7, 3.0,
                           3.3, 3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8, 7.5, 8.2, 9.1};
  std::vector<double> result;
  if (count == 3 || count == 6 || count == 12 || count == 24) {
    for (std::size_t i = 0; i < e24.size(); i += 24 / static_cast<std::size_t>(count)) {
      result.push_back(e24.at(i));
    }
  } else if (count == 48 || count == 96 || count == 192) {
    for (int i = 0; i < count; ++i) {
      const double exact = std::round(100.0 * std::pow(10.0, static_cast<double>(i) / count));
      // The one that the standard has otherwise: 9.20 of 192.
      result.push_back((exact == 919.0 ? 920.0 : exact) / 100.0);
    }
  }
  return result;
}

std::vector<double> preferred_between(int count, double low, double high) {
  std::vector<double> result;
  if (!(low > 0.0) || !(high >= low) || !std::isfinite(high)) return result;
  const auto series = preferred_numbers(count);
  for (double decade = math::power_of_ten(math::decade_of(low) - 1); decade <= high;
       decade *= 10.0) {
    for (const double number : series) {
      const double value = number * decade;
      if (value >= low * (1.0 - 1e-9) && value <= high * (1.0 + 1e-9)) result.push_back(value);
    }
  }
  std::ranges::sort(result);
  const auto same = [](double a, double b) { return std::abs(a - b) <= 1e-9 * b; };
  result.erase(std::unique(result.begin(), result.end(), same), result.end());
  return result;
}

}  // namespace tamlo::quantity
