// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "tamlo/check/check.hpp"

#include <functional>

#include "boards.hpp"

// Each finding with a board that raises it, and a neighbour that does not.
namespace tamlo::check {
namespace {

using testing::board;
using testing::Plain;
using testing::range;
using testing::value;

// Each entry of the catalogue: a board that raises it, its neighbour that does not, and what the
// remedy must name.
struct Entry {
  const char* identifier;
  Severity severity;
  std::function<model::Board()> raises;
  std::function<model::Board()> does_not;
  const char* remedy;
};

model::Board divided(const char* top, const char* span = "0..60 V",
                     const char* reference = "2.5 V") {
  return board({.reference = reference, .span = span, .top = top, .bottom = "10 kohm ±1 %"});
}
model::Board with_limit(model::Board b, const char* limit) {
  b.converters.front().input_limit = range(limit);
  return b;
}
model::Board with_target(model::Board b, const char* accuracy) {
  b.channels.front().target.accuracy = value(accuracy, "V").limits.front();
  return b;
}
model::Board with_convention(model::Convention convention) {
  auto b = board({.span = "0..2.4 V"});
  b.channels.front().scaling.convention = convention;
  return b;
}

model::Board with_quantity(const char* formula, const char* span, const char* of_channel) {
  auto b = board({.span = of_channel});
  b.quantities = {{.name = "q", .expression = formula, .span = range(span)}};
  return b;
}

model::Board attenuated(const char* chosen, const char* span) {
  auto b = board({.span = span});
  b.converters.front().attenuations = {
      {.name = "unity", .ratio = value("1", ""), .usable = range("0..2.45 V")},
      {.name = "quarter", .ratio = value("0.25", ""), .usable = range("0..9.6 V")}};
  b.channels.front().attenuation = chosen;
  return b;
}
// A sensor whose output falls: the low end of the span is at the top of the converter.
model::Board falling(const char* span) {
  auto b = board({.span = span});
  b.channels.front().sensor = model::StraightSensor{
      .sensitivity = value("-2 V", "V"), .offset = value("2.6 V", "V"), .at = 0.0};
  return b;
}
model::Board fed_from(const char* supply) {
  auto b = board({.reference = "2.5 V ±0.1 %", .span = "0..90 %"});
  b.references.push_back({.name = "supply", .voltage = value("2.4 V ±1 %", "V")});
  b.channels.front().sensor =
      model::Potentiometer{.resistance = value("10 kohm", "ohm"), .supply = supply};
  return b;
}

// 12 bits of 2.5 V in counts of 1 mV: code * 2500 / 4096, in 16 or 32 bits, rounded or not.
model::Board integers(int bits, bool rounded) {
  auto b = board({.span = "0..2.4 V"});
  model::IntegerScaling scaling{.steps = {{model::Operation::multiply, 2500}},
                                .bits = bits,
                                .is_signed = true,
                                .count = 1e-3};
  if (rounded) scaling.steps.push_back({model::Operation::add, 2048});
  scaling.steps.push_back({model::Operation::shift_right, 12});
  b.channels.front().scaling.integer = scaling;
  return b;
}

// One change to a plain channel of 0..2.4 V at 1 kSa/s.
template <class Change>
model::Board with(Change change, const char* span = "0..2.4 V") {
  auto b = board({.span = span});
  b.channels.front().rate = 1000.0;
  change(b, b.converters.front(), b.channels.front());
  return b;
}
using model::Board;
using model::Channel;
using model::Converter;

// Three zones, of which the middle one begins at 1.2 V; a code is 0.6 mV.
Board zoned(double end) {
  return with([&](Board&, Converter&, Channel& of) {
    of.zones = model::Zones{.edges = {1.2, end}, .names = {"low", "middle", "high"}};
  });
}

Board clocked(int divider) {
  return with([&](Board&, Converter& adc, Channel&) {
    adc.clock = model::Clock{.source = 80e6, .divider = divider, .limits = range("0.5..12 MHz")};
  });
}
Board at_rate(double rate) {
  return with([&](Board& b, Converter& adc, Channel& of) {
    adc.max_rate = 40e3;
    of.rate = rate;
    b.channels.push_back(of);
    b.channels.back().name = "y";
  });
}
Board sampled(double cycles) {
  return with([&](Board&, Converter& adc, Channel& of) {
    adc.clock = model::Clock{.source = 10e6, .divider = 1};
    adc.conversion = 13.0;
    adc.sampling_capacitor = 8e-12;
    adc.switch_resistance = 1e3;
    of.sampling = cycles;
    of.frontend = {
        model::Divider{.top = value("20 kohm", "ohm"), .bottom = value("20 kohm", "ohm")}};
  });
}
Board filtered(model::DigitalStage stage, double latency = 1.0) {
  return with([&](Board& b, Converter& adc, Channel& of) {
    b.conditions.mains = model::Value{50.0};
    adc.noise = value("1 LSB rms", "V");
    adc.max_rate = 1000.0;
    of.filter = {stage};
    of.target.latency = latency;
  });
}
Board disturbed(double frequency) {
  return with([&](Board&, Converter&, Channel& of) {
    of.average.time = 0.02;
    of.interference = {{.frequency = {frequency}, .amplitude = 0.05}};
  });
}
Board clipped_by(double amplitude) {
  return with([&](Board&, Converter&, Channel& of) {
    of.average.time = 0.02;
    of.interference = {{.frequency = {50.0}, .amplitude = amplitude}};
  });
}
Board with_mains_at(double rate) {
  return with([&](Board& b, Converter&, Channel& of) {
    b.conditions.mains = model::Value{50.0};
    of.rate = rate;
    of.average.time = 1.0;
  });
}
Board averaged(const char* noise, int count, double bits = 1.0) {
  return with([&](Board&, Converter& adc, Channel& of) {
    adc.noise = value(noise, "V");
    of.average.count = count;
    of.target.noise_free = bits;
  });
}
Board switching(double hysteresis) {
  return with([&](Board&, Converter& adc, Channel& of) {
    adc.noise = value("1 LSB rms", "V");
    of.threshold = {.at = 1.2, .hysteresis = hysteresis, .false_trip_every = 86400.0};
  });
}
Board reporting(model::RegisterFormat of) {
  return with([&](Board&, Converter& adc, Channel&) { adc.reporting = of; });
}
Board widened(model::Convention convention) {
  auto b = reporting({.kind = model::RegisterFormat::Kind::replicated, .bits = 16});
  b.channels.front().scaling.convention = convention;
  return b;
}
Board loop(double low, const char* shunt, double supply = 24.0) {
  return with(
      [&](Board&, Converter&, Channel& of) {
        of.sensor = model::CurrentLoop{.low = low, .supply = supply, .burden = 10.0};
        of.frontend = {model::Shunt{.resistance = value(shunt, "ohm")}};
      },
      "0..6 bar");
}
// A loop over 100 ohm, 4 mA is code 655.36; the firmware in counts of 1 mbar.
Board loop_in_integers(bool takes_zero_off) {
  auto b = loop(0.004, "100 ohm");
  model::IntegerScaling scaling{.count = 100.0};
  if (takes_zero_off) scaling.steps.push_back({model::Operation::add, -655});
  scaling.steps.push_back({model::Operation::multiply, 6000});
  scaling.steps.push_back({model::Operation::divide, takes_zero_off ? 2621 : 3277});
  b.channels.front().scaling.integer = scaling;
  return b;
}
Board platinum(int wires) {
  return with(
      [&](Board&, Converter&, Channel& of) {
        of.sensor = model::Platinum{
            .r0 = value("1000 ohm", "ohm"), .wires = wires, .lead = value("1 ohm", "ohm")};
        of.frontend = {model::Excitation{.current = value("1 mA", "A")}};
      },
      "0..100 degC");
}
Board light(const char* bias_resistor) {
  return with(
      [&](Board&, Converter&, Channel& of) {
        of.sensor = model::Photoresistor{
            .resistance = value("10 kohm", "ohm"), .at = 10.0, .exponent = value("1", "")};
        of.frontend = {model::SensorDivider{.bias_resistor = value(bias_resistor, "ohm"),
                                            .sensor_at_bottom = false,
                                            .supply = "ref"}};
      },
      "1..1000 lx");
}
Board amplified(const char* use, const char* span, const char* high = "10 ±0.01 %") {
  return with(
      [&](Board&, Converter&, Channel& of) {
        model::Amplifier amplifier{.gains = {{.name = "low", .gain = value("1", "")},
                                             {.name = "high", .gain = value(high, "")}},
                                   .use = use};
        amplifier.gain = amplifier.gains.at(use[0] == 'l' ? 0 : 1).gain;
        of.frontend = {amplifier};
      },
      span);
}

Board ending(const char* output, const char* gain = "10 ±0.5 %") {
  return with(
      [&](Board&, Converter&, Channel& of) {
        of.frontend = {model::Amplifier{.gain = value(gain, ""), .output = range(output)}};
      },
      "0.01..0.24 V");
}

// 2.4 V over the span at the output, at 10 kHz: 2 pi 10 kHz 1.2 V is 75.4 mV/us.
Board slewing(double slew, double fastest = 10e3) {
  return with(
      [&](Board&, Converter&, Channel& of) {
        of.frontend = {model::Amplifier{.gain = value("10", ""), .slew = slew}};
        of.fastest = fastest;
      },
      "0..0.24 V");
}
// 50 mV at the pin and 1 MHz: 314 mV/us.
Board disturbed_slewing(double slew) {
  auto b = slewing(slew);
  b.channels.front().fastest.reset();
  b.channels.front().interference = {{.frequency = value("1 MHz", "Hz"), .amplitude = 0.05}};
  return b;
}

// Off by so much at 0 V, where the codes end.
Board grounded(const char* offset) {
  return with(
      [&](Board&, Converter& adc, Channel& of) {
        adc.offset = value(offset, "V");
        of.target.accuracy = value("±0.5 % of span", "V").limits.front();
      },
      "0..2.4 V");
}

const Entry catalogue[] = {
    {"clock-out-of-limits", Severity::error, [] { return clocked(4); }, [] { return clocked(7); },
     "divider = 7: 11.43 MHz"},
    {"clock-out-of-limits", Severity::error, [] { return clocked(200); },
     [] { return clocked(160); }, "divider = 160"},
    {"rate-above-scan", Severity::error, [] { return at_rate(21e3); }, [] { return at_rate(20e3); },
     "rate = \"20 kSa/s\" at most"},
    // (10 + 1) kohm * 8 pF * 13 ln 2 = 0.793 us: 8 cycles.
    {"sampling-too-short", Severity::warning, [] { return sampled(7.0); },
     [] { return sampled(8.0); }, "8 cycles"},
    // 20 readings of 1 ms, and one conversion.
    {"latency-above-target", Severity::warning,
     [] { return filtered(model::MovingAverage{{.count = 20}}, 0.0205); },
     [] { return filtered(model::MovingAverage{{.count = 20}}, 0.0215); },
     "average and filter over"},
    {"window-not-whole-mains", Severity::advice,
     [] { return filtered(model::MovingAverage{{.count = 16}}); },
     [] { return filtered(model::MovingAverage{{.count = 20}}); }, "average over 20 ms, 1 period"},
    {"window-not-whole-mains", Severity::advice,
     [] { return filtered(model::MovingAverage{{.count = 50}}); },
     [] { return filtered(model::MovingAverage{{.count = 40}}); }, "periods"},
    {"mains-folded", Severity::warning, [] { return with_mains_at(10.0); },
     [] { return with_mains_at(1000.0); }, "1000 Sa/s"},
    // 0.2 V at the low end of the span shift its mean by up to 64 mV.
    {"interference-clips", Severity::warning, [] { return clipped_by(0.2); },
     [] { return clipped_by(0.0003); }, "a low-pass before the pin"},
    {"interference-in-readings", Severity::warning, [] { return disturbed(1010.0); },
     [] { return disturbed(1050.0); }, "a low-pass of"},
    {"averaging-buys-nothing", Severity::advice, [] { return averaged("0.05 LSB rms", 16); },
     [] { return averaged("0.6 LSB rms", 16); }, "noise of half a step"},
    // 0.6 LSB, 16 readings: 0.166 LSB, 4096 / (6.6 * 0.166) = 2^11.87.
    {"noise-free-missed", Severity::warning, [] { return averaged("0.6 LSB rms", 16, 12.0); },
     [] { return averaged("0.6 LSB rms", 16, 11.8); }, "times as many conversions"},
    // 1 LSB of noise at 1 kSa/s: 2 Q^-1(2 / 86400 / 1000) sigma = 10.9 codes between the edges. 6
    // mV are 10 of them, 6.5 mV are 11.
    {"hysteresis-too-small", Severity::warning, [] { return switching(6.0e-3); },
     [] { return switching(6.5e-3); }, "hysteresis = "},
    {"resolution-thrown-away", Severity::advice,
     [] { return reporting({.kind = model::RegisterFormat::Kind::divided, .divisor = 16}); },
     [] { return reporting({.kind = model::RegisterFormat::Kind::shifted, .bits = 16}); },
     "a step is then 610 uV"},
    {"count-convention", Severity::warning, [] { return widened(model::Convention::full_scale); },
     [] { return reporting({.kind = model::RegisterFormat::Kind::shifted, .bits = 16}); },
     "shift right by 4"},
    {"count-convention", Severity::warning, [] { return widened(model::Convention::last_code); },
     [] { return reporting({.kind = model::RegisterFormat::Kind::dropped, .bits = 4}); },
     "shift right by 4, and divide by 4096"},
    {"live-zero", Severity::advice, [] { return loop(0.0, "100 ohm"); },
     [] { return loop(0.004, "100 ohm"); }, "4 to 20 mA"},
    {"live-zero-ignored", Severity::error, [] { return loop_in_integers(false); },
     [] { return loop_in_integers(true); }, "take off 655 counts"},
    // 21 mA * 120 ohm = 2.52 V.
    {"loop-failure-unseen", Severity::warning, [] { return loop(0.004, "120 ohm"); },
     [] { return loop(0.004, "118 ohm"); }, "shunt smaller"},
    // 10 V of burden and 21 mA * 100 ohm.
    {"loop-compliance", Severity::error, [] { return loop(0.004, "100 ohm", 12.0); },
     [] { return loop(0.004, "100 ohm", 12.2); }, "supply at least 12.1 V"},
    {"lead-resistance", Severity::warning, [] { return platinum(2); }, [] { return platinum(3); },
     "three wires"},
    // From 100 kohm to 100 ohm: the best bias resistor is the geometric mean, 3.16 kohm.
    {"bias-resistor", Severity::advice, [] { return light("33 kohm"); },
     [] { return light("3.3 kohm"); }, "about 3.16 kohm"},
    {"gain-too-low", Severity::advice, [] { return amplified("low", "0..0.24 V"); },
     [] { return amplified("high", "0..0.24 V"); }, "use = \"high\""},
    // At its worst a gain of ±5 % leaves the range; one of ±1 % costs more than its finer steps
    // gain.
    {"gain-too-low", Severity::advice, [] { return amplified("low", "0..0.24 V"); },
     [] { return amplified("low", "0..0.24 V", "10 ±5 %"); }, "use = "},
    {"gain-too-low", Severity::advice, [] { return amplified("low", "0..0.24 V"); },
     [] { return amplified("low", "0..0.24 V", "10 ±1 %"); }, "use = "},
    {"gain-too-high", Severity::error, [] { return amplified("high", "0..0.3 V"); },
     [] { return amplified("low", "0..0.3 V"); }, "use = \"low\""},

    {"amplifier-slews", Severity::warning, [] { return slewing(75.3e3); },
     [] { return slewing(75.5e3); }, "an amplifier of 75400 V/s"},
    {"amplifier-slews", Severity::warning, [] { return disturbed_slewing(314.1e3); },
     [] { return disturbed_slewing(314.2e3); }, "an amplifier of 314000 V/s"},
    {"amplifier-saturates", Severity::error, [] { return ending("0.02..2.3 V"); },
     [] { return ending("0.02..2.42 V"); },
     "lower the gain of the amplifier from 10 to at most 9.48"},
    {"amplifier-saturates", Severity::error, [] { return ending("0.15..2.5 V"); },
     [] { return ending("0.05..2.5 V"); }, "move the signal before the amplifier by 5"},
    {"amplifier-near-its-end", Severity::warning, [] { return ending("0.02..2.405 V"); },
     [] { return ending("0.02..2.413 V"); }, "lower the gain of the amplifier from 10"},
    {"integer-overflow", Severity::error, [] { return integers(16, true); },
     [] { return integers(32, true); }, "a word of 32 bits"},
    {"integer-truncation", Severity::warning, [] { return integers(32, false); },
     [] { return integers(32, true); }, "round = true"},
    {"attenuation-exceeded", Severity::error, [] { return attenuated("unity", "0..3 V"); },
     [] { return attenuated("quarter", "0..3 V"); }, "attenuation = \"quarter\""},
    {"attenuation-exceeded", Severity::error, [] { return attenuated("quarter", "0..9.7 V"); },
     [] { return attenuated("quarter", "0..9.5 V"); }, "divide it before the pin"},
    {"attenuation-too-strong", Severity::advice, [] { return attenuated("quarter", "0..2.4 V"); },
     [] { return attenuated("unity", "0..2.4 V"); }, "attenuation = \"unity\""},
    {"sensor-not-ratiometric", Severity::advice, [] { return fed_from("supply"); },
     [] { return fed_from("ref"); }, "feed both from one reference"},
    // 60 V over 25 is 2.4 V; with the resistors at their worst 2.446 V.
    {"input-damage", Severity::error,
     [] { return with_limit(divided("240 kohm ±1 %"), "-0.3..2.43 V"); },
     [] { return with_limit(divided("240 kohm ±1 %"), "-0.3..2.45 V"); }, "raise the top"},
    {"input-damage", Severity::error,
     [] { return with_limit(board({.span = "-1..2 V"}), "-0.3..2.8 V"); },
     [] { return with_limit(board({.span = "-0.2..2 V"}), "-0.3..2.8 V"); }, "lift the signal"},
    {"input-damage", Severity::error,
     [] { return with_limit(board({.span = "0..2.4 V"}), "0..2.0 V"); },
     [] { return with_limit(board({.span = "0..2.0 V"}), "0..2.0 V"); },
     "put a divider before the converter that divides by at least 1.21"},
    {"span-beyond-range", Severity::error, [] { return divided("220 kohm"); },
     [] { return divided("250 kohm ±1 %"); }, "raise the top of the divider from 220 kohm"},
    {"span-beyond-range", Severity::error, [] { return board({.span = "-0.1..2.4 V"}); },
     [] { return board({.span = "0..2.4 V"}); }, "lift the signal by at least 100 mV"},
    {"ends-at-full-scale", Severity::advice, [] { return board({.span = "0..2.5 V"}); },
     [] { return board({.span = "0..2.499 V"}); }, "a span up to 2.5 V"},
    {"span-beyond-range", Severity::error, [] { return falling("0..100 %"); },
     [] { return falling("10..100 %"); }, "put a divider before the converter"},
    {"clips-at-tolerance", Severity::warning, [] { return divided("232 kohm ±1 %"); },
     [] { return divided("240 kohm ±1 %"); }, "raise the top"},
    {"clips-at-tolerance", Severity::warning, [] { return grounded("±25 LSB"); },
     [] { return grounded("±15 LSB"); }, "lift the signal by at least 15"},
    {"range-little-used", Severity::advice, [] { return board({.span = "0..1.2 V"}); },
     [] { return board({.span = "0..1.3 V"}); }, "attenuate less by up to 1.98"},
    {"target-below-resolution", Severity::error,
     [] { return with_target(board({.bits = 8, .span = "0..2.4 V"}), "±4 mV"); },
     [] { return with_target(board({.bits = 8, .span = "0..2.4 V"}), "±5 mV"); },
     "at least 9 bits"},
    {"count-convention", Severity::warning,
     [] { return with_convention(model::Convention::last_code); },
     [] { return with_convention(model::Convention::full_scale); }, "divide by 4096"},
    {"quantity-out-of-reach", Severity::warning,
     [] { return with_quantity("2 * x", "0..6 V", "0..2.4 V"); },
     [] { return with_quantity("2 * x", "0..4.8 V", "0..2.4 V"); }, "span = \"0..4.8 V\""},
    {"quantity-without-value", Severity::warning,
     [] { return with_quantity("x * x / x", "1..2 V", "0..2.4 V"); },
     [] { return with_quantity("x * x / x", "1..2 V", "0.1..2.4 V"); }, "leaves the place out"},
    {"zone-narrow", Severity::warning, [] { return zoned(1.202); }, [] { return zoned(1.204); },
     "fewer or wider zones"},
};

}  // namespace
}  // namespace tamlo::check
