// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <algorithm>
#include <cstddef>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/export.hpp"

namespace tamlo TAMLO_API {

/// Returns the name of a value of an enumeration that counts from 0, out of those of all values;
/// an empty text for a number beyond them.
template <class E, std::size_t n>
constexpr std::string_view name_in(const char* const (&names)[n], E value) {
  const auto at = static_cast<std::size_t>(value);
  return at < n ? std::string_view(names[at]) : std::string_view();
}

/// The names of an enumeration whose values count from 0, in their order. Its name() is the one
/// table: what is printed, read, offered in a help and written to JSON comes from there.
template <class E>
std::vector<std::string> names_of() {
  std::vector<std::string> names;
  for (int i = 0;; ++i) {
    const std::string next(name(static_cast<E>(i)));
    if (next.empty() || std::ranges::find(names, next) != names.end()) return names;
    names.push_back(next);
  }
}

/// The value that is called so; none for another text.
template <class E>
std::optional<E> named(std::string_view text) {
  const auto names = names_of<E>();
  const auto at = std::ranges::find(names, text);
  if (at == names.end()) return {};
  return static_cast<E>(at - names.begin());
}

}  // namespace tamlo
