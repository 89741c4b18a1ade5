// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/result/detail/table.hpp"

/// Tables and lines for people. Every text of a command is a Report; nothing is computed here.
namespace tamlo {
namespace report TAMLO_API {

using result::Cell;
using result::Column;
using result::Table;

/// Tone of a line; on a terminal it has a colour.
enum class Tone : std::uint8_t { plain, good, bad, doubtful, heading };
std::string_view name(Tone tone);

/// A line of text, and how it is meant.
struct Line {
  std::string text{};
  Tone tone = Tone::plain;
  bool remedy = false;  ///< what cures it
};

/// Report of a command: lines, then tables, then closing lines.
struct Report {
  std::vector<Line> verdict{};
  std::vector<Table> tables{};
  std::vector<Line> remarks{};
  std::vector<Line> legend{};  ///< what the columns mean
};

/// Puts all legends behind the last report, each line once.
std::vector<Report> legends_last(std::vector<Report> reports);

/// Renders as text; lines and tables fit into `width` characters, 0 for as wide as they are: a
/// table that is wider goes on below, with its first column again.
std::string render(const Report& report, bool colour, std::size_t width = 0);

/// Lines as paragraphs of Markdown.
std::string markdown(const std::vector<Line>& lines);

/// A line as JSON, its text and its tone.
std::string json(const Line& line);
/// Reports as JSON: a list of them, each with the lines and tables that it has, cells as shown.
std::string json(const std::vector<Report>& reports);

/// Text whose lines are broken between words where they are wider, 0 for not at all.
std::string fitted(std::string_view text, std::size_t width);

/// Returns a text in plain ASCII: "±" is "+-", "°C" is "degC"; other characters become "?".
std::string ascii(std::string_view text);
/// All texts of a report, before they are laid out: its columns stay straight.
Report ascii(Report report);

/// One line in its tone; plain text without colour.
std::string render(const Line& line, bool colour);

}  // namespace report
}  // namespace tamlo
