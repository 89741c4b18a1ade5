// SPDX-License-Identifier: Apache-2.0
// Entries that hold others: arrays, tables, and tables by the user's own names.
#include <fmt/format.h>

#include <algorithm>

#include "field.hpp"

namespace tamlo::io {

namespace {
constexpr std::size_t most_entries = 1000;
}  // namespace

std::vector<double> Fields::numbers(const std::string& key, const Bounds& bounds,
                                    std::size_t most) {
  std::vector<double> result;
  const auto* node = find(key);
  if (node == nullptr) return result;
  const auto* array = node->as_array();
  if (array != nullptr && array->size() > most) {
    report_at(*node, key, fmt::format("{} numbers", array->size()),
              fmt::format("at most {}", most));
    return {};
  }
  const auto sound = [&](const toml::node& element) {
    const auto value = element.value<double>();
    if (element.is_number() && value && bounds.hold(*value)) result.push_back(*value);
    return element.is_number() && value && bounds.hold(*value);
  };
  if (array != nullptr && !array->empty() && std::all_of(array->begin(), array->end(), sound)) {
    return result;
  }
  report_at(*node, key, describe(*node),
            fmt::format("an array of {}", bounds.text.empty() ? "numbers" : bounds.text));
  return {};
}

std::vector<std::string> Fields::texts(const std::string& key) {
  std::vector<std::string> result;
  const auto* node = find(key);
  if (node == nullptr) return result;
  if (const auto* array = node->as_array(); array != nullptr && array->size() > most_entries) {
    report_at(*node, key, fmt::format("{} texts", array->size()),
              fmt::format("at most {}", most_entries));
    return {};
  } else if (array != nullptr) {
    for (const auto& each : *array) {
      if (const auto text = each.value<std::string>(); each.is_string() && text)
        result.push_back(*text);
    }
    if (!array->empty() && result.size() == array->size()) return result;
  }
  report_at(*node, key, describe(*node), "an array of texts: [\"a\", \"b\"]");
  return {};
}

std::vector<double> Fields::values(const std::string& key, const quantity::Unit& unit) {
  std::vector<double> result;
  for (const auto& text : texts(key)) {
    try {
      const auto value = quantity::parse_value(text, {.unit = unit});
      if (!value.limits.empty() || !value.nominal) {
        report(key, fmt::format("\"{}\"", text), "values without limits");
        return {};
      }
      result.push_back(*value.nominal);
    } catch (const quantity::NotationError& error) {
      report(key, fmt::format("{} in \"{}\"", error.problem, text), error.hint);
      return {};
    }
  }
  return result;
}

std::optional<Fields> Fields::table(const std::string& key) {
  const auto* node = find(key);
  if (node == nullptr) return {};
  if (const auto* inner = node->as_table()) {
    return Fields(*inner, full(key), *into_, *texts_);
  }
  report_at(*node, key, describe(*node), "a table");
  return {};
}

std::vector<Fields> Fields::tables(const std::string& key) {
  std::vector<Fields> result;
  const auto* node = find(key);
  if (node == nullptr) return result;
  const auto* array = node->as_array();
  if (array == nullptr) {
    report_at(*node, key, describe(*node), "an array of tables: [ { ... }, { ... } ]");
    return result;
  }
  for (std::size_t i = 0; i < array->size(); ++i) {
    const auto path = fmt::format("{}[{}]", key, i);
    if (const auto* inner = array->get(i)->as_table()) {
      result.emplace_back(*inner, full(path), *into_, *texts_);
    } else {
      report_at(*array->get(i), path, describe(*array->get(i)), "a table in braces");
    }
  }
  return result;
}

std::vector<std::string> Fields::keys() const {
  std::vector<std::pair<toml::source_position, std::string>> places;
  for (const auto& [key, node] : *table_) {
    places.emplace_back(key.source().begin, std::string(key.str()));
  }
  std::ranges::stable_sort(places, [](const auto& a, const auto& b) { return a.first < b.first; });
  std::vector<std::string> result;
  for (auto& [place, name] : places) result.push_back(std::move(name));
  return result;
}

std::vector<std::pair<std::string, Fields>> Fields::entries(const std::string& key) {
  std::vector<std::pair<std::string, Fields>> result;
  auto outer = table(key);
  if (!outer) return result;
  if (outer->table_->size() > most_entries) {
    report(key, fmt::format("{} of them", outer->table_->size()),
           fmt::format("at most {}", most_entries));
    return result;
  }
  for (const auto& [name, node] : *outer->table_) {
    const std::string inner(name.str());
    auto found = outer->table(inner);
    if (!found) continue;
    result.emplace_back(inner, *std::move(found));
  }
  std::ranges::stable_sort(result, [](const auto& a, const auto& b) {
    const auto& first = a.second.table_->source();
    const auto& second = b.second.table_->source();
    return first.begin.line < second.begin.line;
  });
  return result;
}

}  // namespace tamlo::io
