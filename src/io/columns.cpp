// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/detail/columns.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <iterator>
#include <optional>
#include <utility>

#include "csv.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/quantity/notation.hpp"

namespace tamlo::io {
namespace {

struct NumberedLine {
  std::string text;
  std::size_t line;
};

std::vector<NumberedLine> lines_of(std::istream& from) {
  const std::string whole{std::istreambuf_iterator<char>(from), std::istreambuf_iterator<char>()};
  std::vector<NumberedLine> result;
  TextLines lines(whole);
  for (std::string_view line; lines.next(line);) {
    result.push_back({std::string(trimmed(line)), lines.number()});
  }
  return result;
}

bool is_heading(const std::string& text) {
  return std::isalpha(static_cast<unsigned char>(text.front())) != 0;
}

}  // namespace

std::vector<double> read_column(std::istream& from, const quantity::Unit& unit) {
  std::vector<double> result;
  FileProblems wrong("standard input");
  std::optional<quantity::Unit> written;
  const auto report = [&](std::size_t line, std::size_t column, std::string found,
                          std::string allowed) {
    wrong.add({line, column}, "", std::move(found), std::move(allowed));
  };
  bool first = true;
  for (const auto& [text, line] : lines_of(from)) {
    if (std::exchange(first, false) && is_heading(text)) {
      const auto heading = heading_of({.text = text});
      written = quantity::unit_or_label(heading.unit);
      if (!heading.unit.empty() && written->dimension == unit.dimension) continue;
      report(line, 1, fmt::format("\"{}\"", text),
             fmt::format("a heading with its unit, such as \"value [{}]\"", unit.symbol));
      break;
    }
    try {
      if (written) {
        result.push_back(quantity::parse_number(text, *written));
      } else {
        const auto value = quantity::parse_value(text, {.unit = unit});
        if (!value.nominal || !value.limits.empty()) {
          throw quantity::NotationError(1, fmt::format("\"{}\"", text), "a value without limits");
        }
        result.push_back(*value.nominal);
      }
    } catch (const quantity::NotationError& error) {
      report(line, error.column, error.problem, error.hint);
    }
  }
  wrong.refuse_any();
  return result;
}

std::vector<std::string> read_words(std::istream& from) {
  std::vector<std::string> result;
  bool first = true;
  for (auto& [text, line] : lines_of(from)) {
    if (std::exchange(first, false) && is_heading(text)) continue;
    result.push_back(std::move(text));
  }
  return result;
}

double Profile::at(double seconds) const {
  const auto after = std::ranges::upper_bound(times, seconds);
  if (after == times.begin()) return values.front();
  if (after == times.end()) return values.back();
  const auto i = static_cast<std::size_t>(after - times.begin());
  return std::lerp(values[i - 1], values[i], (seconds - times[i - 1]) / (times[i] - times[i - 1]));
}

Profile load_profile(const std::string& path, const quantity::Unit& unit) {
  Profile profile;
  FileProblems wrong(path);
  const auto text = read_file(path);
  TextLines lines(text);
  std::vector<quantity::Unit> units;
  for (std::string_view line; lines.next(line);) {
    const auto cells = split(line);
    const auto report = [&](std::size_t column, std::string found, std::string allowed) {
      wrong.add({lines.number(), column}, "profile", std::move(found), std::move(allowed));
    };
    if (cells.size() != 2) {
      report(1, fmt::format("{} cells", cells.size()), "two: a time and a value");
      continue;
    }
    if (units.empty()) {
      const quantity::Unit wanted[] = {quantity::unit("s"), unit};
      for (std::size_t i = 0; i < 2; ++i) {
        const auto heading = heading_of(cells[i]);
        const auto found = quantity::unit_or_label(heading.unit);
        if (found.dimension != wanted[i].dimension || heading.unit.empty()) {
          report(cells[i].column, fmt::format("\"{}\"", cells[i].text),
                 fmt::format("the heading \"time [s],value [{}]\"", unit.symbol));
        }
        units.push_back(found);
      }
      continue;
    }
    double numbers[2] = {};
    try {
      for (std::size_t i = 0; i < 2; ++i)
        numbers[i] = quantity::parse_number(cells[i].text, units[i]);
    } catch (const quantity::NotationError& error) {
      report(1, error.problem, error.hint);
      continue;
    }
    if (!profile.times.empty() && numbers[0] <= profile.times.back()) {
      report(1, fmt::format("\"{}\"", cells[0].text), "times that rise");
    }
    profile.times.push_back(numbers[0]);
    profile.values.push_back(numbers[1]);
  }
  if (wrong.count() == 0 && profile.times.size() < 2) {
    wrong.add({}, "profile", fmt::format("{} rows", profile.times.size()),
              "two rows or more below a heading");
  }
  wrong.refuse_any();
  return profile;
}

}  // namespace tamlo::io
