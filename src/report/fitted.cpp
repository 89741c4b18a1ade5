// SPDX-License-Identifier: Apache-2.0
// Text for the terminal that there is: as wide as it is, in the letters that it has.
#include <algorithm>
#include <array>
#include <utility>

#include "tamlo/report/table.hpp"

namespace tamlo::report {
namespace {

bool begins_character(char c) { return (c & '\xc0') != '\x80'; }

// Characters of a word, without what sets its colour.
std::size_t seen(std::string_view word) {
  std::size_t result = 0;
  for (std::size_t i = 0; i < word.size(); ++i) {
    if (word[i] == '\033') {
      i = std::min(word.find('m', i), word.size() - 1);
    } else if (begins_character(word[i])) {
      ++result;
    }
  }
  return result;
}

// A line in pieces; those that follow stand two further in than it began.
std::string folded(std::string_view line, std::size_t width) {
  const auto indent = std::min(line.find_first_not_of(' '), line.size());
  std::string result(indent, ' ');
  std::size_t column = indent;
  for (std::size_t at = indent; at < line.size();) {
    const auto end = std::min(line.find(' ', at), line.size());
    const auto next = std::min(line.find_first_not_of(' ', end), line.size());
    const auto word = line.substr(at, end - at);
    const bool first = column == indent;
    if (!first && column + seen(word) > width) {
      result.erase(result.find_last_not_of(' ') + 1);
      result += "\n" + std::string(indent + 2, ' ');
      column = indent + 2;
    }
    result += word;
    result.append(next - end, ' ');
    column += seen(word) + (next - end);
    at = next;
  }
  result.erase(result.find_last_not_of(' ') + 1);
  return result;
}

constexpr std::array<std::pair<std::string_view, std::string_view>, 24> plain_letters{{
    {"±", "+-"}, {"°", "deg"}, {"Ω", "ohm"}, {"Ω", "ohm"}, {"µ", "u"},    {"μ", "u"},
    {"−", "-"},  {"–", "-"},   {"—", "-"},   {"…", "..."}, {"→", "->"},   {"←", "<-"},
    {"×", "x"},  {"·", "*"},   {"²", "^2"},  {"³", "^3"},  {"√", "sqrt"}, {"≤", "<="},
    {"≥", ">="}, {"Δ", "d"},   {"“", "\""},  {"”", "\""},  {"’", "'"},    {"│", "|"},
}};

}  // namespace

std::string fitted(std::string_view text, std::size_t width) {
  if (width == 0) return std::string(text);
  std::string result;
  for (std::size_t at = 0; at < text.size();) {
    const auto end = std::min(text.find('\n', at), text.size());
    const auto line = text.substr(at, end - at);
    result += seen(line) <= width ? std::string(line) : folded(line, width);
    if (end < text.size()) result += '\n';
    at = end + 1;
  }
  return result;
}

std::string ascii(std::string_view text) {
  std::string result;
  for (std::size_t i = 0; i < text.size();) {
    if ((text[i] & '\x80') == 0) {
      result += text[i++];
      continue;
    }
    const auto known = std::ranges::find_if(
        plain_letters, [&](const auto& part) { return text.substr(i).starts_with(part.first); });
    result += known != plain_letters.end() ? known->second : "?";
    do ++i;
    while (i < text.size() && !begins_character(text[i]));
  }
  return result;
}

Report ascii(Report report) {
  for (auto* lines : {&report.verdict, &report.remarks, &report.legend}) {
    for (auto& line : *lines) line.text = ascii(line.text);
  }
  for (auto& table : report.tables) {
    table.title = ascii(table.title);
    for (auto& column : table.columns) column.heading = ascii(column.heading);
    for (auto& row : table.rows) {
      for (auto& cell : row) cell.shown = ascii(cell.shown);
    }
  }
  return report;
}

}  // namespace tamlo::report
