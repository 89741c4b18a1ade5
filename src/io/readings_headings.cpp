// SPDX-License-Identifier: Apache-2.0
#include "readings_headings.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "tamlo/io/diagnostics.hpp"

namespace tamlo::io {
namespace {

const std::vector<std::string> roles{
    "channel", "meter",  "reading",   "code",        "u_meter", "u_reading", "meter_range",
    "repeats", "spread", "direction", "temperature", "time",    "unit",      "meter_repeats"};
const std::vector<std::string> with_unit{"meter",     "reading", "u_meter",
                                         "u_reading", "spread",  "temperature"};

bool among(const std::vector<std::string>& list, const std::string& word) {
  return std::ranges::find(list, word) != list.end();
}

}  // namespace

ReadingsHeadings::ReadingsHeadings(const std::vector<std::string>& renamed) {
  for (const auto& text : renamed) {
    const auto equals = text.find('=');
    const auto name = std::string(trimmed(std::string_view(text).substr(0, equals)));
    const auto column = heading_of({.text = name});
    if (equals == std::string::npos || !known(column.name)) {
      throw BadInput({{.file = "command line",
                       .path = "--column",
                       .problem = fmt::format("\"{}\"", text),
                       .hint = one_of(column.name, roles, "NAME=HEADING with the name ")}});
    }
    renamed_.emplace_back(trimmed(std::string_view(text).substr(equals + 1)), column);
  }
}

Heading ReadingsHeadings::of(const Cell& cell) const {
  auto own = heading_of(cell);
  for (const auto& [heading, column] : renamed_) {
    if (heading != cell.text && heading != own.name) continue;
    return {.name = column.name, .unit = column.unit.empty() ? own.unit : column.unit};
  }
  return own;
}

bool ReadingsHeadings::are_of(LogOf what, const std::vector<Cell>& cells) const {
  std::vector<std::string> names;
  for (const auto& cell : cells) names.push_back(of(cell).name);
  const bool of_readings = among(names, "reading") || among(names, "code");
  if (what == LogOf::both) return among(names, "meter") && of_readings;
  return among(names, "time") && (what == LogOf::meter ? among(names, "meter") : of_readings);
}

bool ReadingsHeadings::known(const std::string& name) { return among(roles, name); }

bool ReadingsHeadings::has_unit(const std::string& name) { return among(with_unit, name); }

}  // namespace tamlo::io
