// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
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
  std::string unit;
};
Heading heading_of(const Cell& cell);

}  // namespace tamlo::io
