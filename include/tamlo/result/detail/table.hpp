// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "tamlo/export.hpp"

/// Tables for people and for spreadsheets.
namespace tamlo {
namespace result TAMLO_API {

/// Content of a cell.
struct Cell {
  std::string shown{};  ///< for people
  std::string exact{};  ///< for CSV; empty: the same
  /// Shown as it is.
  Cell(std::string text) : shown(std::move(text)) {}  // NOLINT: a text is a cell
  /// Shown as it is.
  Cell(const char* text) : shown(text) {}  // NOLINT
  /// Shown short, exact for programs.
  Cell(std::string text, std::string full) : shown(std::move(text)), exact(std::move(full)) {}
};

/// A heading, and where its cells stand.
struct Column {
  std::string heading{};
  bool right = true;    ///< numbers stand to the right
  std::string exact{};  ///< the heading in CSV, with its unit; empty: the same
};

/// A table of a result.
struct Table {
  std::string title{};
  bool continued = false;  ///< of a table that was begun before: without its headings
  std::vector<Column> columns{};
  std::vector<std::vector<Cell>> rows{};
};

/// A comment line with the title, the headings, and a line for each row; cells by RFC 4180, and
/// none that a spreadsheet would take for a formula.
std::string csv(const Table& table);

/// Returns a table in Markdown; nothing in a cell ends it, or is HTML.
std::string markdown(const Table& table);
/// Text that Markdown shows as it is.
std::string markdown_text(const std::string& text);

}  // namespace result
}  // namespace tamlo
