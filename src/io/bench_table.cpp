// SPDX-License-Identifier: Apache-2.0
#include "bench_table.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace tamlo::io {
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
