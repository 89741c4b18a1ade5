// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "csv.hpp"

// Tables that instruments and spreadsheets export: other separators, decimal commas, lines before
// the heading.
namespace tamlo::io {

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
