// SPDX-License-Identifier: Apache-2.0
// How the table of keys leads through a board, to validate it and to list its keys.
#pragma once

#include <algorithm>
#include <string>
#include <vector>

#include "tamlo/model/board.hpp"
#include "tamlo/model/detail/board_keys.hpp"

namespace tamlo::model {

// The table is written for readers, which fill what it names; here nothing is changed.
inline void* unchanged(const void* object) { return const_cast<void*>(object); }

// The kind that a variant holds; nullptr for none of these.
inline const Kind* kind_of(const std::vector<Kind>& kinds, const void* variant) {
  const auto kind = std::ranges::find_if(
      kinds, [&](const Kind& candidate) { return candidate.held(variant) != nullptr; });
  return kind != kinds.end() ? &*kind : nullptr;
}

// A sensor or a part has its kind as a table, but for a curve, whose keys stand in the sensor's.
inline std::string path_of(const Kind& kind) {
  return kind.name == "table" ? "" : "." + std::string(kind.name);
}

inline std::string path_of_part(std::size_t number) {
  return "frontend[" + std::to_string(number) + "]";
}

// The only filter needs no number.
inline std::string path_of_filter(const Channel& channel, std::size_t number) {
  return channel.filter.size() == 1 ? "filter" : "filter[" + std::to_string(number) + "]";
}

}  // namespace tamlo::model
