// SPDX-License-Identifier: Apache-2.0
#include "toml_text.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cctype>

namespace tamlo::io {

std::string listed(const std::vector<double>& numbers) {
  std::vector<std::string> texts;
  for (const double x : numbers) {
    auto text = fmt::format("{}", x);
    // TOML tells an integer from a number by its point.
    if (text.find_first_of(".en") == std::string::npos) text += ".0";
    texts.push_back(std::move(text));
  }
  return fmt::format("[{}]", fmt::join(texts, ", "));
}

}  // namespace tamlo::io
