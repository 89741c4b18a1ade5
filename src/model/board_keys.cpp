// SPDX-License-Identifier: Apache-2.0
// The keys that a board has or may have, by the table of keys, and their values.
#include "tamlo/model/detail/board_keys.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <concepts>
#include <functional>

#include "findings.hpp"
#include "tamlo/error.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/quantity/detail/number.hpp"
#include "walk.hpp"

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

namespace {

using quantity::toml_quoted;

// Takes a key with its path and the struct that has it, nullptr where that is not there.
using Take = std::function<void(const std::string& path, const Key& key, const void* object,
                                const quantity::Unit& span)>;

// How names of the user's own stand in a path.
using Named = std::string (*)(std::string_view name);
std::string as_it_is(std::string_view name) { return std::string(name); }

// Leads through the keys of a board; of a channel, whose values may be in the unit of its span.
struct Way {
  const Take& take;
  Named in_path = nullptr;
  quantity::Unit span{};

  // A table that is not there has its keys all the same; of arrays and entries those that are
  // there.
  void keys(const Keys& all, const void* object, const std::string& path) const {
    for (const auto& key : all.keys) {
      if (key.name == "*") continue;
      const auto own = path + "." + std::string(key.name);
      const auto& inner = key.inner;
      if (inner.keys == nullptr || key.by_hand) take(own, key, object, span);
      if (inner.keys == nullptr) continue;
      const auto count = object != nullptr && inner.size != nullptr ? inner.size(object) : 0;
      if (key.form != KeyForm::tables && key.form != KeyForm::entries) {
        keys(inner.keys(), count > 0 ? inner.at(unchanged(object), 0) : nullptr, own);
        continue;
      }
      for (std::size_t i = 0; i < count; ++i) {
        const auto* element = inner.at(unchanged(object), i);
        keys(inner.keys(), element,
             inner.name != nullptr ? own + "." + in_path(inner.name(element))
                                   : own + "[" + std::to_string(i) + "]");
      }
    }
  }

  void kind(const std::vector<Kind>& kinds, const void* variant, const std::string& path,
            bool named) const {
    const auto* found = kind_of(kinds, variant);
    if (found == nullptr) return;
    keys(found->keys(), found->held(variant), named ? path + path_of(*found) : path);
  }

  void channel(const Channel& channel) const {
    const auto path = "channel." + in_path(channel.name);
    keys(channel_keys(), &channel, path);
    if (channel.sensor) kind(sensor_kinds(), &*channel.sensor, path + ".sensor", true);
    for (std::size_t i = 0; i < channel.frontend.size(); ++i)
      kind(part_kinds(), &channel.frontend[i], path + "." + path_of_part(i), true);
    for (std::size_t i = 0; i < channel.filter.size(); ++i)
      kind(filter_kinds(), &channel.filter[i], path + "." + path_of_filter(channel, i), false);
  }
};

void for_each_key(const Board& board, Named named, const Take& take) {
  const Way way{.take = take, .in_path = named};
  const auto section = [&](const char* name, const auto& all, const Keys& keys) {
    for (const auto& each : all) way.keys(keys, &each, std::string(name) + "." + named(each.name));
  };
  way.keys(conditions_keys(), &board.conditions, "conditions");
  section("reference", board.references, reference_keys());
  section("converter", board.converters, converter_keys());
  for (const auto& channel : board.channels)
    Way{.take = take, .in_path = named, .span = channel.span.unit}.channel(channel);
  section("quantity", board.quantities, quantity_keys());
  section("meter", board.meters, meter_keys());
  section("link", board.links, link_keys());
  section("source", board.sources, source_keys());
}

// The value that a member has, as a file says it; empty for none, and for what is no single value.
struct InFile {
  const Key& key;
  const quantity::Unit& span;

  std::string operator()(double* number) const {
    if (!std::isfinite(*number)) return "";
    if (key.form == KeyForm::number) return fmt::format("{}", *number);
    const auto unit = unit_for(key, span);
    if (!unit) return "";
    return toml_quoted(quantity::to_string(quantity::Value{.nominal = *number, .unit = *unit}));
  }
  std::string operator()(quantity::Value* value) const {
    return value->nominal || !value->limits.empty() ? toml_quoted(quantity::to_string(*value)) : "";
  }
  std::string operator()(quantity::Range* range) const {
    return toml_quoted(quantity::to_string(*range));
  }
  std::string operator()(quantity::Limit* limit) const {
    return toml_quoted(quantity::to_string(*limit));
  }
  std::string operator()(std::string* text) const {
    return text->empty() ? "" : toml_quoted(*text);
  }
  std::string operator()(bool* flag) const { return *flag ? "true" : "false"; }
  std::string operator()(std::uint8_t* word) const {
    const auto at = static_cast<std::size_t>(*word) - key.first_word;
    return at < key.words.size() ? toml_quoted(key.words[at]) : "";
  }
  template <std::integral Number>
  std::string operator()(Number* number) const {
    return fmt::format("{}", *number);
  }
  template <class T>
  std::string operator()(std::optional<T>* member) const {
    return *member ? (*this)(&**member) : "";
  }
  template <class T>
  std::string operator()(std::vector<T>*) const {
    return "";
  }
  std::string operator()(std::monostate) const { return ""; }
};

std::vector<std::pair<std::string, std::string>> values_of(const Board& board) {
  std::vector<std::pair<std::string, std::string>> result;
  for_each_key(
      board, quantity::toml_key,
      [&](const std::string& path, const Key& key, const void* object, const quantity::Unit& span) {
        const bool held = object != nullptr && key.slot != nullptr && !key.by_hand;
        result.emplace_back(path, held ? std::visit(InFile{key, span}, key.slot(unchanged(object)))
                                       : std::string());
      });
  return result;
}

}  // namespace

std::vector<std::string> settable_keys(const Board& board) {
  std::vector<std::string> names;
  for_each_key(board, as_it_is,
               [&](const std::string& path, const Key&, const void*, const quantity::Unit&) {
                 names.push_back(path);
               });
  return names;
}

std::vector<std::string> settings_between(const Board& before, const Board& after) {
  const auto old_values = values_of(before), new_values = values_of(after);
  std::vector<std::string> result;
  if (old_values.size() != new_values.size()) return result;
  for (std::size_t i = 0; i < old_values.size(); ++i) {
    const auto& [path, value] = new_values[i];
    if (old_values[i].first != path) return {};
    if (old_values[i].second == value) continue;
    if (value.empty()) return {};
    // A count stands in place of a time.
    constexpr std::string_view count = ".average.count";
    const auto key = path.ends_with(count) ? path.substr(0, path.size() - 6) : path;
    result.push_back(key + "=" + value);
  }
  return result;
}

}  // namespace tamlo::model
