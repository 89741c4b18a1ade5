// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>

namespace tamlo::tool {

/// A line as the typesetter of manual pages takes it: nothing begins a request, a minus stays one.
inline std::string roff(const std::string& line) {
  std::string result = line.starts_with('.') || line.starts_with('\'') ? "\\&" : "";
  for (const char c : line) {
    if (c == '\\') {
      result += "\\e";
    } else if (c == '-') {
      result += "\\-";
    } else {
      result += c;
    }
  }
  return result;
}

}  // namespace tamlo::tool
