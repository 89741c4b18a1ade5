// SPDX-License-Identifier: Apache-2.0
#include "tamlo/link/detail/scpi.hpp"

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>
#include <string>

#include "tamlo/link/detail/line_parser.hpp"
#include "words.hpp"

namespace tamlo::link {
namespace {

struct Suffix {
  const char* word;
  const char* unit;
};
// IEEE 488.2, 7.7.3: what a meter shows.
constexpr Suffix suffixes[] = {{"V", "V"},   {"A", "A"}, {"OHM", "ohm"}, {"HZ", "Hz"},
                               {"F", "F"},   {"W", "W"}, {"S", "s"},     {"CEL", "degC"},
                               {"K", "K"},   {"N", "N"}, {"PCT", "%"},   {"BAR", "bar"},
                               {"PAL", "Pa"}};

struct Multiple {
  const char* word;
  double factor;
};
// The longer come first.
constexpr Multiple multiples[] = {{"MA", 1e6}, {"G", 1e9},  {"K", 1e3},   {"M", 1e-3},
                                  {"U", 1e-6}, {"N", 1e-9}, {"P", 1e-12}, {"", 1.0}};

// The SI value of a number with that suffix; nothing for one that is unknown, or of another kind.
std::optional<double> with_suffix(double number, std::string word, const quantity::Unit& like) {
  std::ranges::transform(word, word.begin(), [](unsigned char c) { return std::toupper(c); });
  if (word == "MHZ" || word == "MOHM") word.insert(1, "A");
  for (const auto& [name, symbol] : suffixes) {
    if (!word.ends_with(name)) continue;
    const auto before =
        std::string_view(word).substr(0, word.size() - std::string_view(name).size());
    for (const auto& [prefix, factor] : multiples) {
      if (before != prefix) continue;
      const auto unit = quantity::unit(symbol);
      if (unit.dimension != like.dimension) continue;
      return number * factor * unit.scale() + unit.offset;
    }
  }
  return {};
}

}  // namespace

std::optional<ScpiNumber> parse_scpi_number(std::string_view text, const quantity::Unit& like) {
  if (text.find('"') != std::string_view::npos) return {};
  text = trimmed(text.substr(0, text.find(',')));
  if (text.starts_with('+')) text.remove_prefix(1);
  double number = 0.0;
  const auto* end = text.data() + text.size();
  const auto [stop, error] = std::from_chars(text.data(), end, number);
  if (error != std::errc{} || !std::isfinite(number)) return {};
  const auto suffix = trimmed({stop, static_cast<std::size_t>(end - stop)});
  constexpr double infinite = 9.9e37, no_number = 9.91e37;
  if (std::abs(number) == no_number) return {};
  if (std::abs(number) == infinite) return ScpiNumber{};
  std::optional<double> value;
  if (suffix.empty()) {
    const double one = like.dimension == quantity::Dimension{} ? like.scale() : like.factor;
    value = number * one + like.offset;
  } else {
    value = with_suffix(number, std::string(suffix), like);
  }
  if (!value || !may_be_measured(*value)) return {};
  return ScpiNumber{.value = value};
}

namespace {

struct ErrorNumber {
  int value = 0;
  std::string_view rest{};
};
// The number at the head of an answer; none where it has none.
std::optional<ErrorNumber> error_number(std::string_view answer) {
  if (answer.starts_with('+')) answer.remove_prefix(1);
  ErrorNumber result;
  const auto [stop, error] =
      std::from_chars(answer.data(), answer.data() + answer.size(), result.value);
  if (error != std::errc{}) return {};
  result.rest = answer.substr(static_cast<std::size_t>(stop - answer.data()));
  return result;
}

}  // namespace

bool is_error_entry(std::string_view answer) {
  const auto number = error_number(trimmed(answer));
  return number && (number->rest.empty() || number->rest.starts_with(','));
}

std::optional<std::string> scpi_error(std::string_view answer) {
  answer = trimmed(answer);
  const auto number = error_number(answer);
  if (number && number->value == 0) return {};
  return std::string(answer);
}

}  // namespace tamlo::link
