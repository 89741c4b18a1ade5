// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string_view>

namespace tamlo::link {

/// Without the blanks and the end of a line around it.
inline std::string_view trimmed(std::string_view text) {
  constexpr std::string_view blanks = " \t\r\n";
  const auto first = text.find_first_not_of(blanks);
  if (first == std::string_view::npos) return {};
  return text.substr(first, text.find_last_not_of(blanks) - first + 1);
}

}  // namespace tamlo::link
