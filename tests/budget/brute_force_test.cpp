// SPDX-License-Identifier: Apache-2.0
// Budgets of channels of all kinds against units that convert one code at a time. Every channel has
// its own loop, written here in plain arithmetic: nothing of the chain is in it.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <numbers>
#include <random>

#include "boards.hpp"
#include "tamlo/budget/budget.hpp"

namespace tamlo::budget {
namespace {

using model::Board;
using model::Channel;
using model::Converter;
using testing::value;

// What is drawn of a unit, and what is new at every conversion.
class Random {
 public:
  double flat(double limit) { return limit * (2.0 * uniform_(engine_) - 1.0); }
  double normal(double sigma) { return sigma * normal_(engine_); }

 private:
  std::mt19937_64 engine_{20261126};
  std::uniform_real_distribution<double> uniform_{};
  std::normal_distribution<double> normal_{};
};

using Reads = std::function<double(double x)>;  // what one unit shows for a quantity

struct Case {
  const char* name;
  std::function<void(Board&, Converter&, Channel&)> describe;
  std::function<Reads(Random&)> unit;
  std::vector<double> at;
  bool anywhere = false;  // within a step: a quiet converter shows one error at one place
  int bits = 12;
  const char* span = "0..2.4 V";
};

constexpr double q = 2.5 / 4096.0;

// The code of a converter of so many codes from 0 on.
double code(double unquantised, double codes = 4096.0) {
  return std::clamp(std::floor(unquantised + 0.5), 0.0, codes - 1.0);
}

double mean_of(int count, const std::function<double()>& one) {
  double sum = 0.0;
  for (int i = 0; i < count; ++i) sum += one();
  return sum / count;
}

double median_of(int count, const std::function<double()>& one) {
  std::vector<double> all;
  for (int i = 0; i < count; ++i) all.push_back(one());
  std::ranges::nth_element(all, all.begin() + count / 2);
  return all[static_cast<std::size_t>(count / 2)];
}

// Ohms of a thermistor of 10 kohm at 25 degC.
double ohms(double kelvin, double r25 = 10e3, double beta = 3950.0) {
  return r25 * std::exp(beta * (1.0 / kelvin - 1.0 / 298.15));
}

void divide(Channel& of, const char* top, const char* bottom) {
  of.frontend = {model::Divider{.top = value(top, "ohm"), .bottom = value(bottom, "ohm")}};
}
void noise(Converter& adc, const char* text) { adc.noise = value(text, "V"); }

const std::vector<Case>& cases() {
  static const std::vector<Case> all{
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
         of.frontend = {
             model::SensorDivider{.partner = value("10 kohm ±0.1 %", "ohm"), .supply = "ref"}};
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
         of.sensor = model::Loop{.low = 0.004, .high = 0.020};
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
         of.sensor = model::Position{.resistance = value("10 kohm", "ohm"), .supply = "ref"};
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
      {"offset binary, both ends",
       [](Board&, Converter& adc, Channel&) {
         adc.input_range = testing::range("-2.5..2.5 V");
         adc.coding = model::Coding::offset_binary;
         adc.gain = value("±6 LSB", "V");
         noise(adc, "2 LSB rms");
       },
       [](Random& r) -> Reads {
         const double gain = 1.0 + r.flat(6.0) / 4096.0;
         return [=, &r](double x) {
           return (code(x / (2.0 * q) * gain + 2048.0 + r.normal(2.0)) - 2048.0) * 2.0 * q;
         };
       },
       {-2.5, -1.0, 0.0, 2.49},
       false,
       12,
       "-2.5..2.5 V"},
      {"gain from code 0 of a negative reference",
       [](Board& b, Converter& adc, Channel&) {
         b.references.push_back({.name = "low", .voltage = value("-2.5 V", "V")});
         adc.negative_reference = "low";
         adc.gain = value("±20 LSB", "V");
         noise(adc, "0.7 LSB rms");
       },
       [](Random& r) -> Reads {
         const double gain = 1.0 + r.flat(20.0) / 4096.0;
         return [=, &r](double x) {
           return code((x + 2.5) / (2.0 * q) * gain + r.normal(0.7)) * 2.0 * q - 2.5;
         };
       },
       {-2.5, -1.0, 0.0, 2.4},
       false,
       12,
       "-2.5..2.5 V"},
      {"a converter that truncates",
       [](Board&, Converter& adc, Channel&) {
         adc.first_transition = model::FirstTransition::full_code;
         noise(adc, "0.6 LSB rms");
       },
       [](Random& r) -> Reads {
         return [&r](double x) { return code(x / q + r.normal(0.6) - 0.5) * q; };
       },
       {0.0, 1.0, 2.4}},
      {"the same, quiet",
       [](Board&, Converter& adc, Channel&) {
         adc.first_transition = model::FirstTransition::full_code;
       },
       [](Random&) -> Reads { return [](double x) { return code(x / q - 0.5) * q; }; },
       {1.0, 2.3},
       true},
      {"quiet, ten bits",
       [](Board&, Converter&, Channel&) {},
       [](Random&) -> Reads {
         return [](double x) { return code(x / (4.0 * q), 1024.0) * 4.0 * q; };
       },
       {1.0, 2.3},
       true,
       10},
      {"the lowest four bits dropped",
       [](Board&, Converter& adc, Channel&) {
         adc.reporting = {.kind = model::Reporting::Kind::dropped, .bits = 4};
         noise(adc, "0.7 LSB rms");
       },
       [](Random& r) -> Reads {
         return
             [&r](double x) { return std::floor(code(x / q + r.normal(0.7)) / 16.0) * 16.0 * q; };
       },
       {1.0, 2.3},
       true},
      {"divided by 16, averaged",
       [](Board&, Converter& adc, Channel& of) {
         adc.reporting = {.kind = model::Reporting::Kind::divided, .divisor = 16};
         noise(adc, "12 LSB rms");
         of.average.count = 8;
       },
       [](Random& r) -> Reads {
         return [&r](double x) {
           return mean_of(8, [&] { return std::floor(code(x / q + r.normal(12.0)) / 16.0); }) *
                  16.0 * q;
         };
       },
       {0.0, 1.0, 2.4}},
      {"left-aligned in 16 bits",
       [](Board&, Converter& adc, Channel&) {
         adc.reporting = {.kind = model::Reporting::Kind::shifted, .bits = 16};
         adc.offset = value("±4 LSB", "V");
         noise(adc, "0.7 LSB rms");
       },
       [](Random& r) -> Reads {
         const double offset = r.flat(4.0);
         return [=, &r](double x) {
           return 16.0 * code(x / q + offset + r.normal(0.7)) * 2.5 / 65536.0;
         };
       },
       {0.0, 0.001, 1.0, 2.4}},
      {"left-aligned, of which the high byte is read",
       [](Board&, Converter& adc, Channel& of) {
         adc.formats_before = {{.kind = model::Reporting::Kind::shifted, .bits = 16}};
         adc.reporting = {.kind = model::Reporting::Kind::dropped, .bits = 8};
         noise(adc, "10 LSB rms");
         of.average.count = 4;
       },
       [](Random& r) -> Reads {
         return [&r](double x) {
           const auto one = [&] { return std::floor(16.0 * code(x / q + r.normal(10.0)) / 256.0); };
           return mean_of(4, one) * 2.5 / 256.0;
         };
       },
       {0.0, 1.0, 2.4}},
      {"widened by its own high bits",
       [](Board&, Converter& adc, Channel&) {
         adc.reporting = {.kind = model::Reporting::Kind::replicated, .bits = 16};
         noise(adc, "0.7 LSB rms");
       },
       [](Random& r) -> Reads {
         return [&r](double x) {
           const double found = code(x / q + r.normal(0.7));
           return (16.0 * found + std::floor(found / 256.0)) * 2.5 / 65536.0;
         };
       },
       {0.0, 1.2, 2.4}},
      {"a firmware that divides by the last code",
       [](Board&, Converter& adc, Channel& of) {
         of.scaling.convention = model::Convention::last_code;
         noise(adc, "0.8 LSB rms");
       },
       [](Random& r) -> Reads {
         return [&r](double x) { return code(x / q + r.normal(0.8)) * 2.5 / 4095.0; };
       },
       {0.0, 1.2, 2.4}},
      {"taught points",
       [](Board&, Converter& adc, Channel& of) {
         of.scaling.taught = model::TaughtLine{
             .low_code = 160.0, .high_code = 3900.0, .low_reading = 0.1, .high_reading = 2.38};
         adc.offset = value("±2 LSB", "V");
         noise(adc, "0.7 LSB rms");
       },
       [](Random& r) -> Reads {
         const double offset = r.flat(2.0);
         return [=, &r](double x) {
           const double found = code(x / q + offset + r.normal(0.7));
           return 0.1 + (found - 160.0) / 3740.0 * 2.28;
         };
       },
       {0.1, 1.2, 2.3}},
      {"median of five",
       [](Board&, Converter& adc, Channel& of) {
         of.filter = {model::Median{5}};
         noise(adc, "1.5 LSB rms");
       },
       [](Random& r) -> Reads {
         return [&r](double x) {
           return median_of(5, [&] { return code(x / q + r.normal(1.5)); }) * q;
         };
       },
       {0.0, 0.001, 1.0, 2.4}},
      {"median of five, little noise",
       [](Board&, Converter& adc, Channel& of) {
         of.filter = {model::Median{5}};
         noise(adc, "0.3 LSB rms");
       },
       [](Random& r) -> Reads {
         return [&r](double x) {
           return median_of(5, [&] { return code(x / q + r.normal(0.3)); }) * q;
         };
       },
       {1.0, 2.3},
       true},
      {"median of means of four",
       [](Board&, Converter& adc, Channel& of) {
         of.average.count = 4;
         of.filter = {model::Median{3}};
         noise(adc, "2 LSB rms");
       },
       [](Random& r) -> Reads {
         return [&r](double x) {
           const auto one = [&] { return code(x / q + r.normal(2.0)); };
           return median_of(3, [&] { return mean_of(4, one); }) * q;
         };
       },
       {0.0, 1.0, 2.4}},
      {"mean of medians",
       [](Board&, Converter& adc, Channel& of) {
         of.filter = {model::Median{3}, model::BlockAverage{{.count = 3}}};
         noise(adc, "2 LSB rms");
       },
       [](Random& r) -> Reads {
         return [&r](double x) {
           std::vector<double> codes;
           for (int i = 0; i < 5; ++i) codes.push_back(code(x / q + r.normal(2.0)));
           double sum = 0.0;
           for (std::size_t i = 0; i < 3; ++i) {
             const double a = codes[i], b = codes[i + 1], c = codes[i + 2];
             sum += std::max(std::min(a, b), std::min(std::max(a, b), c));
           }
           return sum / 3.0 * q;
         };
       },
       {0.0, 1.0, 2.4}},
      {"a sum shifted right by four",
       [](Board&, Converter& adc, Channel& of) {
         of.average = {.count = 16, .truncated = true};
         noise(adc, "1 LSB rms");
         adc.offset = value("±2 LSB", "V");
       },
       [](Random& r) -> Reads {
         const double offset = r.flat(2.0);
         return [=, &r](double x) {
           const double mean = mean_of(16, [&] { return code(x / q + offset + r.normal(1.0)); });
           return std::floor(mean) * q;
         };
       },
       {0.0, 1.0, 2.4}},
      {"the same, quiet",
       [](Board&, Converter&, Channel& of) { of.average = {.count = 16, .truncated = true}; },
       [](Random&) -> Reads { return [](double x) { return code(x / q) * q; }; },
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
         of.sensor = model::Light{
             .resistance = value("20 kohm ±5 %", "ohm"), .at = 10.0, .exponent = value("0.7", "")};
         of.frontend = {model::SensorDivider{
             .partner = value("4.7 kohm ±1 %", "ohm"), .sensor_at_bottom = false, .supply = "ref"}};
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
         of.sensor = model::Loop{.low = 0.004, .high = 0.020};
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
      {"signed division, fine steps",
       [](Board&, Converter& adc, Channel& of) {
         adc.input_range = testing::range("-2.5..2.5 V");
         adc.coding = model::Coding::twos_complement;
         adc.offset = value("±8 LSB", "V");
         of.scaling.integer = model::IntegerScaling{
             .steps = {{model::Operation::multiply, 5000}, {model::Operation::divide, 4096}},
             .count = 1e-3};
         noise(adc, "0.7 LSB rms");
       },
       [](Random& r) -> Reads {
         const double offset = r.flat(8.0);
         return [=, &r](double x) {
           const auto found = static_cast<std::int64_t>(
               code(x / (2.0 * q) + offset + 2048.0 + r.normal(0.7)) - 2048.0);
           return 1e-3 * static_cast<double>(found * 5000 / 4096);
         };
       },
       {-2.0, -1.0, 0.0, 1.0, 2.0},
       false,
       12,
       "-2.5..2.5 V"},
      {"hum of a known amplitude at the ground",
       [](Board&, Converter& adc, Channel& of) {
         of.interference = {{.frequency = 50.0, .amplitude = 5e-3}};
         noise(adc, "0.6 LSB rms");
       },
       [](Random& r) -> Reads {
         return [&r](double x) {
           const double hum = 5e-3 * std::sin(std::numbers::pi * r.flat(1.0));
           return code((x + hum) / q + r.normal(0.6)) * q;
         };
       },
       {0.0, 0.003, 1.2, 2.4}},
      {"noise of the reference, averaged",
       [](Board& b, Converter& adc, Channel& of) {
         b.references.front().voltage = value("2.5 V ±0.2 %", "V");
         b.references.front().noise = value("2 mV rms", "V");
         noise(adc, "0.5 LSB rms");
         of.average.count = 32;
       },
       [](Random& r) -> Reads {
         const double reference = 2.5 + r.flat(0.005);
         return [=, &r](double x) {
           return mean_of(32,
                          [&] {
                            return code(x / (reference + r.normal(2e-3)) * 4096.0 + r.normal(0.5));
                          }) *
                  q;
         };
       },
       {0.0, 1.0, 2.4}},
      {"a span that ends at full scale, averaged",
       [](Board& b, Converter& adc, Channel& of) {
         b.references.front().voltage = value("2.5 V ±0.5 %", "V");
         noise(adc, "3 LSB rms");
         of.average.count = 64;
       },
       [](Random& r) -> Reads {
         const double reference = 2.5 + r.flat(0.0125);
         return [=, &r](double x) {
           return mean_of(64, [&] { return code(x / reference * 4096.0 + r.normal(3.0)); }) * q;
         };
       },
       {1.2, 2.485, 2.5},
       false,
       12,
       "0..2.5 V"},
      {"decimals of a thermistor",
       [](Board&, Converter& adc, Channel& of) {
         of.sensor = model::Ntc{.law = model::Thermistor{.r25 = value("10 kohm ±0.2 %", "ohm"),
                                                         .beta = value("3950 K", "K")}};
         of.frontend = {model::SensorDivider{.partner = value("10 kohm", "ohm"), .supply = "ref"}};
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
  return all;
}

TEST(BruteForce, ChannelsOfAllKinds) {
  constexpr int units = 20'000 / testing::fewer;
  EXPECT_GE(cases().size(), 30U);
  struct Line {
    double off;
    std::string text;
  };
  std::vector<Line> table;
  for (const auto& of : cases()) {
    auto board = testing::board({.bits = of.bits, .span = of.span});
    of.describe(board, board.converters.front(), board.channels.front());
    const auto chain = chain::build(board, "x");
    const auto budget = evaluate(chain, {.at = of.at, .search = false});
    Random random;
    for (const auto& point : budget.points) {
      std::vector<double> errors;
      double sum = 0.0, squares = 0.0;
      // The closed form speaks of a place that nobody knows to a part of a step.
      const double step = std::max(chain::step_at(chain, point.at), point.code_width);
      const bool anywhere = of.anywhere || point.method == Method::closed_form;
      for (int i = 0; i < units; ++i) {
        const double x = point.at + (anywhere ? random.flat(step / 2.0) : 0.0);
        errors.push_back(of.unit(random)(x) - x);
        sum += errors.back();
        squares += errors.back() * errors.back();
      }
      const double mean = sum / units;
      const double error_of_mean = std::sqrt(std::max(0.0, squares / units - mean * mean) / units);
      const auto inside = static_cast<double>(std::ranges::count_if(errors, [&](double e) {
        return std::abs(e - point.bias) <= point.expanded * (1.0 + 1e-9);
      }));
      const auto beyond = std::ranges::count_if(errors, [&](double e) {
        return e < point.worst_case.low - 1e-9 * point.code_width ||
               e > point.worst_case.high + 1e-9 * point.code_width;
      });
      for (double& e : errors) e = std::abs(e - point.bias);
      std::ranges::nth_element(errors, errors.begin() + units * 95 / 100);
      const double truth = errors[units * 95 / 100];
      const double wide = truth > 0.0 ? point.expanded / truth : 1.0;
      const auto line = fmt::format(
          "{:42} {:10.5g}  {:11}  bias {:10.3g} {:10.3g}  95 % {:9.3g} {:9.3g}  {:5.3f}  {:5.1f} %",
          of.name, point.at, name(point.method), point.bias, mean, point.expanded, truth, wide,
          100.0 * inside / units);
      table.push_back({std::abs(wide - 1.0), line});
      SCOPED_TRACE(line);
      // Where the budget took trials, its mean has an error of its own.
      const double both = point.method == Method::trials ? std::numbers::sqrt2 : 1.0;
      EXPECT_NEAR(point.bias, mean,
                  3.5 * both * error_of_mean + 0.02 * point.expanded + 1e-9 * point.code_width);
      EXPECT_GE(inside, 0.94 * units);
      // Of discrete readings an interval grows by whole steps.
      EXPECT_LE(point.expanded, 1.25 * truth + (point.method == Method::trials ? step : 0.0));
      // Of what has no limit one in twenty may lie beyond.
      EXPECT_LE(beyond, units / 20);
    }
  }
  std::ranges::stable_sort(table, std::ranges::greater{}, &Line::off);
  fmt::print("the ten points that are farthest off, by the budget and by brute force:\n");
  for (std::size_t i = 0; i < std::min<std::size_t>(10, table.size()); ++i) {
    fmt::print("{}\n", table[i].text);
  }
}

}  // namespace
}  // namespace tamlo::budget
