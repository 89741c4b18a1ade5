// SPDX-License-Identifier: Apache-2.0
#include "tamlo/model/signal_path.hpp"

#include <algorithm>
#include <cmath>

#include "findings.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo::model {
namespace {

// Each checks a part.
class PathValidator {
 public:
  PathValidator(std::string path, Findings& findings) : path_(std::move(path)), f_(findings) {}

  Carries carries() const { return carries_; }

  void sensor(const Sensor& sensor) {
    at_ = path_ + ".sensor";
    std::visit([&](const auto& of) { check(of); }, sensor);
    carries_ = given_by(sensor);
  }
  void part(const Stage& part, std::size_t number) {
    at_ = path_ + ".frontend[" + std::to_string(number) + "]";
    std::visit([&](const auto& of) { check(of); }, part);
    if (carries_ != taken_by(part)) {
      f_.add("not-a-signal", at_, std::string(name(carries_)) + " at the input of this part",
             "a part that takes " + std::string(name(carries_)));
    }
    carries_ = Carries::volts;
  }

 private:
  std::string path_, at_;
  Findings& f_;
  Carries carries_ = Carries::volts;

  void check(const LinearSensor& of) {
    f_.value(at_ + ".at_low", of.at_low);
    f_.value(at_ + ".at_high", of.at_high);
    if (of.at_low.or_zero() == of.at_high.or_zero()) {
      f_.add("out-of-bounds", at_, "the same output at both ends", "two different outputs");
    }
  }
  void check(const StraightSensor& of) {
    f_.value(at_ + ".sensitivity", of.sensitivity);
    f_.value(at_ + ".offset", of.offset);
    f_.finite(at_ + ".at", of.at);
    if (of.sensitivity.or_zero() == 0.0) {
      f_.add("out-of-bounds", at_ + ".sensitivity", "0", "a sensitivity that is not 0");
    }
  }
  void check(const Ntc& of) {
    if (const auto* law = std::get_if<Thermistor>(&of.law)) {
      f_.positive(at_ + ".r25", law->r25);
      f_.positive(at_ + ".beta", law->beta);
    } else {
      const auto& curve = std::get<ThermistorCurve>(of.law);
      for (const double c : {curve.a, curve.b, curve.c}) f_.finite(at_, c);
    }
    f_.value(at_ + ".accuracy", of.accuracy);
    if (of.dissipation) f_.positive(at_ + ".dissipation", *of.dissipation);
  }
  void check(const Platinum& of) {
    f_.positive(at_ + ".r0", of.r0);
    f_.value(at_ + ".lead", of.lead);
    f_.at_least(at_ + ".lead", of.lead.or_zero(), 0.0);
    f_.within(at_ + ".wires", of.wires, 2, 4);
  }
  void check(const Bridge& of) {
    f_.value(at_ + ".rated_output", of.rated_output);
    f_.finite(at_ + ".rated_load", of.rated_load);
    if (of.rated_load == 0.0 || of.rated_output.or_zero() == 0.0) {
      f_.add("out-of-bounds", at_, "a bridge without an output", "a rated output and load");
    }
  }
  void check(const CurrentLoop& of) {
    f_.at_least(at_ + ".low", of.low, 0.0);
    f_.above(at_ + ".high", of.high, of.low);
    f_.value(at_ + ".accuracy", of.accuracy);
  }
  void check(const Potentiometer& of) { f_.positive(at_ + ".resistance", of.resistance); }
  void check(const Photoresistor& of) {
    f_.positive(at_ + ".resistance", of.resistance);
    f_.above(at_ + ".at", of.at, 0.0);
    f_.value(at_ + ".exponent", of.exponent);
  }
  void check(const Curve& of) {
    for (const double x : of.x) f_.finite(at_ + ".table", x);
    for (const double y : of.y) f_.finite(at_ + ".table", y);
    if (of.x.size() < 2 || of.x.size() != of.y.size()) {
      f_.add("out-of-bounds", at_ + ".table", "a curve of less than two points",
             "as many outputs as inputs, two or more");
    }
    f_.value(at_ + ".accuracy", of.accuracy);
  }

  void check(const Divider& of) {
    f_.value(at_ + ".divider.top", of.top);
    f_.at_least(at_ + ".divider.top", of.top.or_zero(), 0.0);
    f_.positive(at_ + ".divider.bottom", of.bottom);
    f_.value(at_ + ".divider.network", of.network);
    f_.value(at_ + ".divider.tracking", of.tracking);
  }
  void check(const SensorDivider& of) { f_.positive(at_ + ".divider", of.bias_resistor); }
  void check(const Excitation& of) { f_.positive(at_ + ".excitation.current", of.current); }
  void check(const Shunt& of) { f_.positive(at_ + ".shunt.resistance", of.resistance); }
  void check(const Amplifier& of) {
    f_.value(at_ + ".amplifier.gain", of.gain);
    if (of.gain.or_zero() == 0.0) {
      f_.add("out-of-bounds", at_ + ".amplifier.gain", "0", "a gain that is not 0");
    }
    f_.value(at_ + ".amplifier.offset", of.offset);
    if (of.noise) f_.value(at_ + ".amplifier.noise", *of.noise);
    f_.at_least(at_ + ".amplifier.noise_density", of.noise_density, 0.0);
    f_.at_least(at_ + ".amplifier.noise_corner", of.noise_corner, 0.0);
    if (of.bandwidth) f_.above(at_ + ".amplifier.bandwidth", *of.bandwidth, 0.0);
    f_.finite(at_ + ".amplifier.common_mode", of.common_mode);
    f_.finite(at_ + ".amplifier.rejection", of.rejection);
  }
  void check(const Lowpass& of) {
    f_.value(at_ + ".lowpass.resistor", of.resistor);
    f_.at_least(at_ + ".lowpass.resistor", of.resistor.or_zero(), 0.0);
    f_.positive(at_ + ".lowpass.capacitor", of.capacitor);
  }
  void check(const WireDrop& of) { f_.value(at_ + ".wire_drop.voltage", of.voltage); }
};

}  // namespace

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

Carries given_by(const Sensor& sensor) {
  if (const auto* curve = std::get_if<Curve>(&sensor)) {
    const auto& dimension = curve->output.dimension;
    if (dimension == quantity::unit("ohm").dimension) return Carries::ohms;
    return dimension == quantity::unit("A").dimension ? Carries::amperes : Carries::volts;
  }
  if (std::holds_alternative<CurrentLoop>(sensor)) return Carries::amperes;
  const bool ohms = std::holds_alternative<Ntc>(sensor) ||
                    std::holds_alternative<Platinum>(sensor) ||
                    std::holds_alternative<Photoresistor>(sensor);
  return ohms ? Carries::ohms : Carries::volts;
}

Carries taken_by(const Stage& part) {
  if (std::holds_alternative<Shunt>(part)) return Carries::amperes;
  const bool ohms =
      std::holds_alternative<SensorDivider>(part) || std::holds_alternative<Excitation>(part);
  return ohms ? Carries::ohms : Carries::volts;
}

void validate_signal_path(const Channel& channel, Findings& findings) {
  PathValidator path("channel." + channel.name, findings);
  if (channel.sensor) path.sensor(*channel.sensor);
  for (std::size_t i = 0; i < channel.frontend.size(); ++i) path.part(channel.frontend[i], i + 1);
  if (path.carries() != Carries::volts) {
    findings.add("not-a-signal", "channel." + channel.name + ".frontend",
                 std::string(name(path.carries())) + " at the converter's pin",
                 "a part that makes volts of it: a divider, an excitation, a shunt");
  }
}

}  // namespace tamlo::model
