// SPDX-License-Identifier: Apache-2.0
#include "csv.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <optional>

#include "tamlo/io/readings_file.hpp"
#include "tamlo/quantity/detail/number.hpp"

namespace tamlo::io {
namespace {

// Blanks, but not a tab that separates cells.
std::string_view trimmed_left(std::string_view text, char separator = ',') {
  while (!text.empty() && text.front() != separator &&
         (text.front() == ' ' || text.front() == '\t')) {
    text.remove_prefix(1);
  }
  return text;
}

// The length of a cell in double quotes at the head of `text`, with its quotes; 0 where it is none,
// or its last quote is missing.
std::size_t quoted_length(std::string_view text) {
  if (text.empty() || text.front() != '"') return 0;
  for (std::size_t i = 1; i < text.size(); ++i) {
    if (text[i] != '"') continue;
    if (i + 1 >= text.size() || text[i + 1] != '"') return i + 1;
    ++i;  // a quote in the text is doubled
  }
  return 0;
}

}  // namespace

std::string_view trimmed(std::string_view text) {
  text = trimmed_left(text);
  while (!text.empty() && (text.back() == ' ' || text.back() == '\t')) text.remove_suffix(1);
  return text;
}

// Cells of one line; a cell in double quotes may hold commas (RFC 4180). A quote that does not end
// is a character like others.
std::vector<Cell> split(std::string_view line, char separator) {
  std::vector<Cell> cells;
  for (std::size_t start = 0; start <= line.size();) {
    auto rest = line.substr(start);
    const auto skipped = rest.size() - trimmed_left(rest, separator).size();
    rest.remove_prefix(skipped);
    const auto quoted = quoted_length(rest);
    const auto comma = std::min(rest.find(separator, quoted), rest.size());
    Cell cell{.text = std::string(trimmed(rest.substr(0, comma))),
              .column = quantity::characters(line.substr(0, start + skipped)) + 1};
    if (quoted > 0 && cell.text.size() == quoted) {
      cell.text.clear();
      for (std::size_t i = 1; i + 1 < quoted; ++i) {
        cell.text += rest[i];
        if (rest[i] == '"') ++i;
      }
    }
    cells.push_back(std::move(cell));
    start += skipped + comma + 1;
  }
  return cells;
}

std::string csv_cell(std::string_view text) {
  const bool bare = text.find_first_of(",\"") == std::string_view::npos && trimmed(text) == text &&
                    !text.starts_with('#');
  return bare ? std::string(text) : quantity::csv_quoted(text);
}

TextLines::TextLines(std::string_view text) : rest_(text) {
  if (rest_.starts_with("\xef\xbb\xbf")) rest_.remove_prefix(3);
}

bool TextLines::next(std::string_view& line) {
  while (!rest_.empty()) {
    ++number_;
    const auto end = std::min(rest_.find('\n'), rest_.size());
    line = rest_.substr(0, end);
    rest_.remove_prefix(std::min(end + 1, rest_.size()));
    if (line.ends_with('\r')) line.remove_suffix(1);
    const auto inside = trimmed(line);
    if (!inside.empty() && inside.front() != '#') return true;
  }
  return false;
}

namespace {

// "Value (V)", where a unit stands in the parentheses.
std::optional<Heading> in_parentheses(std::string_view text) {
  const auto open = text.rfind('(');
  if (open == std::string_view::npos || !text.ends_with(')')) return {};
  const auto unit = trimmed(text.substr(open + 1, text.size() - open - 2));
  if (unit.empty() || !quantity::find_unit(unit)) return {};
  return Heading{.name = std::string(trimmed(text.substr(0, open))), .unit = std::string(unit)};
}

}  // namespace

Heading heading_of(const Cell& cell) {
  const std::string_view text(cell.text);
  // The unit is in the last brackets: a name may have some too.
  const auto open = text.ends_with(']') ? text.rfind('[') : text.find('[');
  Heading result{.name = std::string(trimmed(text.substr(0, open)))};
  if (open == std::string_view::npos) return in_parentheses(text).value_or(result);
  const auto close = text.find(']', open);
  if (close != std::string_view::npos) {
    result.unit = std::string(trimmed(text.substr(open + 1, close - open - 1)));
  }
  return result;
}

namespace {

std::string separator_notice(char separator) {
  return separator == '\t' ? "cells are separated by tabs, decimals by a point or a comma"
                           : "cells are separated by semicolons, decimals by a point or a comma";
}

}  // namespace

BenchTable table_at(std::size_t heading_line, char separator, bool lines_before) {
  BenchTable result{.separator = separator, .heading_line = heading_line};
  if (separator != ',') result.notes.push_back(separator_notice(separator));
  if (lines_before) {
    result.notes.push_back(fmt::format(
        "the table begins at line {}: what stands before it is not read", heading_line));
  }
  return result;
}

BenchTable find_table(std::string_view text,
                      const std::function<bool(const std::vector<Cell>&)>& is_heading) {
  BenchTable result;
  TextLines lines(text);
  std::string_view line;
  for (std::size_t i = 0; i < most_lines_before && lines.next(line); ++i) {
    for (const char separator : separators) {
      if (i == 0 &&
          std::ranges::count(line, separator) > std::ranges::count(line, result.separator))
        result.separator = separator;  // of what is refused
      if (!is_heading(split(line, separator))) continue;
      return table_at(lines.number(), separator, i > 0);
    }
  }
  return result;
}

std::string with_point(const std::string& number, char separator) {
  const auto comma = number.find(',');
  const bool decimal = separator != ',' && comma != std::string::npos &&
                       number.find(',', comma + 1) == std::string::npos &&
                       number.find('.') == std::string::npos;
  if (!decimal) return number;
  auto result = number;
  result[comma] = '.';
  return result;
}

}  // namespace tamlo::io
