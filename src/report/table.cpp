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

std::string lines(const std::vector<Line>& all, Format format, bool colour) {
  std::string text;
  for (const auto& line : all) {
    text += format == Format::markdown ? result::markdown_text(line.text) + "\n\n"
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
        add(result::csv(table));
        break;
      case Format::markdown:
        add(result::markdown(table));
        break;
    }
  }
  if (format != Format::csv) add(lines(report.remarks, format, colour));
  return fmt::format("{}", fmt::join(blocks, "\n"));
}

}  // namespace tamlo::report
