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

/// Cells of one line; a cell in double quotes may hold commas.
std::vector<Cell> split(std::string_view line);

/// Takes the next line off the head of `text`, without its end.
std::string_view next_line(std::string_view& text);

/// "meter [V]" is "meter" and "V".
struct Heading {
  std::string name;
  std::string unit;
};
Heading heading_of(const Cell& cell);

}  // namespace tamlo::io
