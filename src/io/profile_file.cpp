// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/detail/profile_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "csv.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/quantity/notation.hpp"

namespace tamlo::io {

double Profile::at(double seconds) const {
  const auto after = std::ranges::upper_bound(times, seconds);
  if (after == times.begin()) return values.front();
  if (after == times.end()) return values.back();
  const auto i = static_cast<std::size_t>(after - times.begin());
  return std::lerp(values[i - 1], values[i], (seconds - times[i - 1]) / (times[i] - times[i - 1]));
}

Profile load_profile(const std::string& path, const quantity::Unit& unit) {
  Profile profile;
  std::vector<Problem> wrong;
  const auto text = read_file(path);
  TextLines lines(text);
  std::vector<quantity::Unit> units;
  for (std::string_view line; lines.next(line);) {
    const auto cells = split(line);
    const auto report = [&](std::size_t column, std::string found, std::string allowed) {
      wrong.push_back({.file = path,
                       .line = lines.number(),
                       .column = column,
                       .path = "profile",
                       .problem = std::move(found),
                       .hint = std::move(allowed)});
    };
    if (cells.size() != 2) {
      report(1, fmt::format("{} cells", cells.size()), "two: a time and a value");
      continue;
    }
    if (units.empty()) {
      const quantity::Unit wanted[] = {quantity::unit("s"), unit};
      for (std::size_t i = 0; i < 2; ++i) {
        const auto heading = heading_of(cells[i]);
        const auto found =
            quantity::find_unit(heading.unit).value_or(quantity::label_unit(heading.unit));
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
  if (wrong.empty() && profile.times.size() < 2) {
    wrong.push_back({.file = path,
                     .line = 1,
                     .column = 1,
                     .path = "profile",
                     .problem = fmt::format("{} rows", profile.times.size()),
                     .hint = "two rows or more below a heading"});
  }
  if (!wrong.empty()) throw BadInput(std::move(wrong));
  return profile;
}

}  // namespace tamlo::io
