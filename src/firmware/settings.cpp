// SPDX-License-Identifier: Apache-2.0
// What a register map may name of a board.
#include <fmt/format.h>

#include <functional>
#include <variant>

#include "tamlo/chain/detail/digital.hpp"
#include "tamlo/chain/detail/timing.hpp"
#include "tamlo/error.hpp"
#include "tamlo/firmware/registers.hpp"

namespace tamlo::firmware {
namespace {

using Text = std::optional<std::string>;

std::string number(double value) { return fmt::format("{:.10g}", value); }

struct Context {
  const model::Board& board;
  const model::Channel& channel;
  const model::Converter& converter;
};

Text sensor_of(const Context& c) {
  if (!c.channel.sensor) return "voltage";
  const char* const names[] = {"linear", "linear",   "ntc",   "platinum", "bridge",
                               "loop",   "position", "light", "table"};
  return names[c.channel.sensor->index()];
}

Text average_of(const Context& c) {
  if (!c.channel.average.time) return number(c.channel.average.count);
  const double rate = chain::timing(c.board, c.converter, c.channel).rate;
  if (!(rate > 0.0)) return {};
  const auto digital = chain::prepare({model::BlockAverage{c.channel.average}}, rate);
  return number(chain::decimation(digital));
}

Text filter_of(const Context& c) {
  if (c.channel.filter.empty()) return "none";
  if (c.channel.filter.size() > 1) return {};
  const char* const names[] = {"block average", "moving average", "exponential", "sinc",
                               "median",        "Butterworth",    "notch",       "taps"};
  return names[c.channel.filter.front().index()];
}

// Of a moving average or a median; one sample where nothing is filtered.
Text filter_length_of(const Context& c) {
  if (c.channel.filter.empty()) return "1";
  if (c.channel.filter.size() > 1) return {};
  if (const auto* moving_average = std::get_if<model::MovingAverage>(&c.channel.filter.front())) {
    if (!moving_average->length.time) return number(moving_average->length.count);
  }
  if (const auto* median = std::get_if<model::Median>(&c.channel.filter.front())) {
    return number(median->length);
  }
  return {};
}

Text gain_of(const Context& c) {
  for (const auto& part : c.channel.frontend) {
    const auto* amplifier = std::get_if<model::Amplifier>(&part);
    if (amplifier != nullptr && !amplifier->use.empty()) return amplifier->use;
  }
  return {};
}

Text align_of(const Context& c) {
  const auto kind = c.converter.reporting.kind;
  if (kind == model::RegisterFormat::Kind::shifted) return "left";
  if (kind == model::RegisterFormat::Kind::plain) return "right";
  return {};
}

Text named(const std::string& name) { return name.empty() ? Text{} : Text{name}; }
template <class T>
Text if_given(const std::optional<T>& value) {
  return value ? Text{number(static_cast<double>(*value))} : Text{};
}

struct Known {
  const char* key;
  Text (*of)(const Context&);
};
constexpr Known known[] = {
    {"channel.input",
     [](const Context& c) { return c.channel.input < 0 ? Text{} : number(c.channel.input); }},
    {"channel.sensor", sensor_of},
    {"channel.attenuation", [](const Context& c) { return named(c.channel.attenuation); }},
    {"channel.gain", gain_of},
    {"channel.sampling", [](const Context& c) { return if_given(c.channel.sampling); }},
    {"channel.rate", [](const Context& c) { return if_given(c.channel.rate); }},
    {"channel.average", average_of},
    {"channel.filter", filter_of},
    {"channel.filter.length", filter_length_of},
    {"converter.reference", [](const Context& c) { return named(c.converter.reference); }},
    {"converter.resolution", [](const Context& c) { return Text{number(c.converter.resolution)}; }},
    {"converter.clock.divider",
     [](const Context& c) {
       return c.converter.clock ? Text{number(c.converter.clock->divider)} : Text{};
     }},
    {"converter.data_rate", [](const Context& c) { return if_given(c.converter.data_rate); }},
    {"converter.sinc_order",
     [](const Context& c) {
       return c.converter.data_rate ? Text{number(c.converter.sinc_order)} : Text{};
     }},
    {"converter.coding",
     [](const Context& c) { return Text{std::string(name(c.converter.coding))}; }},
    {"converter.report.align", align_of},
};

}  // namespace

std::vector<std::string> setting_keys() {
  std::vector<std::string> result;
  for (const auto& each : known) result.emplace_back(each.key);
  return result;
}

std::optional<Setting> setting(const model::Board& board, const model::Channel& channel,
                               std::string_view key) {
  const auto* converter = model::find(board.converters, channel.converter);
  require(converter != nullptr, "a channel whose converter the board has");
  for (const auto& each : known) {
    if (each.key != key) continue;
    auto value = each.of({board, channel, *converter});
    return value ? std::optional(Setting{each.key, *std::move(value)}) : std::nullopt;
  }
  return {};
}

std::vector<Setting> settings(const model::Board& board, const model::Channel& channel) {
  std::vector<Setting> result;
  for (const auto& each : known) {
    if (auto one = setting(board, channel, each.key)) result.push_back(*std::move(one));
  }
  return result;
}

}  // namespace tamlo::firmware
