// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/detail/value_column.hpp"

#include <fmt/format.h>

#include <cctype>
#include <iterator>
#include <optional>
#include <utility>

#include "csv.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/quantity/notation.hpp"

namespace tamlo::io {
namespace {

struct NumberedLine {
  std::string text;
  std::size_t line;
};

std::vector<NumberedLine> lines_of(std::istream& from) {
  const std::string whole{std::istreambuf_iterator<char>(from), std::istreambuf_iterator<char>()};
  std::vector<NumberedLine> result;
  TextLines lines(whole);
  for (std::string_view line; lines.next(line);) {
    result.push_back({std::string(trimmed(line)), lines.number()});
  }
  return result;
}

bool is_heading(const std::string& text) {
  return std::isalpha(static_cast<unsigned char>(text.front())) != 0;
}

}  // namespace

std::vector<double> read_column(std::istream& from, const quantity::Unit& unit) {
  std::vector<double> result;
  std::vector<Problem> wrong;
  std::optional<quantity::Unit> written;
  const auto report = [&](std::size_t line, std::size_t column, std::string found,
                          std::string allowed) {
    wrong.push_back({.file = "standard input",
                     .line = line,
                     .column = column,
                     .problem = std::move(found),
                     .hint = std::move(allowed)});
  };
  bool first = true;
  for (const auto& [text, line] : lines_of(from)) {
    if (std::exchange(first, false) && is_heading(text)) {
      const auto symbol = heading_of({.text = text}).unit;
      written = quantity::find_unit(symbol).value_or(quantity::label_unit(symbol));
      if (!symbol.empty() && written->dimension == unit.dimension) continue;
      report(line, 1, fmt::format("\"{}\"", text),
             fmt::format("a heading with its unit, such as \"value [{}]\"", unit.symbol));
      break;
    }
    try {
      if (written) {
        result.push_back(quantity::parse_number(text, *written));
      } else {
        const auto value = quantity::parse_value(text, {.unit = unit});
        if (!value.nominal || !value.limits.empty()) {
          throw quantity::NotationError(1, fmt::format("\"{}\"", text), "a value without limits");
        }
        result.push_back(*value.nominal);
      }
    } catch (const quantity::NotationError& error) {
      report(line, error.column, error.problem, error.hint);
    }
  }
  if (!wrong.empty()) throw BadInput(std::move(wrong));
  return result;
}

std::vector<std::string> read_words(std::istream& from) {
  std::vector<std::string> result;
  bool first = true;
  for (auto& [text, line] : lines_of(from)) {
    if (std::exchange(first, false) && is_heading(text)) continue;
    result.push_back(std::move(text));
  }
  return result;
}

}  // namespace tamlo::io
