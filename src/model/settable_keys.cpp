// SPDX-License-Identifier: Apache-2.0
// The keys that a board has or may have, by the table of keys.
#include "tamlo/model/board.hpp"
#include "tamlo/model/detail/board_keys.hpp"
#include "walk.hpp"

namespace tamlo::model {
namespace {

using Names = std::vector<std::string>;

// A table that is not there has its keys all the same; of arrays and entries those that are there.
void add_keys(const Keys& keys, const void* object, const std::string& path, Names& names) {
  for (const auto& key : keys.keys) {
    if (key.name == "*") continue;
    const auto own = path + "." + std::string(key.name);
    const auto& inner = key.inner;
    if (inner.keys == nullptr) {
      names.push_back(own);
      continue;
    }
    if (key.by_hand) names.push_back(own);  // such as average = 64, in place of a table
    const auto count = object != nullptr && inner.size != nullptr ? inner.size(object) : 0;
    if (key.form != KeyForm::tables && key.form != KeyForm::entries) {
      add_keys(inner.keys(), count > 0 ? inner.at(unchanged(object), 0) : nullptr, own, names);
      continue;
    }
    for (std::size_t i = 0; i < count; ++i) {
      const auto* element = inner.at(unchanged(object), i);
      add_keys(inner.keys(), element,
               inner.name != nullptr ? own + "." + inner.name(element)
                                     : own + "[" + std::to_string(i) + "]",
               names);
    }
  }
}

void add_kind(const std::vector<Kind>& kinds, const void* variant, const std::string& path,
              bool named, Names& names) {
  const auto* kind = kind_of(kinds, variant);
  if (kind == nullptr) return;
  add_keys(kind->keys(), kind->held(variant), named ? path + path_of(*kind) : path, names);
}

void add_channel(const Channel& channel, Names& names) {
  const auto path = "channel." + channel.name;
  add_keys(channel_keys(), &channel, path, names);
  if (channel.sensor) add_kind(sensor_kinds(), &*channel.sensor, path + ".sensor", true, names);
  for (std::size_t i = 0; i < channel.frontend.size(); ++i) {
    add_kind(part_kinds(), &channel.frontend[i], path + "." + path_of_part(i), true, names);
  }
  for (std::size_t i = 0; i < channel.filter.size(); ++i) {
    add_kind(filter_kinds(), &channel.filter[i], path + "." + path_of_filter(channel, i), false,
             names);
  }
}

template <class Named>
void add_section(const char* section, const std::vector<Named>& all, const Keys& keys,
                 Names& names) {
  for (const auto& each : all) {
    add_keys(keys, &each, std::string(section) + "." + each.name, names);
  }
}

}  // namespace

std::vector<std::string> settable_keys(const Board& board) {
  Names names;
  add_keys(conditions_keys(), &board.conditions, "conditions", names);
  add_section("reference", board.references, reference_keys(), names);
  add_section("converter", board.converters, converter_keys(), names);
  for (const auto& channel : board.channels) add_channel(channel, names);
  add_section("quantity", board.quantities, quantity_keys(), names);
  add_section("meter", board.meters, meter_keys(), names);
  add_section("link", board.links, link_keys(), names);
  add_section("source", board.sources, source_keys(), names);
  return names;
}

}  // namespace tamlo::model
