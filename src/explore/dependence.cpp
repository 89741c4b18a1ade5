// SPDX-License-Identifier: Apache-2.0
#include "tamlo/explore/detail/dependence.hpp"

#include <algorithm>
#include <array>
#include <string_view>
#include <vector>

#include "tamlo/chain/detail/timing.hpp"

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

}  // namespace tamlo::explore
