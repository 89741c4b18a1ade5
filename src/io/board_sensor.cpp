// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include "board_parts.hpp"

namespace tamlo::io {
namespace {

using quantity::Basis;
using quantity::unit;

// Reads the sensor of one channel.
class SensorReader {
 public:
  SensorReader(const std::vector<std::string>& references, model::Channel& to)
      : references_(references), channel(to) {}

  void read(Fields fields) {
    static const std::vector<std::pair<const char*, void (SensorReader::*)(Fields&)>> kinds{
        {"linear", &SensorReader::linear},     {"ntc", &SensorReader::ntc},
        {"platinum", &SensorReader::platinum}, {"bridge", &SensorReader::bridge},
        {"loop", &SensorReader::loop},         {"position", &SensorReader::position},
        {"light", &SensorReader::light}};
    int found = 0;
    for (const auto& [kind, read_kind] : kinds) {
      auto of = fields.table(kind);
      if (!of) continue;
      ++found;
      (this->*read_kind)(*of);
      of->finish();
    }
    if (auto path = fields.text("table")) {
      ++found;
      table(fields, *path);
    }
    if (found != 1) {
      fields.report("", found == 0 ? "no sensor that is known" : "more than one sensor",
                    "one of linear, ntc, platinum, bridge, loop, position, light, table");
    }
    fields.finish();
  }

  model::Carries carries = model::Carries::volts;

 private:
  const std::vector<std::string>& references_;
  model::Channel& channel;

  const quantity::Unit& quantity_unit() const { return channel.span.unit; }
  bool measures_temperature(Fields& fields) const {
    if (quantity_unit().dimension == unit("K").dimension) return true;
    fields.report("", "a temperature sensor", "a span in degC or K");
    return false;
  }

  void supply(Fields& fields, const char* key, std::string& into) {
    fields.require(key, "the name of a [reference] of this board");
    if (auto v = fields.name_of(key, "reference", references_)) into = *v;
  }

  void linear(Fields& fields) {
    if (fields.has("sensitivity") || fields.has("offset") || fields.has("at")) {
      straight(fields);
      return;
    }
    model::LinearSensor sensor;
    fields.require("at_low", "the output at the low end of the span, such as \"0.5 V ±0.5 %\"");
    fields.require("at_high", "the output at the high end of the span, such as \"4.5 V ±0.5 %\"");
    if (auto v = fields.value("at_low", in("V"))) sensor.at_low = *v;
    if (auto v = fields.value("at_high", in("V"))) sensor.at_high = *v;
    if (sensor.at_low.nominal && sensor.at_low.nominal == sensor.at_high.nominal) {
      fields.report("at_high", "the same output as at_low", "an output that follows the quantity");
    }
    channel.sensor = sensor;
  }

  // Volts per unit of the quantity: V/K for degC.
  void straight(Fields& fields) {
    const auto difference = quantity::difference_unit(quantity_unit());
    auto per = quantity::find_unit("V/" + difference.symbol);
    if (!difference.dimension.label.empty() || !per) {
      fields.report("sensitivity", "a sensitivity for a unit of your own",
                    "at_low and at_high, the output at the ends of the span");
      per = unit("V");
    }
    model::StraightSensor sensor;
    for (const auto* key : {"sensitivity", "offset", "at"}) {
      fields.require(key,
                     "sensitivity, offset and at: \"8 mV/K ±1 %\", \"350 mV ±4 mV\", \"0 degC\"");
    }
    if (auto v = fields.value("sensitivity", {.unit = per})) sensor.sensitivity = *v;
    if (sensor.sensitivity.nominal == 0.0) {
      fields.report("sensitivity", "0", "an output that follows the quantity");
    }
    if (auto v = fields.value("offset", in("V"))) sensor.offset = *v;
    if (auto v = fields.plain("at", quantity_unit())) sensor.at = *v;
    channel.sensor = sensor;
  }

  void ntc(Fields& fields) {
    model::Ntc sensor;
    const bool by_beta = fields.has("r25") || fields.has("beta");
    if (by_beta) {
      model::Thermistor law;
      fields.require("r25", "the resistance at 25 degC, such as \"10 kohm ±1 %\"");
      fields.require("beta", "a beta, such as \"3950 K ±1 %\"");
      if (auto v = fields.value("r25", in("ohm"), above_zero())) law.r25 = *v;
      if (auto v = fields.value("beta", in("K"), above_zero())) law.beta = *v;
      sensor.law = law;
    } else {
      model::ThermistorCurve law;
      for (const auto& [key, into] :
           {std::pair{"a", &law.a}, std::pair{"b", &law.b}, std::pair{"c", &law.c}}) {
        fields.require(key, "r25 and beta, or the three coefficients a, b and c");
        if (auto v = fields.plain(key, {}, above_zero())) *into = *v;
      }
      sensor.law = law;
    }
    if (auto v = fields.limits("accuracy", in("K", {Basis::absolute}))) sensor.accuracy = *v;
    sensor.dissipation = fields.value("dissipation", in("W/K"), above_zero());
    if (measures_temperature(fields)) channel.sensor = sensor;
    carries = model::given_by(sensor);
  }

  void platinum(Fields& fields) {
    model::Platinum sensor;
    fields.require("r0", "the resistance at 0 degC, such as \"100 ohm\"");
    if (auto v = fields.value("r0", in("ohm"), above_zero())) sensor.r0 = *v;
    if (auto v = fields.choice("class", {"AA", "A", "B", "C"})) {
      sensor.tolerance = static_cast<model::PlatinumClass>(*v + 1);
    }
    if (auto v = fields.integer("wires", 2, 4)) sensor.wires = static_cast<int>(*v);
    if (auto v = fields.flag("lead_compensated")) sensor.lead_compensated = *v;
    if (sensor.wires < 4) fields.require("lead", "the resistance of one lead, \"0.4 ohm ±20 %\"");
    if (auto v = fields.value("lead", in("ohm"), not_negative())) sensor.lead = *v;
    const auto& span = channel.span;
    if (measures_temperature(fields)) {
      channel.sensor = sensor;
      if (span.low < 73.15 || span.high > 1123.15) {
        fields.report("", "a span beyond the standard",
                      "a span within -200 to 850 degC (IEC 60751)");
      }
    }
    carries = model::given_by(sensor);
  }

  void bridge(Fields& fields) {
    model::Bridge sensor;
    fields.require("rated_output", "the output at the rated load, such as \"2 mV/V ±0.1 %\"");
    fields.require("rated_load", "the load of the rated output, in the unit of the span");
    if (auto v = fields.value("rated_output", in(""), above_zero())) sensor.rated_output = *v;
    if (auto v = fields.plain("rated_load", quantity_unit(), above_zero())) sensor.rated_load = *v;
    supply(fields, "excitation", sensor.excitation);
    channel.sensor = sensor;
  }

  void loop(Fields& fields) {
    model::CurrentLoop sensor;
    if (auto v = fields.plain("low", unit("A"), not_negative())) sensor.low = *v;
    if (auto v = fields.plain("high", unit("A"), above_zero())) sensor.high = *v;
    if (!(sensor.low < sensor.high)) fields.report("high", "a current not above low", "low < high");
    const auto difference = quantity::difference_unit(quantity_unit());
    if (auto v = fields.limits("accuracy",
                               {.unit = difference, .bases = {Basis::absolute, Basis::span}})) {
      sensor.accuracy = *v;
    }
    sensor.supply = fields.plain("supply", unit("V"), above_zero());
    sensor.burden = fields.plain("burden", unit("V"), not_negative());
    if (sensor.burden && !sensor.supply) {
      fields.report("burden", "a burden without a supply", "supply = \"24 V\" beside it");
    }
    channel.sensor = sensor;
    carries = model::given_by(sensor);
  }

  void position(Fields& fields) {
    model::Potentiometer sensor;
    fields.require("resistance", "the resistance of the whole track, such as \"10 kohm ±20 %\"");
    if (auto v = fields.value("resistance", in("ohm"), above_zero())) sensor.resistance = *v;
    supply(fields, "supply", sensor.supply);
    channel.sensor = sensor;
  }

  void light(Fields& fields) {
    model::Photoresistor sensor;
    fields.require("resistance", "the resistance at one point, such as \"20 kohm\"");
    fields.require("at", "the point of that resistance, in the unit of the span");
    fields.require("exponent", "the exponent, such as \"0.7 ±10 %\"");
    if (auto v = fields.value("resistance", in("ohm"), above_zero())) sensor.resistance = *v;
    if (auto v = fields.plain("at", quantity_unit(), above_zero())) sensor.at = *v;
    if (auto v = fields.value("exponent", in(""), above_zero())) sensor.exponent = *v;
    if (!(channel.span.low > 0.0)) {
      fields.report("", "a span that begins at or below 0", "a span above 0, for a power law");
    }
    channel.sensor = sensor;
    carries = model::given_by(sensor);
  }

  void table(Fields& fields, const std::string& path) {
    auto curve = read_curve(fields, path, channel);
    const auto difference = quantity::difference_unit(quantity_unit());
    if (auto v = fields.limits("accuracy",
                               {.unit = difference, .bases = {Basis::absolute, Basis::span}})) {
      curve.accuracy = *v;
    }
    carries = model::given_by(curve);
    channel.sensor = std::move(curve);
  }
};

}  // namespace

model::Carries read_sensor(Fields fields, const std::vector<std::string>& references,
                           model::Channel& channel) {
  SensorReader reader(references, channel);
  reader.read(std::move(fields));
  return reader.carries;
}

}  // namespace tamlo::io
