// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <utility>

#include "board_parts.hpp"

namespace tamlo::io {
namespace {

using model::Carries;
using quantity::Basis;
using quantity::unit;

// Reads the parts of one channel in the order in which the signal passes them.
class PartReader {
 public:
  PartReader(const std::vector<std::string>& references, model::Channel& channel, Carries carries)
      : references_(references), channel_(channel), carries_(carries) {}

  void stage(Fields fields) {
    static const std::vector<std::pair<const char*, void (PartReader::*)(Fields&)>> kinds{
        {"divider", &PartReader::divider},       {"excitation", &PartReader::excitation},
        {"shunt", &PartReader::shunt},           {"amplifier", &PartReader::amplifier},
        {"difference", &PartReader::difference}, {"lowpass", &PartReader::lowpass},
        {"wire_drop", &PartReader::wire_drop}};
    int found = 0;
    for (const auto& [kind, read] : kinds) {
      found += fields.has(kind) ? 1 : 0;
      auto of = fields.table(kind);
      if (!of) continue;
      (this->*read)(*of);
      of->finish();
    }
    if (found != 1) {
      fields.report("", found == 0 ? "no part that is known" : "several parts in one place",
                    "one of divider, excitation, shunt, amplifier, difference, lowpass, "
                    "wire_drop");
    }
    fields.finish();
  }

  Carries carries() const { return carries_; }

 private:
  const std::vector<std::string>& references_;
  model::Channel& channel_;
  Carries carries_;

  // What the part takes must be what the one before it gives.
  void add(Fields& fields, model::Stage part) {
    if (carries_ != model::taken_by(part)) {
      fields.report("", fmt::format("{} at the input of this part", name(carries_)),
                    carries_ == Carries::volts ? "a part for volts: a divider, an amplifier"
                    : carries_ == Carries::ohms
                        ? "a divider with \"sensor\" as one of its resistors, or an excitation"
                        : "a shunt");
    }
    carries_ = Carries::volts;
    channel_.frontend.push_back(std::move(part));
  }

  void divider(Fields& fields) {
    for (const auto* key : {"top", "bottom"}) {
      fields.require(key, "a resistor, such as \"240 kohm ±0.1 % ±25 ppm/K\"");
    }
    const bool top = fields.is_text("top", "sensor"), bottom = fields.is_text("bottom", "sensor");
    if (top || bottom) {
      model::SensorDivider of{.sensor_at_bottom = bottom};
      if (auto v = fields.value(bottom ? "top" : "bottom", in("ohm"), above_zero()))
        of.bias_resistor = *v;
      fields.require("supply", "the name of a [reference] of this board");
      if (auto v = fields.name_of("supply", "reference", references_)) of.supply = *v;
      add(fields, std::move(of));
      return;
    }
    model::Divider of;
    if (auto v = fields.value("top", in("ohm"), not_negative())) of.top = *v;
    if (auto v = fields.value("bottom", in("ohm"), above_zero())) of.bottom = *v;
    if (auto v = fields.limits("network", in("", {Basis::relative}))) of.network = *v;
    if (auto v = fields.limits("tracking", in("", {Basis::relative}))) of.tracking = *v;
    if (!of.network.limits.empty() && !(of.top.limits.empty() && of.bottom.limits.empty())) {
      fields.report("network", "limits of the resistors beside those of their network",
                    "top and bottom without limits: network and tracking have them all");
    }
    add(fields, std::move(of));
  }

  void excitation(Fields& fields) {
    model::Excitation of;
    fields.require("current", "a current, such as \"1 mA ±0.1 %\"");
    if (auto v = fields.value("current", in("A"), above_zero())) of.current = *v;
    add(fields, std::move(of));
  }

  void shunt(Fields& fields) {
    model::Shunt of;
    fields.require("resistance", "a resistor, such as \"120 ohm ±0.1 %\"");
    if (auto v = fields.value("resistance", in("ohm"), above_zero())) of.resistance = *v;
    add(fields, std::move(of));
  }

  void amplifier(Fields& fields) {
    model::Amplifier of;
    if (fields.has("gains")) {
      gains(fields, of);
    } else {
      fields.require("gain", "a gain, such as \"100 ±0.5 % ±10 ppm/K\"");
      if (auto v = fields.value("gain", in(""))) of.gain = *v;
      if (of.gain.nominal == 0.0) fields.report("gain", "0", "a gain that is not 0");
    }
    if (auto v = fields.limits("offset", in("V", {Basis::absolute}))) of.offset = *v;
    of.noise = fields.noise("noise", in("V", {Basis::absolute}));
    if (auto v = fields.plain("noise_density", unit("V/sqrt(Hz)"), above_zero()))
      of.noise_density = *v;
    if (auto v = fields.plain("noise_corner", unit("Hz"), above_zero())) of.noise_corner = *v;
    of.bandwidth = fields.plain("bandwidth", unit("Hz"), above_zero());
    if (of.noise_corner > 0.0 && of.noise_density == 0.0) {
      fields.report("noise_corner", "a corner without a density", "noise_density beside it");
    }
    common_mode(fields, of);
    add(fields, std::move(of));
  }

  void gains(Fields& fields, model::Amplifier& of) {
    std::vector<std::string> names;
    auto table = fields.table("gains");
    if (!table) return;
    table->take_names();
    for (const auto& name : table->keys()) {
      const auto gain = table->value(name, in(""), above_zero());
      if (gain) of.gains.push_back({.name = name, .gain = *gain});
      names.push_back(name);
    }
    table->finish();
    fields.require("use", one_of("", names));
    if (auto v = fields.choice("use", names)) {
      of.use = names[*v];
      for (const auto& choice : of.gains) {
        if (choice.name == of.use) of.gain = choice.gain;
      }
    }
  }

  static void common_mode(Fields& fields, model::Amplifier& of) {
    if (auto v = fields.plain("common_mode", unit("V"))) of.common_mode = *v;
    if (auto v = fields.plain("rejection", {}, not_negative())) of.rejection = *v;
  }

  // The difference of two inputs: an amplifier of gain 1 that common mode gets into.
  void difference(Fields& fields) {
    model::Amplifier of{.gain = {.nominal = 1.0}};
    for (const auto* key : {"common_mode", "rejection"}) {
      fields.require(key, "{ common_mode = \"5 V\", rejection = \"100 uV/V\" }");
    }
    common_mode(fields, of);
    add(fields, std::move(of));
  }

  void wire_drop(Fields& fields) {
    model::WireDrop of;
    fields.require("voltage", "volts with their sign, such as \"-20 mV ±5 mV\"");
    if (auto v = fields.value("voltage", in("V"))) of.voltage = *v;
    of.taken_off = fields.flag("taken_off").value_or(false);
    add(fields, std::move(of));
  }

  void lowpass(Fields& fields) {
    model::Lowpass of;
    for (const auto* key : {"resistor", "capacitor"}) {
      fields.require(key, "{ resistor = \"1 kohm ±1 %\", capacitor = \"100 nF ±10 %\" }");
    }
    if (auto v = fields.value("resistor", in("ohm"), not_negative())) of.resistor = *v;
    if (auto v = fields.value("capacitor", in("F"), above_zero())) of.capacitor = *v;
    add(fields, std::move(of));
  }
};

}  // namespace

void read_signal_path(Fields& fields, const std::vector<std::string>& references,
                      model::Channel& channel) {
  auto carries = Carries::volts;
  if (auto sensor = fields.table("sensor")) {
    carries = read_sensor(*std::move(sensor), references, channel);
  }
  PartReader reader(references, channel, carries);
  for (auto& stage : fields.tables("frontend")) reader.stage(std::move(stage));
  if (reader.carries() != Carries::volts) {
    fields.report("frontend", fmt::format("{} at the converter's pin", name(reader.carries())),
                  "parts that end in volts: a divider with the sensor, an excitation, a shunt");
  }
}

}  // namespace tamlo::io
