// SPDX-License-Identifier: Apache-2.0
// Sensors and front ends, each as a board and as a loop.
#include "brute_force.hpp"

namespace tamlo::budget::brute_force {

std::vector<Case> channels_before_the_pin() {
  return {
      {"divider, 1 % resistors",
       [](Board&, Converter& adc, Channel& of) {
         divide(of, "240 kohm ±1 %", "10 kohm ±1 %");
         noise(adc, "0.7 LSB rms");
       },
       [](Random& r) -> Reads {
         const double top = 240e3 + r.flat(2400.0), bottom = 10e3 + r.flat(100.0);
         return [=, &r](double x) {
           return code(x * bottom / (top + bottom) / q + r.normal(0.7)) * q * 25.0;
         };
       },
       {0.0, 0.02, 30.0, 58.0},
       false,
       12,
       "0..60 V"},
      {"divider, offset, averaged",
       [](Board&, Converter& adc, Channel& of) {
         divide(of, "240 kohm ±0.1 %", "10 kohm ±0.1 %");
         noise(adc, "0.8 LSB rms");
         adc.offset = value("±5 LSB", "V");
         of.average.count = 16;
       },
       [](Random& r) -> Reads {
         const double top = 240e3 + r.flat(240.0), bottom = 10e3 + r.flat(10.0);
         const double offset = r.flat(5.0);
         return [=, &r](double x) {
           const double at = x * bottom / (top + bottom) / q + offset;
           return mean_of(16, [&] { return code(at + r.normal(0.8)); }) * q * 25.0;
         };
       },
       {0.0, 0.05, 30.0, 60.0},
       false,
       12,
       "0..60 V"},
      {"thermistor and bias resistor",
       [](Board&, Converter& adc, Channel& of) {
         of.sensor = model::Ntc{.law = model::Thermistor{.r25 = value("10 kohm ±1 %", "ohm"),
                                                         .beta = value("3950 K ±0.5 %", "K")}};
         of.frontend = {model::SensorDivider{.bias_resistor = value("10 kohm ±0.1 %", "ohm"),
                                             .supply = "ref"}};
         noise(adc, "0.6 LSB rms");
         of.average.count = 4;
       },
       [](Random& r) -> Reads {
         const double r25 = 10e3 + r.flat(100.0), beta = 3950.0 + r.flat(19.75);
         const double bias = 10e3 + r.flat(10.0);
         return [=, &r](double x) {
           const double sensor = ohms(x, r25, beta);
           const double at = sensor / (sensor + bias) * 4096.0;
           const double found = mean_of(4, [&] { return code(at + r.normal(0.6)); });
           const double back = found / 4096.0 / (1.0 - found / 4096.0) * 10e3;
           return 1.0 / (std::log(back / 10e3) / 3950.0 + 1.0 / 298.15);
         };
       },
       {273.15, 298.15, 363.15},
       false,
       12,
       "0..90 degC"},
      {"current loop over a shunt",
       [](Board&, Converter& adc, Channel& of) {
         of.sensor = model::CurrentLoop{.low = 0.004, .high = 0.020};
         of.frontend = {model::Shunt{.resistance = value("120 ohm ±0.2 %", "ohm")}};
         noise(adc, "0.6 LSB rms");
       },
       [](Random& r) -> Reads {
         const double shunt = 120.0 + r.flat(0.24);
         return [=, &r](double x) {
           const double volts = (0.004 + 0.016 * x / 6e5) * shunt;
           return (code(volts / q + r.normal(0.6)) * q / 120.0 - 0.004) / 0.016 * 6e5;
         };
       },
       {0.0, 3e5, 6e5},
       false,
       12,
       "0..6 bar"},
      {"potentiometer to full scale",
       [](Board&, Converter& adc, Channel& of) {
         of.sensor = model::Potentiometer{.resistance = value("10 kohm", "ohm"), .supply = "ref"};
         noise(adc, "0.7 LSB rms");
         adc.offset = value("±3 LSB", "V");
       },
       [](Random& r) -> Reads {
         const double offset = r.flat(3.0);
         return [=, &r](double x) { return code(x * 4096.0 + offset + r.normal(0.7)) / 4096.0; };
       },
       {0.0, 0.5, 0.999, 1.0},
       false,
       12,
       "0..100 %"},
      {"amplifier, gain and offset",
       [](Board&, Converter& adc, Channel& of) {
         of.frontend = {model::Amplifier{.gain = value("100 ±0.5 %", ""),
                                         .offset = value("±50 uV", "V"),
                                         .noise = value("4 uV rms", "V")}};
         noise(adc, "0.4 LSB rms");
       },
       [](Random& r) -> Reads {
         const double gain = 100.0 + r.flat(0.5), offset = r.flat(50e-6);
         return [=, &r](double x) {
           const double volts = (x + offset + r.normal(4e-6)) * gain;
           return code(volts / q + r.normal(0.4)) * q / 100.0;
         };
       },
       {0.0, 0.012, 0.0239},
       false,
       12,
       "0..24 mV"},
      {"the lowest four bits dropped",
       [](Board&, Converter& adc, Channel&) {
         adc.reporting = {.kind = model::RegisterFormat::Kind::dropped, .bits = 4};
         noise(adc, "0.7 LSB rms");
       },
       [](Random& r) -> Reads {
         return
             [&r](double x) { return std::floor(code(x / q + r.normal(0.7)) / 16.0) * 16.0 * q; };
       },
       {1.0, 2.3},
       true},
      {"a drop along the ground wire",
       [](Board&, Converter& adc, Channel& of) {
         of.frontend = {model::WireDrop{.voltage = value("-20 mV ±5 mV", "V")}};
         noise(adc, "0.7 LSB rms");
       },
       [](Random& r) -> Reads {
         const double drop = -0.020 + r.flat(0.005);
         return [=, &r](double x) { return code((x + drop) / q + r.normal(0.7)) * q; };
       },
       {0.0, 0.02, 1.0, 2.4}},
      {"the same, taken off by the firmware",
       [](Board&, Converter& adc, Channel& of) {
         of.frontend = {model::WireDrop{.voltage = value("-20 mV ±5 mV", "V"), .taken_off = true}};
         noise(adc, "0.7 LSB rms");
       },
       [](Random& r) -> Reads {
         const double drop = -0.020 + r.flat(0.005);
         return [=, &r](double x) { return code((x + drop) / q + r.normal(0.7)) * q + 0.020; };
       },
       {0.0, 0.02, 1.0, 2.4}},
      {"an attenuation in the converter",
       [](Board&, Converter& adc, Channel& of) {
         adc.attenuations = {{.name = "quarter",
                              .ratio = value("0.25 ±0.3 %", ""),
                              .usable = testing::range("0..9.6 V")}};
         of.attenuation = "quarter";
         noise(adc, "0.7 LSB rms");
       },
       [](Random& r) -> Reads {
         const double ratio = 0.25 * (1.0 + r.flat(0.003));
         return [=, &r](double x) { return code(x * ratio / q + r.normal(0.7)) * q * 4.0; };
       },
       {0.0, 5.0, 9.5},
       false,
       12,
       "0..9.5 V"},
      {"a light sensor's power law",
       [](Board&, Converter& adc, Channel& of) {
         of.sensor = model::Photoresistor{
             .resistance = value("20 kohm ±5 %", "ohm"), .at = 10.0, .exponent = value("0.7", "")};
         of.frontend = {model::SensorDivider{.bias_resistor = value("4.7 kohm ±1 %", "ohm"),
                                             .sensor_at_bottom = false,
                                             .supply = "ref"}};
         noise(adc, "0.7 LSB rms");
       },
       [](Random& r) -> Reads {
         const double at_ten = 20e3 + r.flat(1e3), bias = 4.7e3 + r.flat(47.0);
         return [=, &r](double x) {
           const double sensor = at_ten * std::pow(x / 10.0, -0.7);
           const double found = code(bias / (bias + sensor) * 4096.0 + r.normal(0.7)) / 4096.0;
           return 10.0 * std::pow(4.7e3 * (1.0 / found - 1.0) / 20e3, -1.0 / 0.7);
         };
       },
       {5.0, 30.0, 300.0},
       false,
       12,
       "5..400 lx"},
      {"a loop in integers, clamped at zero",
       [](Board&, Converter& adc, Channel& of) {
         of.sensor = model::CurrentLoop{.low = 0.004, .high = 0.020};
         of.frontend = {model::Shunt{.resistance = value("100 ohm ±0.1 %", "ohm")}};
         of.scaling.integer = model::IntegerScaling{.steps = {{model::Operation::add, -655},
                                                              {model::Operation::multiply, 6000},
                                                              {model::Operation::divide, 2621},
                                                              {model::Operation::clamp, 0, 6000}},
                                                    .count = 100.0};
         noise(adc, "1 LSB rms");
       },
       [](Random& r) -> Reads {
         const double shunt = 100.0 + r.flat(0.1);
         return [=, &r](double x) {
           const double volts = (0.004 + 0.016 * x / 6e5) * shunt;
           const auto found = static_cast<std::int64_t>(code(volts / q + r.normal(1.0)));
           return 100.0 * static_cast<double>(
                              std::clamp<std::int64_t>((found - 655) * 6000 / 2621, 0, 6000));
         };
       },
       {0.0, 2e3, 3e5, 6e5},
       false,
       12,
       "0..6 bar"},
      {"hum of a known amplitude at the ground",
       [](Board&, Converter& adc, Channel& of) {
         of.interference = {{.frequency = {50.0}, .amplitude = 5e-3}};
         noise(adc, "0.6 LSB rms");
       },
       [](Random& r) -> Reads {
         return [&r](double x) {
           const double hum = 5e-3 * std::sin(std::numbers::pi * r.flat(1.0));
           return code((x + hum) / q + r.normal(0.6)) * q;
         };
       },
       {0.0, 0.003, 1.2, 2.4}},
      {"decimals of a thermistor",
       [](Board&, Converter& adc, Channel& of) {
         of.sensor = model::Ntc{.law = model::Thermistor{.r25 = value("10 kohm ±0.2 %", "ohm"),
                                                         .beta = value("3950 K", "K")}};
         of.frontend = {
             model::SensorDivider{.bias_resistor = value("10 kohm", "ohm"), .supply = "ref"}};
         of.scaling.decimals = 0;
         noise(adc, "0.6 LSB rms");
       },
       [](Random& r) -> Reads {
         const double r25 = 10e3 + r.flat(20.0);
         return [=, &r](double x) {
           const double sensor = ohms(x, r25);
           const double part = code(sensor / (sensor + 10e3) * 4096.0 + r.normal(0.6)) / 4096.0;
           const double back = part / (1.0 - part);
           const double kelvin = 1.0 / (std::log(back) / 3950.0 + 1.0 / 298.15);
           return std::floor(kelvin - 273.15 + 0.5) + 273.15;
         };
       },
       {283.15, 298.55, 318.3},
       false,
       12,
       "0..60 degC"},
  };
}

}  // namespace tamlo::budget::brute_force
