// SPDX-License-Identifier: Apache-2.0
#include "tamlo/result/detail/table.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <string_view>

#include "tamlo/quantity/detail/number.hpp"
#include "tamlo/quantity/format.hpp"

namespace tamlo::result {
namespace {

// A spreadsheet takes a text that begins so for a formula.
bool like_formula(const std::string& text) {
  if (text.size() < 2 || std::string_view("=+-@").find(text.front()) == std::string_view::npos) {
    return false;
  }
  const auto number = text.substr(text.front() == '+' ? 1 : 0);
  return quantity::number_length(number) != number.size();
}

std::string csv_cell(const std::string& cell) {
  auto text = quantity::printable(cell);
  if (like_formula(text)) text.insert(0, 1, '\'');
  return text.find_first_of(",\"") == std::string::npos ? text : quantity::csv_quoted(text);
}

}  // namespace

std::string csv(const Table& table) {
  std::vector<std::string> cells;
  for (const auto& column : table.columns) {
    cells.push_back(csv_cell(column.exact.empty() ? column.heading : column.exact));
  }
  std::string text =
      table.title.empty() ? "" : fmt::format("# {}\n", quantity::printable(table.title));
  if (!table.continued) text += fmt::format("{}\n", fmt::join(cells, ","));
  for (const auto& row : table.rows) {
    cells.clear();
    for (const auto& cell : row)
      cells.push_back(csv_cell(cell.exact.empty() ? cell.shown : cell.exact));
    text += fmt::format("{}\n", fmt::join(cells, ","));
  }
  return text;
}

std::string markdown_text(const std::string& text) {
  std::string result;
  for (const char c : quantity::printable(text)) {
    if (c == '<') {
      result += "&lt;";
    } else {
      const bool of_link = c == '(' && result.ends_with(']');  // a text of the user's is no link
      if (c == '|' || c == '\\' || of_link) result += '\\';
      result += c;
    }
  }
  return result;
}

std::string markdown(const Table& table) {
  std::string text =
      table.title.empty() ? "" : fmt::format("### {}\n\n", markdown_text(table.title));
  std::vector<std::string> cells, rules;
  for (const auto& column : table.columns) {
    cells.push_back(markdown_text(column.heading));
    rules.emplace_back(column.right ? "---:" : "---");
  }
  if (!table.continued) {
    text += fmt::format("| {} |\n| {} |\n", fmt::join(cells, " | "), fmt::join(rules, " | "));
  }
  for (const auto& row : table.rows) {
    cells.clear();
    for (const auto& cell : row) cells.push_back(markdown_text(cell.shown));
    text += fmt::format("| {} |\n", fmt::join(cells, " | "));
  }
  return text;
}

}  // namespace tamlo::result
