// SPDX-License-Identifier: Apache-2.0
#include "board_parts.hpp"

#include <fmt/format.h>

namespace tamlo::io {
namespace {

using quantity::Basis;
using quantity::unit;

// What a signal is between two parts.
enum class Carries : std::uint8_t { volts, ohms, amperes };

std::string_view name(Carries carries) {
  switch (carries) {
    case Carries::volts:
      return "volts";
    case Carries::ohms:
      return "a resistance";
    case Carries::amperes:
      return "a current";
  }
  return "";
}

// Reads the parts of one channel in the order in which the signal passes them.
class PartReader {
 public:
  PartReader(const std::vector<std::string>& references, model::Channel& channel)
      : references_(references), channel_(channel) {}

  void sensor(Fields fields) {
    static const std::vector<std::pair<const char*, void (PartReader::*)(Fields&)>> kinds{
        {"linear", &PartReader::linear},     {"ntc", &PartReader::ntc},
        {"platinum", &PartReader::platinum}, {"bridge", &PartReader::bridge},
        {"loop", &PartReader::loop},         {"position", &PartReader::position},
        {"light", &PartReader::light}};
    bool found = false;
    for (const auto& [kind, read] : kinds) {
      auto of = fields.table(kind);
      found = found || fields.has(kind);
      if (!of) continue;
      (this->*read)(*of);
      of->finish();
    }
    fields.not_yet({"table"});
    if (!found && !fields.has("table")) {
      fields.report("", "no sensor that is known",
                    "one of linear, ntc, platinum, bridge, loop, position, light");
    }
    fields.finish();
  }

  void stage(Fields fields) {
    static const std::vector<std::pair<const char*, void (PartReader::*)(Fields&)>> kinds{
        {"divider", &PartReader::divider},
        {"excitation", &PartReader::excitation},
        {"shunt", &PartReader::shunt},
        {"amplifier", &PartReader::amplifier}};
    bool found = fields.has("lowpass");
    for (const auto& [kind, read] : kinds) {
      auto of = fields.table(kind);
      found = found || fields.has(kind);
      if (!of) continue;
      (this->*read)(*of);
      of->finish();
    }
    fields.not_yet({"lowpass"});
    if (!found) {
      fields.report("", "no part that is known", "one of divider, excitation, shunt, amplifier");
    }
    fields.finish();
  }

  Carries carries() const { return carries_; }

 private:
  const std::vector<std::string>& references_;
  model::Channel& channel_;
  Carries carries_ = Carries::volts;

  const quantity::Unit& quantity_unit() const { return channel_.span.unit; }
  bool measures_temperature(Fields& fields) const {
    if (quantity_unit().dimension == unit("K").dimension) return true;
    fields.report("", "a temperature sensor", "a span in degC or K");
    return false;
  }

  void supply(Fields& fields, const char* key, std::string& into) {
    fields.require(key, "the name of a [reference] of this board");
    if (auto v = fields.name_of(key, "reference", references_)) into = *v;
  }

  // A part whose input must be of one kind.
  void expect(Fields& fields, Carries wanted, Carries gives) {
    if (carries_ != wanted) {
      fields.report("", fmt::format("{} at the input of this part", name(carries_)),
                    carries_ == Carries::volts ? "a part for volts: a divider, an amplifier"
                    : carries_ == Carries::ohms
                        ? "a divider with \"sensor\" as one of its resistors, or an excitation"
                        : "a shunt");
    }
    carries_ = gives;
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
    channel_.sensor = sensor;
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
    channel_.sensor = sensor;
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
    if (measures_temperature(fields)) channel_.sensor = sensor;
    carries_ = Carries::ohms;
  }

  void platinum(Fields& fields) {
    model::Platinum sensor;
    fields.require("r0", "the resistance at 0 degC, such as \"100 ohm\"");
    if (auto v = fields.value("r0", in("ohm"), above_zero())) sensor.r0 = *v;
    if (auto v = fields.choice("class", {"AA", "A", "B", "C"})) {
      sensor.tolerance = static_cast<model::PlatinumClass>(*v + 1);
    }
    if (auto v = fields.integer("wires", 2, 4)) sensor.wires = static_cast<int>(*v);
    if (sensor.wires < 4) fields.require("lead", "the resistance of one lead, \"0.4 ohm ±20 %\"");
    if (auto v = fields.value("lead", in("ohm"), not_negative())) sensor.lead = *v;
    const auto& span = channel_.span;
    if (measures_temperature(fields)) {
      channel_.sensor = sensor;
      if (span.low < 73.15 || span.high > 1123.15) {
        fields.report("", "a span beyond the standard",
                      "a span within -200 to 850 degC (IEC 60751)");
      }
    }
    carries_ = Carries::ohms;
  }

  void bridge(Fields& fields) {
    model::Bridge sensor;
    fields.require("rated_output", "the output at the rated load, such as \"2 mV/V ±0.1 %\"");
    fields.require("rated_load", "the load of the rated output, in the unit of the span");
    if (auto v = fields.value("rated_output", in(""), above_zero())) sensor.rated_output = *v;
    if (auto v = fields.plain("rated_load", quantity_unit(), above_zero())) sensor.rated_load = *v;
    supply(fields, "excitation", sensor.excitation);
    channel_.sensor = sensor;
  }

  void loop(Fields& fields) {
    model::Loop sensor;
    if (auto v = fields.plain("low", unit("A"), not_negative())) sensor.low = *v;
    if (auto v = fields.plain("high", unit("A"), above_zero())) sensor.high = *v;
    if (!(sensor.low < sensor.high)) fields.report("high", "a current not above low", "low < high");
    const auto difference = quantity::difference_unit(quantity_unit());
    if (auto v = fields.limits("accuracy",
                               {.unit = difference, .bases = {Basis::absolute, Basis::span}})) {
      sensor.accuracy = *v;
    }
    fields.not_yet({"supply", "burden"});
    channel_.sensor = sensor;
    carries_ = Carries::amperes;
  }

  void position(Fields& fields) {
    model::Position sensor;
    fields.require("resistance", "the resistance of the whole track, such as \"10 kohm ±20 %\"");
    if (auto v = fields.value("resistance", in("ohm"), above_zero())) sensor.resistance = *v;
    supply(fields, "supply", sensor.supply);
    channel_.sensor = sensor;
  }

  void light(Fields& fields) {
    model::Light sensor;
    fields.require("resistance", "the resistance at one point, such as \"20 kohm\"");
    fields.require("at", "the point of that resistance, in the unit of the span");
    fields.require("exponent", "the exponent, such as \"0.7 ±10 %\"");
    if (auto v = fields.value("resistance", in("ohm"), above_zero())) sensor.resistance = *v;
    if (auto v = fields.plain("at", quantity_unit(), above_zero())) sensor.at = *v;
    if (auto v = fields.value("exponent", in(""), above_zero())) sensor.exponent = *v;
    if (!(channel_.span.low > 0.0)) {
      fields.report("", "a span that begins at or below 0", "a span above 0, for a power law");
    }
    channel_.sensor = sensor;
    carries_ = Carries::ohms;
  }

  void divider(Fields& fields) {
    for (const auto* key : {"top", "bottom"}) {
      fields.require(key, "a resistor, such as \"240 kohm ±0.1 % ±25 ppm/K\"");
    }
    const bool top = fields.is_text("top", "sensor"), bottom = fields.is_text("bottom", "sensor");
    if (top || bottom) {
      model::SensorDivider of{.sensor_at_bottom = bottom};
      if (auto v = fields.value(bottom ? "top" : "bottom", in("ohm"), above_zero()))
        of.partner = *v;
      supply(fields, "supply", of.supply);
      expect(fields, Carries::ohms, Carries::volts);
      channel_.frontend.emplace_back(of);
      return;
    }
    model::Divider of;
    if (auto v = fields.value("top", in("ohm"), not_negative())) of.top = *v;
    if (auto v = fields.value("bottom", in("ohm"), above_zero())) of.bottom = *v;
    expect(fields, Carries::volts, Carries::volts);
    channel_.frontend.emplace_back(of);
  }

  void excitation(Fields& fields) {
    model::Excitation of;
    fields.require("current", "a current, such as \"1 mA ±0.1 %\"");
    if (auto v = fields.value("current", in("A"), above_zero())) of.current = *v;
    expect(fields, Carries::ohms, Carries::volts);
    channel_.frontend.emplace_back(of);
  }

  void shunt(Fields& fields) {
    model::Shunt of;
    fields.require("resistance", "a resistor, such as \"120 ohm ±0.1 %\"");
    if (auto v = fields.value("resistance", in("ohm"), above_zero())) of.resistance = *v;
    expect(fields, Carries::amperes, Carries::volts);
    channel_.frontend.emplace_back(of);
  }

  void amplifier(Fields& fields) {
    model::Amplifier of;
    fields.require("gain", "a gain, such as \"100 ±0.5 % ±10 ppm/K\"");
    if (auto v = fields.value("gain", in(""))) of.gain = *v;
    if (of.gain.nominal == 0.0) fields.report("gain", "0", "a gain that is not 0");
    if (auto v = fields.limits("offset", in("V", {Basis::absolute}))) of.offset = *v;
    of.noise = fields.noise("noise", in("V", {Basis::absolute}));
    if (auto v = fields.plain("common_mode", unit("V"))) of.common_mode = *v;
    if (auto v = fields.plain("rejection", {}, not_negative())) of.rejection = *v;
    expect(fields, Carries::volts, Carries::volts);
    channel_.frontend.emplace_back(of);
  }
};

}  // namespace

void read_signal_path(Fields& fields, const std::vector<std::string>& references,
                      model::Channel& channel) {
  PartReader reader(references, channel);
  if (auto sensor = fields.table("sensor")) reader.sensor(*std::move(sensor));
  for (auto& stage : fields.tables("frontend")) reader.stage(std::move(stage));
  if (reader.carries() != Carries::volts) {
    fields.report("frontend", fmt::format("{} at the converter's pin", name(reader.carries())),
                  "parts that end in volts: a divider with the sensor, an excitation, a shunt");
  }
}

}  // namespace tamlo::io
