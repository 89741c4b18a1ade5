// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <functional>
#include <string>
#include <string_view>
#include <vector>

// Lines of CSV, with the place of every cell.
namespace tamlo::io {

struct Cell {
  std::string text;
  std::size_t column = 1;  // of its first character in the line
};

std::string_view trimmed(std::string_view text);

/// Cells of one line; a cell in double quotes may hold separators.
std::vector<Cell> split(std::string_view line, char separator = ',');

/// The lines of a text that hold something: without their ends, without blank ones and
/// comments, and without a byte order mark at the head.
class TextLines {
 public:
  explicit TextLines(std::string_view text);
  bool next(std::string_view& line);
  /// Returns the number of the line that was taken last, from 1.
  std::size_t number() const { return number_; }

 private:
  std::string_view rest_;
  std::size_t number_ = 0;
};

/// "meter [V]" is "meter" and "V".
struct Heading {
  std::string name;
  std::string unit{};
};
Heading heading_of(const Cell& cell);

// Tables that instruments and spreadsheets export: other separators, decimal commas, lines before
// the heading.

struct BenchTable {
  char separator = ',';
  std::size_t heading_line = 1;      // from 1
  std::vector<std::string> notes{};  // what is not as in our own files, for the user to see

  /// Cells of a line of the table.
  std::vector<Cell> cells(std::string_view line) const { return split(line, separator); }
};

/// Lines that may stand before a table, and what may separate its cells.
inline constexpr std::size_t most_lines_before = 200;
inline constexpr char separators[] = {',', ';', '\t'};

/// Returns a table that was found, with what is to be said of it.
BenchTable table_at(std::size_t heading_line, char separator, bool lines_before);

/// Finds the line that `is_heading` takes, cells by commas, semicolons or tabs, among the first 200
/// that hold something. Where there is none, the first of them is the heading.
BenchTable find_table(std::string_view text,
                      const std::function<bool(const std::vector<Cell>&)>& is_heading);

/// Returns a number with a decimal point: where commas do not separate cells, "12,5" is 12.5. A
/// text with a point, or with several commas, is left as it is.
std::string with_point(const std::string& number, char separator);

}  // namespace tamlo::io
