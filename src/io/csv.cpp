// SPDX-License-Identifier: Apache-2.0
#include "csv.hpp"

#include <algorithm>

#include "tamlo/quantity/number.hpp"

namespace tamlo::io {

std::string_view trimmed(std::string_view text) {
  while (!text.empty() && (text.front() == ' ' || text.front() == '\t')) text.remove_prefix(1);
  while (!text.empty() && (text.back() == ' ' || text.back() == '\t')) text.remove_suffix(1);
  return text;
}

// Cells of one line; a cell in double quotes may hold commas.
std::vector<Cell> split(std::string_view line) {
  std::vector<Cell> cells;
  std::size_t start = 0;
  bool quoted = false;
  for (std::size_t i = 0; i <= line.size(); ++i) {
    if (i < line.size() && line[i] == '"') quoted = !quoted;
    if (i < line.size() && (line[i] != ',' || quoted)) continue;
    const auto raw = line.substr(start, i - start);
    auto text = trimmed(raw);
    const auto skipped = static_cast<std::size_t>(text.data() - raw.data());
    if (text.size() >= 2 && text.front() == '"' && text.back() == '"') {
      text = text.substr(1, text.size() - 2);
    }
    cells.push_back({.text = std::string(text),
                     .column = quantity::characters(line.substr(0, start + skipped)) + 1});
    start = i + 1;
  }
  return cells;
}

std::string_view next_line(std::string_view& text) {
  const auto end = std::min(text.find('\n'), text.size());
  auto line = text.substr(0, end);
  text.remove_prefix(std::min(end + 1, text.size()));
  if (line.ends_with('\r')) line.remove_suffix(1);
  return line;
}

Heading heading_of(const Cell& cell) {
  const std::string_view text(cell.text);
  const auto open = text.find('[');
  Heading result{.name = std::string(trimmed(text.substr(0, open))), .unit = {}};
  if (open == std::string_view::npos) return result;
  const auto close = text.find(']', open);
  if (close != std::string_view::npos) {
    result.unit = std::string(trimmed(text.substr(open + 1, close - open - 1)));
  }
  return result;
}

}  // namespace tamlo::io
