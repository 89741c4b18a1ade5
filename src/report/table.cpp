// SPDX-License-Identifier: Apache-2.0
#include "tamlo/report/table.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "tamlo/quantity/detail/number.hpp"

namespace tamlo::report {
namespace {

constexpr std::size_t rows_under_a_heading = 40;

std::size_t width_of(const Cell& cell) {
  return quantity::characters(quantity::printable(cell.shown));
}

std::string padded(const std::string& text, std::size_t to, bool right) {
  const auto size = quantity::characters(text);
  const std::string spaces(to > size ? to - size : 0, ' ');
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

// A cell in lines of at most that width; a word that is wider stays whole.
std::vector<std::string> lines_of(const std::string& cell, std::size_t width) {
  std::vector<std::string> result;
  const auto text = fitted(cell, quantity::characters(cell) > width ? width : 0);
  for (std::size_t at = 0; at <= text.size();) {
    const auto end = std::min(text.find('\n', at), text.size());
    result.push_back(text.substr(at, end - at));
    at = end + 1;
  }
  return result;
}

// A row whose cells have several lines.
std::string text_rows(const std::vector<std::vector<std::string>>& cells,
                      const std::vector<std::size_t>& widths, const std::vector<Column>& columns) {
  std::size_t lines = 1;
  for (const auto& cell : cells) lines = std::max(lines, cell.size());
  std::string text;
  for (std::size_t line = 0; line < lines; ++line) {
    std::vector<std::string> of_line;
    for (const auto& cell : cells) of_line.push_back(line < cell.size() ? cell[line] : "");
    text += text_row(of_line, widths, columns);
  }
  return text;
}

// Takes from the widest column of texts what is too much for the width.
void narrow(std::vector<std::size_t>& widths, const std::vector<Column>& columns,
            std::size_t most) {
  constexpr std::size_t least = 16;
  std::size_t total = 2 + 3 * (widths.size() - 1), widest = widths.size();
  for (std::size_t i = 0; i < widths.size(); ++i) {
    total += widths[i];
    if (!columns[i].right && (widest == widths.size() || widths[i] > widths[widest])) widest = i;
  }
  if (most == 0 || total <= most || widest == widths.size()) return;
  widths[widest] = std::max(least, widths[widest] - std::min(total - most, widths[widest]));
}

// Columns that stand beside one another within the width: the first, and as many more as fit.
std::vector<std::vector<std::size_t>> groups(const std::vector<std::size_t>& widths,
                                             std::size_t width) {
  std::vector<std::vector<std::size_t>> result;
  std::size_t used = 0;
  for (std::size_t i = 0; i < widths.size(); ++i) {
    const auto needs = widths[i] + 3;
    if (result.empty() || (width > 0 && used + needs > width && result.back().size() > 1)) {
      result.emplace_back();
      used = 2 + widths[0];
      if (i > 0) result.back().push_back(0);
    }
    result.back().push_back(i);
    if (i > 0) used += needs;
  }
  return result;
}

std::string as_text(const Table& table, bool colour, std::size_t most) {
  std::vector<std::size_t> widths;
  std::vector<std::string> headings;
  for (std::size_t i = 0; i < table.columns.size(); ++i) {
    headings.push_back(table.columns[i].heading);
    widths.push_back(quantity::characters(headings.back()));
    for (const auto& row : table.rows) widths.back() = std::max(widths.back(), width_of(row[i]));
  }
  std::string text;
  if (!table.title.empty()) {
    text += fitted(render({table.title, Tone::heading}, colour), most) + "\n";
  }
  for (const auto& group : groups(widths, most)) {
    std::vector<std::size_t> of_group;
    std::vector<Column> columns;
    for (const auto i : group) {
      of_group.push_back(widths[i]);
      columns.push_back(table.columns[i]);
    }
    narrow(of_group, columns, most);
    const auto row_of = [&](const auto& cells) {
      std::vector<std::vector<std::string>> shown;
      for (std::size_t k = 0; k < group.size(); ++k) {
        shown.push_back(lines_of(cells(group[k]), of_group[k]));
      }
      return text_rows(shown, of_group, columns);
    };
    const auto heading = row_of([&](std::size_t i) { return headings[i]; });
    if (!table.continued) text += heading;
    for (std::size_t r = 0; r < table.rows.size(); ++r) {
      // Of a long table on a terminal, the heading again where the last one has scrolled away.
      if (most > 0 && r > 0 && r % rows_under_a_heading == 0) text += heading;
      text += row_of([&](std::size_t i) { return quantity::printable(table.rows[r][i].shown); });
    }
  }
  return text;
}

std::string as_text(const std::vector<Line>& lines, bool colour, std::size_t width) {
  std::string text;
  for (const auto& line : lines) text += fitted(render(line, colour), width) + "\n";
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

std::vector<Report> legends_last(std::vector<Report> reports) {
  std::vector<Line> all;
  for (auto& report : reports) {
    for (auto& line : std::exchange(report.legend, {})) {
      if (std::ranges::find(all, line.text, &Line::text) == all.end())
        all.push_back(std::move(line));
    }
  }
  if (!reports.empty()) reports.back().legend = std::move(all);
  return reports;
}

std::string render(const Report& report, bool colour, std::size_t width) {
  std::vector<std::string> blocks{as_text(report.verdict, colour, width)};
  for (const auto& table : report.tables) blocks.push_back(as_text(table, colour, width));
  blocks.push_back(as_text(report.remarks, colour, width));
  blocks.push_back(as_text(report.legend, colour, width));
  std::erase(blocks, "");
  return fmt::format("{}", fmt::join(blocks, "\n"));
}

std::string markdown(const std::vector<Line>& lines) {
  std::string text;
  for (const auto& line : lines) text += result::markdown_text(line.text) + "\n\n";
  return text;
}

}  // namespace tamlo::report
