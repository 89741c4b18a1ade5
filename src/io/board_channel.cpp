// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <utility>

#include "board_parts.hpp"

namespace tamlo::io {
namespace {

using quantity::Basis;
using quantity::Expected;

model::Target read_target(Fields fields, const quantity::Unit& unit) {
  model::Target result;
  const Expected expected{.unit = quantity::difference_unit(unit),
                          .bases = {Basis::absolute, Basis::relative, Basis::span, Basis::code}};
  if (auto v = fields.limits("accuracy", expected)) {
    const bool one = v->limits.size() == 1 && v->limits.front().drift == quantity::Drift::none &&
                     v->limits.front().size > 0.0;
    if (one) result.accuracy = v->limits.front();
    if (!one) {
      fields.report("accuracy", fmt::format("\"{}\"", quantity::to_string(*v)),
                    "one limit above 0 without a drift, such as \"±0.5 % of span\"");
    }
  }
  result.noise_free = fields.plain("noise_free", quantity::unit("bit"), above_zero());
  result.latency = fields.plain("latency", quantity::unit("s"), above_zero());
  fields.finish();
  return result;
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

void read_surroundings(Fields& fields, model::Channel& channel) {
  using quantity::unit;
  for (auto& of : fields.tables("interference")) {
    model::Interference sine;
    of.require("frequency", "a frequency, such as \"50 Hz\"");
    of.require("amplitude", "an amplitude at the pin without the low-pass, such as \"5 mV\"");
    if (auto v = of.plain("frequency", unit("Hz"), above_zero())) sine.frequency = *v;
    if (auto v = of.plain("amplitude", unit("V"), above_zero())) sine.amplitude = *v;
    of.finish();
    channel.interference.push_back(sine);
  }
  for (auto& of : fields.tables("correlation")) {
    of.require("between", "the names of two sources of the budget");
    of.require("coefficient", "a number from -1 to 1");
    const auto between = of.texts("between");
    const auto coefficient =
        of.number("coefficient", {.low = -1.0, .high = 1.0, .text = "from -1 to 1"});
    if (between.size() == 2) {
      channel.correlations.push_back(
          {.first = between[0], .second = between[1], .coefficient = coefficient.value_or(0.0)});
    } else if (of.has("between")) {
      of.report("between", fmt::format("{} names", between.size()), "two");
    }
    of.finish();
  }
  channel.fastest = fields.plain("fastest", unit("Hz"), above_zero());
  if (auto zones = fields.table("zones")) channel.zones = read_zones(*std::move(zones), channel);
  auto of = fields.table("threshold");
  if (!of) return;
  model::Threshold threshold;
  of->require("at", "the value of the quantity at which it switches on");
  if (auto v = of->plain("at", channel.span.unit)) {
    threshold.at = *v;
    if (!channel.span.holds(*v)) {
      of->report("at", "a value outside of the span",
                 fmt::format("a value in {}", quantity::to_string(channel.span)));
    }
  }
  if (auto v = of->difference("hysteresis", channel.span.unit, not_negative()))
    threshold.hysteresis = *v;
  if (auto v = of->plain("false_trip_every", unit("s"), above_zero())) {
    threshold.false_trips = 1.0 / *v;
  }
  of->finish();
  channel.threshold = threshold;
}

}  // namespace

model::Channel read_channel(const std::string& name, Fields fields,
                            const std::vector<model::Converter>& converters,
                            const std::vector<std::string>& references) {
  model::Channel result{.name = name};
  result.measures = fields.text("measures").value_or(name);
  // Without a sensor the quantity is the voltage itself.
  const bool volts = !fields.has("sensor");
  fields.require("span", "what the channel must measure, such as \"0..60 V\"");
  if (auto v = fields.range("span", volts ? in("V") : Expected{})) {
    result.span = *v;
  } else {
    // What stands in for it is not to be found wrong as well.
    const auto sensor = fields.is_table("sensor") ? fields.table("sensor") : std::nullopt;
    const bool thermal = sensor && (sensor->has("ntc") || sensor->has("platinum"));
    result.span = {.low = thermal ? 273.15 : 0.0,
                   .high = thermal ? 373.15 : 1.0,
                   .unit = quantity::unit(thermal ? "degC" : "V")};
  }
  std::vector<std::string> names;
  for (const auto& converter : converters) names.push_back(converter.name);
  fields.require("converter", "the name of a [converter] of this board");
  if (auto v = fields.name_of("converter", "converter", names)) result.converter = *v;
  if (auto v = fields.text("loaded_by")) result.loaded_by = *v;
  if (auto v = fields.text("adjusted_with")) result.adjusted_with = *v;
  if (auto v = fields.integer("input", 0, 1023)) result.input = static_cast<int>(*v);
  read_signal_path(fields, references, result);
  if (const auto* converter = model::find(converters, result.converter)) {
    read_attenuation_choice(fields, *converter, result);
  }
  result.sampling = fields.plain("sampling", quantity::unit("cycles"), above_zero());
  result.rate = fields.plain("rate", quantity::unit("Sa/s"), above_zero());
  read_digital(fields, result);
  read_surroundings(fields, result);
  if (auto scaling = fields.table("scaling")) {
    const auto* converter = model::find(converters, result.converter);
    result.scaling = read_scaling(*std::move(scaling), result.span.unit,
                                  converter != nullptr ? converter->resolution : 0);
  }
  result.correction = read_correction(fields, result.span.unit);
  if (auto target = fields.table("target")) {
    result.target = read_target(*std::move(target), result.span.unit);
  }
  fields.finish();
  result.defaults = fields.defaults();
  return result;
}

}  // namespace tamlo::io
