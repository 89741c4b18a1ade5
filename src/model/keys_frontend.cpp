// SPDX-License-Identifier: Apache-2.0
// Keys of the parts before the pin: a new part is a struct (frontend.hpp), its kind here, and its
// law in the chain (chain/detail/parts).
#include "findings.hpp"
#include "key_rows.hpp"

namespace tamlo::model {
namespace {

const Keys& divider_keys() {
  constexpr auto resistor = "a resistor, such as \"240 kohm ±0.1 % ±25 ppm/K\"";
  static const Keys keys{{
                             value("top", "ohm", at<&Divider::top>)
                                 .not_negative()
                                 .needed(resistor)
                                 .means("resistor between the input and the pin"),
                             value("bottom", "ohm", at<&Divider::bottom>)
                                 .above_zero()
                                 .needed(resistor)
                                 .means("resistor between the pin and ground"),
                             limits("network", "", {Basis::relative}, at<&Divider::network>)
                                 .means("limits that both resistors of one network share", "none"),
                             limits("tracking", "", {Basis::relative}, at<&Divider::tracking>)
                                 .means("limits of their ratio", "none"),
                         },
                         +[](const Divider& divider, const Place& place) {
                           if (divider.network.limits.empty() ||
                               (divider.top.limits.empty() && divider.bottom.limits.empty()))
                             return;
                           place.add(
                               "network", "limits of the resistors beside those of their network",
                               "top and bottom without limits: network and tracking have them all");
                         }};
  return keys;
}

// A divider of which the sensor is `own`, and a resistor the other.
template <bool bottom>
const Keys& sensor_divider_keys() {
  constexpr auto sensor = bottom ? "bottom" : "top", resistor = bottom ? "top" : "bottom";
  static const Keys keys{{
      text(sensor, nullptr).means("`\"sensor\"`: the sensor is this resistor"),
      value(resistor, "ohm", at<&SensorDivider::bias_resistor>)
          .above_zero()
          .needed("a resistor, such as \"240 kohm ±0.1 % ±25 ppm/K\"")
          .means("the resistor beside the sensor"),
      name_in_section("supply", "reference", at<&SensorDivider::supply>)
          .needed("the name of a [reference] of this board")
          .means("reference that feeds both"),
  }};
  return keys;
}

template <bool bottom>
Kind sensor_divider() {
  return {.name = "divider",
          .keys = sensor_divider_keys<bottom>,
          .when = {bottom ? "bottom=sensor" : "top=sensor"},
          .make = [](void* object) -> void* {
            return &static_cast<Stage*>(object)->emplace<SensorDivider>(
                SensorDivider{.sensor_at_bottom = bottom});
          },
          .held = [](const void* object) -> const void* {
            const auto* divider = std::get_if<SensorDivider>(static_cast<const Stage*>(object));
            return divider != nullptr && divider->sensor_at_bottom == bottom ? divider : nullptr;
          },
          .example = bottom ? "{ divider = { top = \"10 kohm ±0.1 %\", bottom = \"sensor\", supply "
                              "= \"REFERENCE\" } }"
                            : "{ divider = { top = \"sensor\", bottom = \"10 kohm ±0.1 %\", supply "
                              "= \"REFERENCE\" } }",
          .meaning = "ohms; the sensor is one of the two"};
}

const Keys& excitation_keys() {
  static const Keys keys{{value("current", "A", at<&Excitation::current>)
                              .above_zero()
                              .needed("a current, such as \"1 mA ±0.1 %\"")
                              .means("current through the sensor")}};
  return keys;
}

const Keys& shunt_keys() {
  static const Keys keys{{value("resistance", "ohm", at<&Shunt::resistance>)
                              .above_zero()
                              .needed("a resistor, such as \"120 ohm ±0.1 %\"")
                              .means("resistor that turns the current into volts")}};
  return keys;
}

Key common_mode() {
  return plain("common_mode", "V", at<&Amplifier::common_mode>)
      .means("voltage that both inputs share", "0 V");
}
Key rejection() {
  return plain("rejection", "", at<&Amplifier::rejection>)
      .not_negative()
      .means("`\"10 uV/V\"`: what a volt of common mode may add at the input", "none");
}

void amplifier_relations(const Amplifier& amplifier, const Place& place) {
  if (amplifier.gain.or_zero() == 0.0) place.add("gain", "0", "a gain that is not 0");
  if (amplifier.noise_corner <= 0.0 || amplifier.noise_density != 0.0) return;
  place.add("noise_corner", "a corner without a density", "noise_density beside it");
}

std::vector<Key> with_amplifier_keys(std::vector<Key> gain) {
  const std::vector<Key> all{
      limits("offset", "V", {Basis::absolute}, at<&Amplifier::offset>)
          .means("input-referred, `\"±50 uV ±0.3 uV/K\"`", "none"),
      limits("bias_current", "A", {Basis::absolute}, at<&Amplifier::bias_current>)
          .means("`\"±10 nA\"`: flows through the resistance before it", "none"),
      range("output", "V", at<&Amplifier::output>)
          .means("`\"0.02..4.98 V\"`: where its output ends, short of its rails", "no end"),
      noise("noise", "V", {Basis::absolute}, at<&Amplifier::noise>)
          .means("input-referred, `\"1 uV rms\"`", "none"),
      plain("noise_density", "V/sqrt(Hz)", at<&Amplifier::noise_density>)
          .above_zero()
          .absent_is(0.0)
          .means("`\"20 nV/sqrt(Hz)\"`, in place of noise or beside it", "none"),
      plain("noise_corner", "Hz", at<&Amplifier::noise_corner>)
          .above_zero()
          .absent_is(0.0)
          .means("`\"100 Hz\"`: below it the density rises as 1/f", "none"),
      plain("bandwidth", "Hz", at<&Amplifier::bandwidth>)
          .above_zero()
          .means("-3 dB bandwidth", "none: what follows limits it"),
      plain("slew", "V/s", at<&Amplifier::slew>)
          .above_zero()
          .means("`\"0.6 V/us\"`: the fastest that its output moves", "none: as fast as is asked"),
      common_mode(),
      rejection()};
  gain.insert(gain.end(), all.begin(), all.end());
  return gain;
}

const Keys& amplifier_keys() {
  static const Keys keys{
      with_amplifier_keys({value("gain", "", at<&Amplifier::gain>)
                               .needed("a gain, such as \"100 ±0.5 % ±10 ppm/K\"")
                               .means("gain and its limits")}),
      +amplifier_relations};
  return keys;
}

const Keys& gain_keys() {
  static const Keys keys{{value("*", "", at<&GainChoice::gain>)
                              .above_zero()
                              .with_own_reader()
                              .means("a gain by a name of your own")}};
  return keys;
}

const Keys& switched_amplifier_keys() {
  static const Keys keys{
      with_amplifier_keys({table("gains", inner<&Amplifier::gains>(gain_keys))
                               .with_own_reader()
                               .means("`{ x1 = \"1 ±0.02 %\", x16 = \"16 ±0.05 %\" }`: gains that "
                                      "it can be switched to"),
                           text("use", at<&Amplifier::use>)
                               .with_own_reader()
                               .means("name of the gain in use", "required beside gains")}),
      +amplifier_relations};
  return keys;
}

// An amplifier with one gain, or one that can be switched.
Kind amplifier(bool switched) {
  auto kind = kind_of<Stage, Amplifier>(
      "amplifier", switched ? switched_amplifier_keys : amplifier_keys,
      switched
          ? "{ amplifier = { gains = { x1 = \"1 ±0.02 %\", x16 = \"16 ±0.05 %\" }, use = \"x16\", "
            "offset = \"±50 uV\" } }"
          : "{ amplifier = { gain = \"100 ±0.5 %\", offset = \"±50 uV ±0.3 uV/K\", noise = \"1 uV "
            "rms\", common_mode = \"2.5 V\", rejection = \"10 uV/V\" } }",
      switched ? "volts; gains that it can be switched to, and the one in use"
               : "volts; gain * (v + offset)");
  if (switched) kind.when = {"gains"};
  kind.held = [](const void* object) -> const void* {
    const auto* part = std::get_if<Amplifier>(static_cast<const Stage*>(object));
    return part != nullptr && part->gains.empty() ? part : nullptr;
  };
  if (switched) {
    kind.held = [](const void* object) -> const void* {
      const auto* part = std::get_if<Amplifier>(static_cast<const Stage*>(object));
      return part != nullptr && !part->gains.empty() ? part : nullptr;
    };
  }
  return kind;
}

// An amplifier of gain 1 that common mode gets into.
const Keys& difference_keys() {
  constexpr auto both = "{ common_mode = \"5 V\", rejection = \"100 uV/V\" }";
  static const Keys keys{{common_mode().needed(both), rejection().needed(both)}};
  return keys;
}

const Keys& lowpass_keys() {
  constexpr auto both = "{ resistor = \"1 kohm ±1 %\", capacitor = \"100 nF ±10 %\" }";
  static const Keys keys{{value("resistor", "ohm", at<&Lowpass::resistor>)
                              .not_negative()
                              .needed(both)
                              .means("resistor in the signal's way"),
                          value("capacitor", "F", at<&Lowpass::capacitor>)
                              .above_zero()
                              .needed(both)
                              .means("capacitor to ground")}};
  return keys;
}

const Keys& wire_drop_keys() {
  static const Keys keys{
      {value("voltage", "V", at<&WireDrop::voltage>)
           .needed("volts with their sign, such as \"-20 mV ±5 mV\"")
           .means("volts that the wire adds, with their sign"),
       flag("taken_off", at<&WireDrop::taken_off>)
           .means("the firmware subtracts the nominal value; otherwise that value is a bias",
                  "false")}};
  return keys;
}

}  // namespace

const std::vector<Kind>& part_kinds() {
  static const std::vector<Kind> kinds = [] {
    auto difference = kind_of<Stage, Amplifier>(
        "difference", difference_keys,
        "{ difference = { common_mode = \"5 V\", rejection = \"100 uV/V\" } }",
        "volts; the difference of two inputs");
    difference.make = [](void* object) -> void* {
      return &static_cast<Stage*>(object)->emplace<Amplifier>(Amplifier{.gain = {.nominal = 1.0}});
    };
    difference.held = [](const void*) -> const void* { return nullptr; };  // is an amplifier then
    return std::vector<Kind>{
        kind_of<Stage, Divider>(
            "divider", divider_keys,
            "{ divider = { top = \"240 kohm ±0.1 %\", bottom = \"10 kohm ±0.1 %\" } }",
            "volts; the pin is between the two. With `network = \"±1 % ±50 ppm/K\", tracking = "
            "\"±0.05 % ±5 ppm/K\"` two resistors of one network: what they share cancels, their "
            "tracking does not"),
        sensor_divider<true>(),
        sensor_divider<false>(),
        kind_of<Stage, Excitation>("excitation", excitation_keys,
                                   "{ excitation = { current = \"1 mA ±0.1 %\" } }",
                                   "ohms; a current through the sensor"),
        kind_of<Stage, Shunt>("shunt", shunt_keys,
                              "{ shunt = { resistance = \"120 ohm ±0.1 %\" } }",
                              "amperes; turns a current into volts"),
        amplifier(false),
        amplifier(true),
        difference,
        kind_of<Stage, Lowpass>(
            "lowpass", lowpass_keys,
            "{ lowpass = { resistor = \"1 kohm ±1 %\", capacitor = \"100 nF ±10 %\" } }",
            "volts; one pole; as the last part its capacitor is at the pin"),
        kind_of<Stage, WireDrop>(
            "wire_drop", wire_drop_keys,
            "{ wire_drop = { voltage = \"-20 mV ±5 mV\", taken_off = true } }",
            "volts; what a wire adds: a ground that other currents flow through"),
    };
  }();
  return kinds;
}

}  // namespace tamlo::model
