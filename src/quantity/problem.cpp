// SPDX-License-Identifier: Apache-2.0
#include "tamlo/problem.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "tamlo/quantity/detail/number.hpp"

namespace tamlo {
namespace {

// Long texts of the user are shown by their first bytes, cut between two characters.
std::string shown(std::string_view text, std::size_t most = 300) {
  if (text.size() <= most) return quantity::printable(text);
  auto end = most;
  while (end > 0 && (text[end] & '\xc0') == '\x80') --end;
  return quantity::printable(text.substr(0, end)) + fmt::format("... ({} bytes)", text.size());
}

// A problem that needs no "found" before it.
bool is_statement(std::string_view problem) {
  constexpr std::array starts{"no ", "unknown ", "missing ", "cannot ", "not ", "too "};
  return std::ranges::any_of(starts, [&](const char* start) { return problem.starts_with(start); });
}

}  // namespace

std::string sentence(std::string_view problem, std::string_view hint) {
  const auto text = shown(problem);
  if (hint.empty()) return text;
  const auto next = shown(hint, 4000);
  if (hint.starts_with("did you mean")) return fmt::format("{}: {}", text, next);
  if (is_statement(problem)) return fmt::format("{}: expected {}", text, next);
  return fmt::format("found {}, expected {}", text, next);
}

std::string to_string(const Problem& problem) {
  std::string place = quantity::printable(problem.file);
  if (problem.line > 0) place += fmt::format(":{}:{}", problem.line, problem.column);
  if (!problem.path.empty()) place += (place.empty() ? "" : ": ") + shown(problem.path);
  return fmt::format("{}: {}", place, sentence(problem.problem, problem.hint));
}

}  // namespace tamlo
