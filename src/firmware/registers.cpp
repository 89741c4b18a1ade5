// SPDX-License-Identifier: Apache-2.0
#include "tamlo/firmware/registers.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>

#include "tamlo/error.hpp"

namespace tamlo::firmware {
namespace {

// A whole number of the field's, or why there is none.
struct Encoded {
  std::uint64_t value = 0;
  std::string problem{};
};

Encoded by_formula(const Formula& formula, double setting) {
  const double exact = formula.of(setting);
  // The digits of a third of a rate end somewhere.
  const double rest = std::min(1e-9 + 1e-7 * std::abs(exact), 1e-3);
  if (exact > -0.5 && exact < 9e15 && std::abs(exact - std::round(exact)) < rest) {
    return {.value = static_cast<std::uint64_t>(std::llround(exact))};
  }
  std::vector<std::string> possible;
  const double below = std::isfinite(exact) ? std::max(0.0, std::floor(exact)) : 0.0;
  for (const double number : {below, below + 1.0}) {
    const double near = formula.back(number);
    if (std::isfinite(near)) possible.push_back(fmt::format("{:g}", near));
  }
  return {.problem = fmt::format("the field can have {}", fmt::join(possible, " or "))};
}

Encoded encode(const RegisterField& field, const std::string& setting) {
  Encoded result;
  if (!field.when.empty()) {
    const auto at =
        std::ranges::find(field.when, setting, &std::pair<std::string, std::uint64_t>::first);
    if (at != field.when.end()) return {.value = at->second};
    std::vector<std::string> possible;
    for (const auto& [name, value] : field.when) possible.push_back(name);
    return {.problem = fmt::format("the field can have {}", fmt::join(possible, ", "))};
  }
  char* end = nullptr;
  const double number = std::strtod(setting.c_str(), &end);
  if (setting.empty() || *end != '\0') {
    return {.problem = "the field has numbers alone; give it a table: when = { name = 1 }"};
  }
  result = by_formula(field.formula.value_or(Formula{}), number);
  if (result.problem.empty() && result.value > field.largest()) {
    result.problem =
        fmt::format("{} needs more than the {} bits of the field", result.value, field.bits());
  }
  return result;
}

// The setting that a number in the field stands for; none where it stands for none.
std::optional<std::string> decode(const RegisterField& field, std::uint64_t value) {
  for (const auto& [name, code] : field.when) {
    if (code == value) return name;
  }
  if (!field.when.empty()) return {};
  const double setting = field.formula.value_or(Formula{}).back(static_cast<double>(value));
  if (!std::isfinite(setting)) return {};
  return fmt::format("{:.10g}", setting);
}

// The channel that a field is about: its own, or the one at an input of the converter.
const model::Channel* channel_of(const RegisterField& field, const model::Board& board,
                                 const model::Channel& channel) {
  if (!field.input) return &channel;
  for (const auto& other : board.channels) {
    if (other.converter == channel.converter && other.input == *field.input) return &other;
  }
  return nullptr;
}

// What the board says of it.
std::optional<Setting> said_of(const RegisterField& field, const model::Board& board,
                               const model::Channel* about) {
  return about != nullptr ? setting(board, *about, field.of) : std::nullopt;
}

const model::Channel& channel_named(const model::Board& board, std::string_view name) {
  const auto* channel = model::find(board.channels, name);
  require(channel != nullptr, "a channel of the board");
  return *channel;
}

std::string quoted_setting(const Setting& setting) {
  return fmt::format("{} = {}", setting.key, setting.value);
}

// One field's number; problems are added to those of the channel.
FieldWord word_of(const RegisterField& field, const std::string& where, const model::Board& board,
                  const model::Channel& channel, std::uint64_t reset,
                  std::vector<std::string>& problems) {
  FieldWord word{.name = field.name, .low = field.low, .high = field.high};
  if (field.value) {
    word.value = *field.value;
    word.from = "constant";
    return word;
  }
  const auto* about = channel_of(field, board, channel);
  const auto reply = said_of(field, board, about);
  if (!reply) {
    const bool unused = about == nullptr;  // nothing is connected there
    word.value = field.otherwise.value_or((reset >> field.low) & field.largest());
    word.from = unused ? fmt::format("nothing at input {}", *field.input) : "not in the board";
    if (!unused && !field.otherwise) {
      problems.push_back(fmt::format("{}: the board does not say {}", where, field.of));
    }
    return word;
  }
  const auto encoded = encode(field, reply->value);
  word.value = encoded.value;
  word.from = quoted_setting(*reply);
  if (about != &channel) word.from += fmt::format(" of {}", about->name);
  if (!encoded.problem.empty()) {
    problems.push_back(fmt::format("{}: {}: {}", where, quoted_setting(*reply), encoded.problem));
  }
  return word;
}

}  // namespace

double Formula::of(double setting) const {
  return (setting * static_cast<double>(times) + static_cast<double>(plus)) /
         (setting * static_cast<double>(per) + static_cast<double>(over));
}

double Formula::back(double number) const {
  return (number * static_cast<double>(over) - static_cast<double>(plus)) /
         (static_cast<double>(times) - number * static_cast<double>(per));
}

ChannelWords words_of(const RegisterMap& map, const model::Board& board, std::string_view name) {
  const auto& channel = channel_named(board, name);
  ChannelWords result{
      .channel = channel.name, .converter = map.converter, .word_bits = map.word_bits};
  std::vector<std::string> expressed;
  for (const auto& entry : map.registers) {
    RegisterWord word{.name = entry.name,
                      .address = entry.address,
                      .word_bits = map.word_bits,
                      .words = entry.words,
                      .high_first = entry.high_first,
                      .value = entry.reset,
                      .first = entry.first};
    for (const auto& field : entry.fields) {
      expressed.push_back(field.of);
      const auto where = entry.name + "." + field.name;
      word.fields.push_back(word_of(field, where, board, channel, entry.reset, result.problems));
      const auto place = field.largest() << field.low;
      word.value = (word.value & ~place) | ((word.fields.back().value << field.low) & place);
      if (!field.clears_itself) word.kept |= place;
      word.changes |= place;
    }
    if (entry.as_found) {
      word.value &= word.changes;
    } else {
      word.changes = low_bits(word.words * word.word_bits);
    }
    result.registers.push_back(std::move(word));
  }
  for (auto& setting : settings(board, channel)) {
    const bool in_map = std::ranges::find(expressed, setting.key) != expressed.end();
    if (!in_map) result.elsewhere.push_back(std::move(setting));
  }
  return result;
}

std::vector<AddressedWord> words_of(const RegisterWord& word) {
  std::vector<AddressedWord> result;
  for (const auto value : word.first) {
    result.push_back(
        {.address = word.address, .value = value, .changes = low_bits(word.word_bits)});
  }
  for (int i = 0; i < word.words; ++i) {
    const int place = (word.high_first ? word.words - 1 - i : i) * word.word_bits;
    const auto part = [&](std::uint64_t bits) {
      return (bits >> place) & low_bits(word.word_bits);
    };
    result.push_back({.address = word.address + static_cast<std::uint64_t>(i),
                      .value = part(word.value),
                      .kept = part(word.kept),
                      .changes = part(word.changes)});
  }
  return result;
}

std::string in_hex(std::uint64_t value, int bits) {
  return fmt::format("0x{:0{}X}", value, bits / 4);
}

std::string in_binary(std::uint64_t value, int bits, std::uint64_t changes) {
  std::string result;
  for (int bit = bits - 1; bit >= 0; --bit) {
    result += ((changes >> bit) & 1) == 0 ? '-' : ((value >> bit) & 1) != 0 ? '1' : '0';
    if (bit > 0 && bit % 4 == 0) result += ' ';
  }
  return result;
}

namespace {

// A register put together from a dump; none where words of it are missing.
std::optional<std::uint64_t> value_in(const Register& entry, const Dump& dump, int word_bits) {
  std::uint64_t value = 0;
  for (int i = 0; i < entry.words; ++i) {
    const auto at = dump.find(entry.address + static_cast<std::uint64_t>(i));
    if (at == dump.end()) return {};
    const int place = entry.high_first ? entry.words - 1 - i : i;
    value |= (at->second & low_bits(word_bits)) << (place * word_bits);
  }
  return value;
}

void compare_reserved(const Register& entry, std::uint64_t value, int bits, FoundSettings& result) {
  auto reserved = low_bits(bits);
  for (const auto& field : entry.fields) reserved &= ~(field.largest() << field.low);
  if (reserved == 0 || entry.as_found) return;
  const auto wanted = entry.reset & reserved, found = value & reserved;
  if (wanted == found) return;
  result.settings.push_back({.field = entry.name + ": reserved bits",
                             .wanted = fmt::format("{:#x}", wanted),
                             .found = fmt::format("{:#x}", found),
                             .differs = true});
}

FoundSetting found_in(const RegisterField& field, const std::string& where, std::uint64_t value,
                      const model::Board& board, const model::Channel& channel) {
  FoundSetting result{.field = where, .key = field.of};
  if (field.value) {
    result.wanted = fmt::format("{}", *field.value);
    result.found = fmt::format("{}", value);
    result.differs = value != *field.value;
    return result;
  }
  const auto* about = channel_of(field, board, channel);
  const auto reply = said_of(field, board, about);
  if (about != nullptr && field.of.starts_with("channel.")) result.channel = about->name;
  if (reply) result.wanted = reply->value;
  const auto decoded = decode(field, value);
  result.known = decoded.has_value();
  result.found = decoded ? *decoded : fmt::format("{}, which the map does not know", value);
  if (reply) {
    const auto wanted = encode(field, reply->value);
    result.differs = !wanted.problem.empty() || wanted.value != value;
  } else {
    result.differs = field.otherwise.has_value() && value != *field.otherwise;
  }
  return result;
}

}  // namespace

bool has_address(const RegisterMap& map, std::uint64_t address) {
  return std::ranges::any_of(map.registers, [&](const Register& entry) {
    return address >= entry.address &&
           address - entry.address < static_cast<std::uint64_t>(entry.words);
  });
}

FoundSettings settings_found(const RegisterMap& map, const Dump& dump, const model::Board& board,
                             std::string_view name) {
  const auto& channel = channel_named(board, name);
  FoundSettings result{.channel = channel.name, .converter = map.converter};
  for (const auto& entry : map.registers) {
    const auto value = value_in(entry, dump, map.word_bits);
    if (!value) {
      result.missing.push_back(entry.name);
      continue;
    }
    for (const auto& field : entry.fields) {
      const auto bits = (*value >> field.low) & field.largest();
      auto& found = result.settings.emplace_back(
          found_in(field, entry.name + "." + field.name, bits, board, channel));
      if (field.clears_itself && bits == 0) found.differs = false;  // it has acted
    }
    compare_reserved(entry, *value, entry.words * map.word_bits, result);
  }
  for (const auto& word : dump) {
    if (!has_address(map, word.first)) result.unknown.push_back(word.first);
  }
  return result;
}

std::optional<std::string> channel_found(const RegisterMap& map, const Dump& dump,
                                         const model::Board& board) {
  for (const auto& entry : map.registers) {
    const auto value = value_in(entry, dump, map.word_bits);
    for (const auto& field : entry.fields) {
      if (field.of != "channel.input" || field.input || !value) continue;
      const auto input = decode(field, (*value >> field.low) & field.largest());
      for (const auto& channel : board.channels) {
        if (channel.converter == map.converter && input == std::to_string(channel.input)) {
          return channel.name;
        }
      }
    }
  }
  return {};
}

bool of_one_channel(const RegisterMap& map) {
  for (const auto& entry : map.registers) {
    for (const auto& field : entry.fields) {
      if (field.of.starts_with("channel.") && !field.input) return true;
    }
  }
  return false;
}

}  // namespace tamlo::firmware
