// SPDX-License-Identifier: Apache-2.0
#include "tamlo/report/table.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "tamlo/quantity/number.hpp"

namespace tamlo::report {
namespace {

std::size_t width(const Cell& cell) {
  return quantity::characters(quantity::printable(cell.shown));
}

std::string padded(const std::string& text, std::size_t to, bool right) {
  const std::string spaces(to - quantity::characters(text), ' ');
  return right ? spaces + text : text + spaces;
}

std::string text_row(const std::vector<std::string>& cells, const std::vector<std::size_t>& widths,
                     const std::vector<Column>& columns) {
  std::string line;
  for (std::size_t i = 0; i < cells.size(); ++i) {
    line += (i == 0 ? "  " : "   ") + padded(cells[i], widths[i], columns[i].right);
  }
  line.erase(line.find_last_not_of(' ') + 1);
  return line + "\n";
}

std::string as_text(const Table& table, bool colour) {
  std::vector<std::size_t> widths;
  std::vector<std::string> headings;
  for (std::size_t i = 0; i < table.columns.size(); ++i) {
    headings.push_back(table.columns[i].heading);
    widths.push_back(quantity::characters(headings.back()));
    for (const auto& row : table.rows) widths.back() = std::max(widths.back(), width(row[i]));
  }
  std::string text;
  if (!table.title.empty()) text += render({table.title, Tone::heading}, colour) + "\n";
  if (!table.continued) text += text_row(headings, widths, table.columns);
  for (const auto& row : table.rows) {
    std::vector<std::string> cells;
    for (const auto& cell : row) cells.push_back(quantity::printable(cell.shown));
    text += text_row(cells, widths, table.columns);
  }
  return text;
}

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

std::string as_csv(const Table& table) {
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

// Text that Markdown shows as it is: no HTML, no end of a cell.
std::string markdown_text(const std::string& text) {
  std::string result;
  for (const char c : quantity::printable(text)) {
    if (c == '<') {
      result += "&lt;";
    } else {
      if (c == '|' || c == '\\') result += '\\';
      result += c;
    }
  }
  return result;
}

std::string as_markdown(const Table& table) {
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

std::string lines(const std::vector<Line>& all, Format format, bool colour) {
  std::string text;
  for (const auto& line : all) {
    text += format == Format::markdown ? markdown_text(line.text) + "\n\n"
                                       : render(line, colour) + "\n";
  }
  return text;
}

}  // namespace

std::string render(const Line& line, bool colour) {
  const auto text = quantity::printable(line.text);
  if (!colour || line.tone == Tone::plain) return text;
  const char* code = "1";
  if (line.tone == Tone::good) code = "32;1";
  if (line.tone == Tone::bad) code = "31;1";
  if (line.tone == Tone::doubtful) code = "33;1";
  return fmt::format("\033[{}m{}\033[0m", code, text);
}

std::string render(const Report& report, Format format, bool colour) {
  std::vector<std::string> blocks;
  const auto add = [&](std::string block) {
    if (!block.empty()) blocks.push_back(std::move(block));
  };
  if (format != Format::csv) add(lines(report.verdict, format, colour));
  for (const auto& table : report.tables) {
    switch (format) {
      case Format::text:
        add(as_text(table, colour));
        break;
      case Format::csv:
        add(as_csv(table));
        break;
      case Format::markdown:
        add(as_markdown(table));
        break;
    }
  }
  if (format != Format::csv) add(lines(report.remarks, format, colour));
  return fmt::format("{}", fmt::join(blocks, "\n"));
}

}  // namespace tamlo::report
