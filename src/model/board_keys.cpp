// SPDX-License-Identifier: Apache-2.0
#include "tamlo/model/detail/board_keys.hpp"

#include <algorithm>

#include "findings.hpp"
#include "tamlo/error.hpp"

namespace tamlo::model {

void Place::add(std::string_view key, std::string problem, std::string hint,
                std::string code) const {
  findings.add(std::move(code), key.empty() ? path : path + "." + std::string(key),
               std::move(problem), std::move(hint));
}

const Key* Keys::find(std::string_view name) const {
  const auto found = std::ranges::find(keys, name, &Key::name);
  return found != keys.end() ? &*found : nullptr;
}

const Key& Keys::operator[](std::string_view name) const {
  if (const auto* key = find(name)) return *key;
  throw ArgumentError("no key " + std::string(name));
}

std::optional<quantity::Unit> unit_for(const Key& key, const quantity::Unit& span) {
  const auto difference = quantity::difference_unit(span);
  switch (key.unit) {
    case KeyUnit::fixed:
      return quantity::unit(key.symbol);
    case KeyUnit::span:
      return span;
    case KeyUnit::span_difference:
    case KeyUnit::span_square:
      return difference;
    case KeyUnit::volts_per_span:
      if (!difference.dimension.label.empty()) return {};
      return quantity::find_unit("V/" + difference.symbol);
    case KeyUnit::any:
      break;
  }
  return {};
}

}  // namespace tamlo::model
