// SPDX-License-Identifier: Apache-2.0
// One add for each kind of sensor and of front-end part.
#include <fmt/format.h>

#include <cmath>
#include <utility>

#include "builder.hpp"

namespace tamlo::chain {
namespace {

// IEC 60751:2008, table 3, wire-wound: base and slope of the limit in K.
std::pair<double, double> limits_of(model::PlatinumClass tolerance) {
  switch (tolerance) {
    case model::PlatinumClass::none:
      return {0.0, 0.0};
    case model::PlatinumClass::aa:
      return {0.10, 0.0017};
    case model::PlatinumClass::a:
      return {0.15, 0.002};
    case model::PlatinumClass::b:
      return {0.30, 0.005};
    case model::PlatinumClass::c:
      return {0.60, 0.010};
  }
  return {0.0, 0.0};
}

}  // namespace

void Builder::add(const model::LinearSensor& sensor) {
  const auto& span = chain_.channel.span;
  stage("sensor",
        LinearSensorLaw{.at_low = part("sensor at low", "sensor", sensor.at_low, "V"),
                        .at_high = part("sensor at high", "sensor", sensor.at_high, "V"),
                        .low = span.low,
                        .high = span.high},
        "V");
}

void Builder::add(const model::StraightSensor& sensor) {
  stage(
      "sensor",
      StraightSensorLaw{.sensitivity = part("sensor sensitivity", "sensor", sensor.sensitivity, ""),
                        .offset = part("sensor offset", "sensor", sensor.offset, "V"),
                        .at = sensor.at},
      "V");
}

void Builder::add(const model::Ntc& sensor) {
  const auto error = deviation("sensor accuracy", "sensor", sensor.accuracy, "K", {});
  if (const auto* of = std::get_if<model::Thermistor>(&sensor.law)) {
    stage("sensor",
          BetaLaw{.r25 = part("sensor r25", "sensor", of->r25, "ohm"),
                  .beta = part("sensor beta", "sensor", of->beta, "K"),
                  .error = error},
          "ohm");
  } else {
    const auto& curve = std::get<model::ThermistorCurve>(sensor.law);
    stage("sensor", SteinhartHart{.a = curve.a, .b = curve.b, .c = curve.c, .error = error}, "ohm");
  }
}

void Builder::add(const model::Platinum& sensor) {
  const auto [base, slope] = limits_of(sensor.tolerance);
  PlatinumLaw law{.r0 = part("sensor r0", "sensor", sensor.r0, "ohm"),
                  .error = 0,
                  .base = base,
                  .slope = slope,
                  .added = {},
                  .taken = {}};
  // In units of the class's own limit, whatever that is at the temperature.
  model::Value whole;
  if (base > 0.0) whole.limits.push_back({.size = 1.0});
  law.error = deviation("sensor class", "sensor", whole, "", {});
  if (base > 0.0) {
    chain_.sources.back().specification =
        fmt::format("±({:.2f} + {:.4f} |t|) K, t in degC", base, slope);
  }
  if (sensor.wires <= 3) law.added.push_back(part("lead 1", "sensor", sensor.lead, "ohm"));
  if (sensor.wires <= 3) {
    const auto second = part("lead 2", "sensor", sensor.lead, "ohm");
    (sensor.wires == 2 ? law.added : law.taken).push_back(second);
  }
  stage("sensor", std::move(law), "ohm");
}

void Builder::add(const model::Bridge& sensor) {
  stage("sensor",
        BridgeLaw{.excitation = reference(sensor.excitation),
                  .rated_output = part("bridge rated output", "sensor", sensor.rated_output, ""),
                  .rated_load = sensor.rated_load},
        "V");
}

void Builder::add(const model::CurrentLoop& sensor) {
  const auto& span = chain_.channel.span;
  const Scale of_span{.absolute = 1.0 / span.width(), .span = 1.0};
  stage("sensor",
        CurrentLoopLaw{
            .low = sensor.low,
            .high = sensor.high,
            .from = span.low,
            .to = span.high,
            .error = deviation("transmitter accuracy", "sensor", sensor.accuracy, "", of_span)},
        "A");
}

void Builder::add(const model::Potentiometer& sensor) {
  const auto& span = chain_.channel.span;
  stage(
      "sensor",
      PotentiometerLaw{.supply = reference(sensor.supply),
                       .resistance = part("sensor resistance", "sensor", sensor.resistance, "ohm"),
                       .low = span.low,
                       .high = span.high},
      "V");
}

void Builder::add(const model::Photoresistor& sensor) {
  stage(
      "sensor",
      PhotoresistorLaw{.resistance = part("sensor resistance", "sensor", sensor.resistance, "ohm"),
                       .exponent = part("sensor exponent", "sensor", sensor.exponent, ""),
                       .at = sensor.at},
      "ohm");
}

void Builder::add(const model::Curve& sensor) {
  const double width = chain_.channel.span.width();
  const auto error = deviation("sensor accuracy", "sensor", sensor.accuracy, "", {.span = width});
  stage("sensor", CurveLaw{.x = sensor.x, .y = sensor.y, .error = error}, sensor.output.symbol);
}

void Builder::add(const model::Divider& divider) {
  const auto name = unique("divider");
  DividerLaw law{.top = part(name + " top", name, divider.top, "ohm"),
                 .bottom = part(name + " bottom", name, divider.bottom, "ohm")};
  if (!divider.network.limits.empty()) {
    law.network =
        part(name + " network", name, {.nominal = 1.0, .limits = divider.network.limits}, "");
  }
  for (const auto& limit : divider.tracking.limits) {
    const auto kind = kind_of(limit);
    source(fmt::format("{} tracking {}", name, chain::name(kind)), law.top, name, limit,
           {.relative = divider.top.or_zero()}, kind);
  }
  stage(name, law, "V");
}

void Builder::add(const model::SensorDivider& divider) {
  const auto name = unique("divider");
  const auto* place = divider.sensor_at_bottom ? " top" : " bottom";
  add_feed(name,
           SensorDividerLaw{.supply = reference(divider.supply),
                            .bias_resistor = part(name + place, name, divider.bias_resistor, "ohm"),
                            .sensor_at_bottom = divider.sensor_at_bottom});
}

void Builder::add(const model::Excitation& excitation) {
  add_feed("excitation",
           ExcitationLaw{part("excitation current", "excitation", excitation.current, "A")});
}

void Builder::add_feed(const std::string& name, const Law& feed) {
  const auto* ntc =
      chain_.channel.sensor ? std::get_if<model::Ntc>(&*chain_.channel.sensor) : nullptr;
  if (ntc == nullptr || !ntc->dissipation) {
    stage(name, feed, "V");
    return;
  }
  SelfHeatedLaw law{.sensor = BetaLaw{},
                    .feed = ExcitationLaw{},
                    .dissipation = part("sensor dissipation", "sensor", *ntc->dissipation, "W/K")};
  if (const auto* beta = std::get_if<BetaLaw>(&chain_.stages.back().law)) law.sensor = *beta;
  if (const auto* three = std::get_if<SteinhartHart>(&chain_.stages.back().law)) {
    law.sensor = *three;
  }
  if (const auto* divider = std::get_if<SensorDividerLaw>(&feed)) law.feed = *divider;
  if (const auto* current = std::get_if<ExcitationLaw>(&feed)) law.feed = *current;
  chain_.stages.pop_back();
  stage("sensor in " + name, std::move(law), "V");
}

void Builder::add(const model::Shunt& shunt) {
  stage("shunt", ShuntLaw{part("shunt", "shunt", shunt.resistance, "ohm")}, "V");
}

void Builder::add(const model::Amplifier& amplifier) {
  const auto name = unique("amplifier");
  model::Value common_mode;
  const double most = std::abs(amplifier.common_mode) * amplifier.rejection;
  if (most > 0.0) common_mode.limits.push_back({.size = most, .unit = quantity::unit("V")});
  const auto rejected = deviation(name + " common mode", name, common_mode, "V", {});
  if (most > 0.0) {
    chain_.sources.back().specification = "±" + quantity::engineering(most, quantity::unit("V"), 4);
  }
  stage(name,
        AmplifierLaw{
            .gain = part(name + " gain", name, amplifier.gain, ""),
            .offset = deviation(name + " offset", name, amplifier.offset, "V", {}),
            .common_mode = rejected,
            .noise = deviation(name + " noise", name, amplifier.noise.value_or(model::Value{}), "V",
                               {}, Kind::noise)},
        "V");
  if (amplifier.noise_density > 0.0) densities_.push_back({chain_.stages.size() - 1, amplifier});
}

void Builder::add(const model::Lowpass& lowpass) {
  const auto name = unique("lowpass");
  stage(name,
        LowpassLaw{.resistor = part(name + " resistor", name, lowpass.resistor, "ohm"),
                   .capacitor = part(name + " capacitor", name, lowpass.capacitor, "F")},
        "V");
}

void Builder::add(const model::WireDrop& drop) {
  const auto name = unique("wire drop");
  const double volts = drop.voltage.or_zero();
  PinDisturbance law;
  if (drop.taken_off) {
    law.terms.push_back(part(name, name, drop.voltage, "V"));
  } else {
    law.terms.push_back(deviation(name, name, drop.voltage, "V", {.relative = std::abs(volts)}));
    law.unknown = volts;
  }
  stage(name, std::move(law), "V");
}

}  // namespace tamlo::chain
