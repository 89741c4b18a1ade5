// SPDX-License-Identifier: Apache-2.0
#include "help.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <sstream>

namespace tamlo::tool {
namespace {

constexpr std::size_t option_indent = 28, width = 80;

}  // namespace

std::string wrapped(const std::string& text, std::size_t indent) {
  std::istringstream words(text);
  std::string word, result;
  std::size_t column = indent;
  while (words >> word) {
    if (column > indent && column + 1 + word.size() > width) {
      result += "\n" + std::string(indent, ' ');
      column = indent;
    }
    if (column > indent) result += ' ';
    result += word;
    column += word.size() + 1;
  }
  return result;
}

const char* const exit_statuses =
    "Exit status: 0 done; 1 done, and a target or limit is missed; 2 bad input or\n"
    "usage; 3 the environment failed; 4 done, but incomplete: a\n"
    "record was damaged, a position was not taken, or values stopped coming\n";

void Help::add(std::string name, OptionText text, const std::vector<std::string>& choices) {
  if (groups_.empty()) group("Options");
  groups_.back().entries.push_back({std::move(name), std::move(text), choices});
}

std::vector<std::string> Help::names() const {
  std::vector<std::string> result;
  for (const auto& group : groups_) {
    for (const auto& entry : group.entries) result.push_back(entry.name);
  }
  return result;
}

std::string Help::text() const {
  auto result = fmt::format("{}\n\nUsage: tamlo {} {}{}[OPTIONS]\n", command_.question,
                            command_.name, usage, usage.empty() ? "" : " ");
  for (const auto& group : groups_) {
    result += fmt::format("\n{}\n", group.title);
    for (const auto& [name, text, choices] : group.entries) {
      auto left = fmt::format("  {}{}{}", name, text.value.empty() ? "" : " ", text.value);
      left.resize(std::max(option_indent, left.size() + 1), ' ');
      auto right = text.meaning;
      if (!choices.empty()) right += fmt::format(": {}", fmt::join(choices, ", "));
      if (!text.otherwise.empty()) right += fmt::format(" (default: {})", text.otherwise);
      result += left + wrapped(right, option_indent) + "\n";
    }
  }
  result += "\nExamples\n";
  for (const auto* example : command_.examples) result += fmt::format("  tamlo {}\n", example);
  return result + "\n" + exit_statuses;
}

}  // namespace tamlo::tool
