// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cmath>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "tamlo/quantity/notation.hpp"
#include "tamlo/version.hpp"

// What every document is put together from.
namespace tamlo::io {

using Json = nlohmann::ordered_json;

inline Json finite(double x) { return std::isfinite(x) ? Json(x) : Json(nullptr); }

// Figures of a channel in its own unit.
class InUnit {
 public:
  explicit InUnit(const quantity::Unit& unit)
      : unit_(unit), difference_(quantity::difference_unit(unit)) {}

  Json value(double si) const { return finite(quantity::in_unit(si, unit_)); }
  Json difference(double si) const { return finite(quantity::in_unit(si, difference_)); }
  const std::string& symbol() const { return unit_.symbol; }

 private:
  quantity::Unit unit_, difference_;
};

template <class T>
Json or_null(const std::optional<T>& value) {
  return value ? Json(*value) : Json(nullptr);
}

inline Json head(const char* command) {
  return {{"format", 1}, {"command", command}, {"tamlo", tamlo::version}};
}

// Bytes that are no text, as in a name of a file, lose nobody a result.
inline std::string document(const Json& result) {
  return result.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

inline std::string document(const char* command, std::vector<Json> channels) {
  Json result = head(command);
  if (channels.size() == 1) {
    result.update(channels.front());
  } else {
    result["channels"] = std::move(channels);
  }
  return document(result);
}

template <class Item, class Function>
std::vector<Json> each(const std::vector<Item>& items, Function function) {
  std::vector<Json> result;
  for (const auto& item : items) result.push_back(function(item));
  return result;
}

}  // namespace tamlo::io
