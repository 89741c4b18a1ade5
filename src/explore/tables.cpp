// SPDX-License-Identifier: Apache-2.0
#include "tables.hpp"

#include <algorithm>
#include <array>
#include <string_view>
#include <vector>

#include "tamlo/chain/detail/timing.hpp"
#include "tamlo/error.hpp"
#include "tamlo/explore/detail/dependence.hpp"

namespace tamlo::explore {
namespace {

// None for a name with a quote or an escape inside: what it is about is not known.
std::vector<std::string_view> parts_of(std::string_view key) {
  std::vector<std::string_view> parts;
  while (!key.empty()) {
    if (const char quote = key.front(); quote == '"' || quote == '\'') {
      const auto end = key.find(quote, 1);
      if (end == std::string_view::npos || key.substr(0, end).find('\\') != std::string_view::npos)
        return {};
      parts.push_back(key.substr(1, end - 1));
      key.remove_prefix(std::min(key.size(), end + 2));
      continue;
    }
    const auto end = key.find_first_of(".[");
    parts.push_back(key.substr(0, end));
    key.remove_prefix(end == std::string_view::npos ? key.size() : end + 1);
  }
  return parts;
}

// What is done with a channel's codes behind the converter, and what is asked of them.
bool behind_converter(std::string_view key) {
  constexpr std::array keys{"average", "filter",   "target",       "scaling",      "correction",
                            "zones",   "measures", "interference", "adjusted_with"};
  return std::ranges::find(keys, key) != keys.end();
}

}  // namespace

bool reorders(const std::string& key) {
  const auto parts = parts_of(key);
  if (parts.empty()) return true;
  const auto among = [&](std::string_view what) { return parts.size() < 3 || parts[2] == what; };
  return (parts.front() == "converter" && (among("scan") || among("sampling_capacitor"))) ||
         (parts.front() == "channel" && among("converter"));
}

bool may_change(const std::string& key, const model::Board& board, const model::Channel& channel) {
  const auto parts = parts_of(key);
  if (parts.size() < 2) return true;
  const auto section = parts[0], name = parts[1];
  if (section == "board" || section == "link" || section == "source" || section == "quantity")
    return false;
  if (section == "converter") {
    // A channel may be put on another converter.
    return channel.converter == name || parts.size() == 2;
  }
  if (section != "channel") return true;
  if (name == channel.name || parts.size() == 2) return true;
  // Of another channel: what it does to the converter's time, and to who is converted after it.
  const auto* other = model::find(board.channels, name);
  const auto what = parts[2];
  if (what == "converter") return true;
  if (other == nullptr || other->converter != channel.converter) return false;
  if (behind_converter(what)) return false;
  if (what == "rate" || what == "sampling" || what == "input") return true;
  // What is left of another's voltage is that of the one before, in a capacitor.
  const auto* converter = model::find(board.converters, channel.converter);
  if (converter == nullptr || !converter->sampling_capacitor) return false;
  return chain::before_in_scan(chain::timing(board, *converter, channel), channel.name) == name;
}

namespace {

constexpr std::uint64_t most_combinations = std::uint64_t{1} << 22U;
// Long enough to be worth a message to another machine, short enough to wait for.
constexpr std::uint64_t block_size = 4;

ChannelTable table_of(const Space& space, const model::Board& board, const std::string& name) {
  std::vector<const model::Channel*> channels;
  if (const auto* quantity = model::find(board.quantities, name)) {
    // Another formula may have other channels.
    const bool other_formula = std::ranges::any_of(space.choices, [&](const Choice& choice) {
      return std::ranges::find(choice.keys, "quantity." + name + ".is") != choice.keys.end();
    });
    const auto used = model::channels_of(board, *quantity);
    for (const auto& channel : board.channels) {
      if (other_formula || std::ranges::find(used, channel.name) != used.end())
        channels.push_back(&channel);
    }
  } else {
    channels.push_back(model::find(board.channels, name));
    require(channels.front() != nullptr, "a channel or a quantity of the board");
  }
  // A channel, or one of those of a quantity, or the quantity itself.
  const auto depends = [&](const std::string& key) {
    return key.starts_with("quantity." + name + ".") ||
           std::ranges::any_of(
               channels, [&](const auto* channel) { return may_change(key, board, *channel); });
  };
  ChannelTable table{.channel = name, .stride = std::vector<std::size_t>(space.choices.size(), 0)};
  // Where their order may change, every channel depends on all.
  const bool any_order = std::ranges::any_of(space.choices, [](const Choice& choice) {
    return std::ranges::any_of(choice.keys, reorders);
  });
  std::uint64_t combinations = 1;
  for (std::size_t i = space.choices.size(); i-- > 0;) {
    const auto& keys = space.choices[i].keys;
    const bool changes = (any_order && !keys.empty()) || std::ranges::any_of(keys, depends);
    if (!changes) continue;
    table.stride[i] = static_cast<std::size_t>(combinations);
    table.depends.insert(table.depends.begin(), i);
    combinations *= space.choices[i].options.size();
    require(combinations <= most_combinations,
            "at most 2^22 combinations of the choices that one channel depends on");
  }
  table.figures.resize(static_cast<std::size_t>(combinations));
  return table;
}

}  // namespace

std::size_t ChannelTable::index_of(const std::vector<std::size_t>& pick) const {
  std::size_t at = 0;
  for (const auto i : depends) at += stride[i] * pick[i];
  return at;
}

Pick ChannelTable::pick_of(const Space& space, std::size_t combination) const {
  Pick pick(space.choices.size());
  for (const auto i : depends) pick[i] = combination / stride[i] % space.choices[i].options.size();
  return pick;
}

std::vector<ChannelTable> tables_of(const Space& space, const model::Board& board) {
  std::vector<ChannelTable> tables;
  for (const auto& channel : space.channels) tables.push_back(table_of(space, board, channel));
  return tables;
}

bool fill(std::vector<ChannelTable>& tables, const Space& space, const BoardOf& board,
          const math::BlockDriver& driver, const std::function<bool(double)>& go_on) {
  std::uint64_t all = 0;
  // Small ones first: a candidate is tried once it is in all tables.
  std::vector<ChannelTable*> order;
  for (auto& table : tables) order.push_back(&table), all += table.figures.size();
  std::ranges::stable_sort(order, {}, [](const auto* table) { return table->figures.size(); });
  // The combination that stands at a number, as all tables are counted through.
  const auto each = [&](std::uint64_t block, const auto& visit) {
    const auto last = std::min((block + 1) * block_size, all);
    for (auto number = block * block_size; number < last; ++number) {
      auto at = number;
      auto table = order.begin();
      while (at >= (*table)->figures.size()) at -= (*table++)->figures.size();
      visit(**table, static_cast<std::size_t>(at));
    }
  };
  const auto work = [&](std::uint64_t block) {
    std::vector<double> figures;
    each(block, [&](const ChannelTable& table, std::size_t at) {
      figures_of(space, board, table.pick_of(space, at), table.channel).pack(figures);
    });
    return figures;
  };
  const auto take = [&](std::uint64_t block, const std::vector<double>& figures) {
    const auto count = std::min(block_size, all - block * block_size);
    require(figures.size() == count * Figures::packed, "figures of another search");
    const double* from = figures.data();
    each(block, [&](ChannelTable& table, std::size_t at) {
      table.figures[at] = Figures::unpack(from);
      from += Figures::packed;
    });
  };
  return driver(
      {.count = (all + block_size - 1) / block_size, .work = work, .take = take, .go_on = go_on});
}

}  // namespace tamlo::explore
