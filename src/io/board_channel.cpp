// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <utility>

#include "board_parts.hpp"

namespace tamlo::io {
namespace {

// Names of kinds, each once.
std::vector<std::string> names_of_kinds(const std::vector<model::Kind>& kinds) {
  std::vector<std::string> names;
  for (const auto& kind : kinds) {
    if (names.empty() || names.back() != kind.name) names.emplace_back(kind.name);
  }
  return names;
}

// The gains that an amplifier can be switched to, by names of the user's own, and the one in use.
void read_gains(Fields& fields, const model::Key& gains_key, model::Amplifier& amplifier,
                const Scope& scope) {
  std::vector<std::string> names;
  if (auto gains = fields.table("gains")) {
    names = gains->keys();
    for (const auto& own : names) {
      auto key = gains_key.inner.keys()["*"];
      key.name = own;
      auto& choice = amplifier.gains.emplace_back(model::GainChoice{.name = own});
      read_key(*gains, key, &choice, scope);
    }
    gains->finish();
  }
  fields.require("use", one_of("", names));
  if (auto v = fields.choice("use", names)) {
    amplifier.use = names[*v];
    amplifier.gain = amplifier.gains[*v].gain;
  }
}

// Reads the one kind that a table holds into its variant. False where there is not exactly one.
bool read_kind(Fields& fields, const std::vector<model::Kind>& kinds, void* variant,
               const Scope& scope, const char* what) {
  int found = 0;
  for (const auto& name : names_of_kinds(kinds)) {
    found += fields.has(name) ? 1 : 0;
    if (name == "table") continue;  // its keys stand beside it
    auto inner = fields.table(name);
    if (!inner) continue;
    const auto& kind = chosen(kinds, name, *inner);
    auto* const object = kind.make(variant);
    read_keys(*inner, kind.keys(), object, scope);
    if (const auto* gains = kind.keys().find("gains")) {
      read_gains(*inner, *gains, *static_cast<model::Amplifier*>(object), scope);
    }
    inner->finish();
  }
  // An unknown one is reported as the unknown key that it is.
  if (found > 1 || (found == 0 && fields.keys().empty())) {
    fields.report("", fmt::format("{} {}s in one place", found == 0 ? "no" : "several", what),
                  fmt::format("one of {}", fmt::join(names_of_kinds(kinds), ", ")));
  }
  return found == 1;
}

std::optional<model::Sensor> read_sensor(Fields fields, const model::Channel& channel,
                                         const Scope& scope) {
  model::Sensor sensor;
  if (!read_kind(fields, model::sensor_kinds(), &sensor, scope, "sensor")) {
    fields.finish();
    return {};
  }
  if (auto path = fields.text("table")) {
    auto curve = read_curve(fields, *path, channel);
    read_keys(fields, chosen(model::sensor_kinds(), "table", fields).keys(), &curve, scope);
    sensor = std::move(curve);
  }
  fields.finish();
  return sensor;
}

void read_signal_path(Fields& fields, model::Channel& channel, const Scope& scope) {
  if (auto sensor = fields.table("sensor"))
    channel.sensor = read_sensor(*std::move(sensor), channel, scope);
  for (auto& part : fields.tables("frontend")) {
    read_kind(part, model::part_kinds(), &channel.frontend.emplace_back(), scope, "part");
    part.finish();
  }
}

// A converter that has attenuations needs the channel's choice of one.
void read_attenuation_choice(Fields& fields, const model::Converter& converter,
                             model::Channel& channel) {
  std::vector<std::string> names;
  for (const auto& attenuation : converter.attenuations) names.push_back(attenuation.name);
  if (!names.empty()) fields.require("attenuation", one_of("", names));
  const auto section = fmt::format("converter.{}.attenuation", converter.name);
  if (auto v = fields.name_of("attenuation", section, names)) channel.attenuation = *v;
}

void read_correlations(Fields& fields, model::Channel& channel, const Scope& scope) {
  for (auto& table : fields.tables("correlation")) {
    model::SourceCorrelation correlation;
    read_keys(table, model::correlation_keys(), &correlation, scope);
    const auto between = table.texts("between");
    if (between.size() == 2) {
      correlation.first = between[0];
      correlation.second = between[1];
      channel.correlations.push_back(std::move(correlation));
    } else if (table.has("between")) {
      table.report("between", fmt::format("{} names", between.size()), "two");
    }
    table.finish();
  }
}

// Zones of equal width.
void read_bars(Fields& fields, const model::Channel& channel, model::Zones& result) {
  const auto& span = channel.span;
  const auto bars = fields.integer("bars", 2, 255);
  const auto from = fields.plain("from", span.unit), to = fields.plain("to", span.unit);
  for (const auto* key : {"from", "to"}) fields.require(key, "a value of the quantity");
  if (!bars || !from || !to) return;
  if (!(*to > *from)) {
    fields.report("to", "bars that do not rise", "a value above from");
    return;
  }
  for (std::int64_t i = 0; i < *bars; ++i) {
    if (i > 0) {
      result.edges.push_back(*from +
                             (*to - *from) * static_cast<double>(i) / static_cast<double>(*bars));
    }
    result.names.push_back(fmt::format("bar {}", i + 1));
  }
}

model::Zones read_zones(Fields fields, const model::Channel& channel, const Scope& scope) {
  model::Zones result;
  read_keys(fields, model::zone_keys(), &result, scope);
  if (fields.has("bars")) {
    read_bars(fields, channel, result);
  } else {
    fields.require("edges", "edges = [\"0.40 V\", \"0.60 V\"], or bars = 16");
    read_key(fields, model::zone_keys()["edges"], &result, scope);
    read_key(fields, model::zone_keys()["names"], &result, scope);
    for (std::size_t i = 0; !fields.has("names") && i <= result.edges.size(); ++i) {
      result.names.push_back(fmt::format("zone {}", i));
    }
  }
  fields.finish();
  return result;
}

}  // namespace

model::Channel read_channel(const std::string& name, Fields fields, const Scope& around,
                            const std::vector<model::Converter>& converters) {
  model::Channel result{.name = name};
  const Scope scope{.names = around.names, .channel = &result};
  result.measures = fields.text("measures").value_or(name);
  // Without a sensor the quantity is the voltage itself.
  quantity::Expected unit;
  if (!fields.has("sensor")) unit.unit = quantity::unit("V");
  if (auto v = fields.range("span", unit)) {
    result.span = *v;
  } else {
    // What stands in for it is not to be found wrong as well.
    const auto sensor = fields.is_table("sensor") ? fields.table("sensor") : std::nullopt;
    const bool thermal = sensor && (sensor->has("ntc") || sensor->has("platinum"));
    result.span = {.low = thermal ? 273.15 : 0.0,
                   .high = thermal ? 373.15 : 1.0,
                   .unit = quantity::unit(thermal ? "degC" : "V")};
  }
  read_keys(fields, model::channel_keys(), &result, scope);
  read_signal_path(fields, result, scope);
  const auto* converter = model::find(converters, result.converter);
  if (converter != nullptr) read_attenuation_choice(fields, *converter, result);
  read_digital(fields, result, scope);
  read_correlations(fields, result, scope);
  if (auto zones = fields.table("zones")) {
    result.zones = read_zones(*std::move(zones), result, scope);
  }
  if (auto scaling = fields.table("scaling")) {
    const auto known = scaling->table("sensor");
    result.scaling =
        read_scaling(*std::move(scaling), converter != nullptr ? converter->resolution : 0, scope);
    if (known) result.scaling.sensor = read_sensor(*known, result, scope);
  }
  fields.finish();
  result.defaults = fields.defaults();
  return result;
}

}  // namespace tamlo::io
