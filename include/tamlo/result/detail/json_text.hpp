// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>

#include "tamlo/result/results.hpp"

namespace tamlo::result {

/// A list of JSON of what `text` makes of each element.
template <class List, class Text>
std::string json_list(const List& list, Text text) {
  std::string result = "[";
  for (const auto& each : list) result += (result.size() > 1 ? "," : "") + text(each);
  return result + "]";
}

}  // namespace tamlo::result
