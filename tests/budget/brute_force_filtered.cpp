// SPDX-License-Identifier: Apache-2.0
// Filtered readings near an end of the codes, with interference, behind a median, with a tare: each
// as a board and as a loop that takes every conversion at its own moment.
#include "brute_force.hpp"

namespace tamlo::budget::brute_force {
namespace {

// A sine that gets in, with one phase for a reading; the k-th conversion of `rate` a second.
class Hum {
 public:
  Hum(Random& r, double amplitude, double frequency, double rate)
      : amplitude_(amplitude), turn_(frequency / rate), phase_(r.flat(std::numbers::pi)) {}
  double next() { return amplitude_ * std::sin(2.0 * std::numbers::pi * turn_ * k_++ + phase_); }

 private:
  double amplitude_, turn_, phase_;
  int k_ = 0;
};

void hum(Channel& of, double volts, double frequency, double rate) {
  of.interference = {{.frequency = {frequency}, .amplitude = volts}};
  of.rate = rate;
}

// code * 3300 >> 12 in words without a sign, of the mean of four codes, in mV of a 3.3 V reference.
void describe_unsigned(Board& b, Channel& of, const char* noise_text, Converter& adc) {
  b.references.front().voltage = value("3.3 V ±0.1 %", "V");
  noise(adc, noise_text);
  of.average.count = 4;
  of.scaling.integer =
      model::IntegerScaling{.steps = {{.operation = model::Operation::multiply, .operand = 3300},
                                      {.operation = model::Operation::shift_right, .operand = 12}},
                            .bits = 32,
                            .is_signed = false,
                            .count = 1e-3};
}
double unsigned_reading(Random& r, double x, double reference, double sigma) {
  const double mean =
      mean_of(4, [&] { return code(x / (3.3 / 4096.0) / reference + r.normal(sigma)); });
  const auto number = static_cast<std::uint32_t>(std::floor(mean + 0.5));
  return static_cast<double>((number * 3300U) >> 12U) * 1e-3;
}

}  // namespace

std::vector<Case> filtered_readings() {
  return {
      {"unsigned integers behind an average, at the low end",
       [](Board& b, Converter& adc, Channel& of) { describe_unsigned(b, of, "0.8 LSB rms", adc); },
       [](Random& r) -> Reads {
         const double reference = 1.0 + r.flat(0.001);
         return [=, &r](double x) { return unsigned_reading(r, x, reference, 0.8); };
       },
       {0.0, 0.002, 1.6, 3.29},
       false,
       12,
       "0..3.299 V"},
      {"the same, with a tare near 0",
       [](Board& b, Converter& adc, Channel& of) {
         describe_unsigned(b, of, "0.8 LSB rms", adc);
         of.scaling.tare = 0.0;
       },
       [](Random& r) -> Reads {
         const double reference = 1.0 + r.flat(0.001);
         return [=, &r](double x) {
           return unsigned_reading(r, x, reference, 0.8) - unsigned_reading(r, 0.0, reference, 0.8);
         };
       },
       {1.6, 3.2},
       false,
       12,
       "0..3.299 V"},
      {"200 mV of mains behind an average of a whole period, near 0",
       [](Board&, Converter& adc, Channel& of) {
         noise(adc, "0.7 LSB rms");
         hum(of, 0.2, 50.0, 1000.0);
         of.average.time = 0.02;
       },
       [](Random& r) -> Reads {
         return [&r](double x) {
           Hum sine(r, 0.2, 50.0, 1000.0);
           return q * mean_of(20, [&] { return code((x + sine.next()) / q + r.normal(0.7)); });
         };
       },
       {0.0, 0.1, 0.19, 1.2}},
      {"hum that an average does not reject",
       [](Board&, Converter& adc, Channel& of) {
         noise(adc, "0.7 LSB rms");
         hum(of, 0.02, 60.0, 1000.0);
         of.average.count = 10;
       },
       [](Random& r) -> Reads {
         return [&r](double x) {
           Hum sine(r, 0.02, 60.0, 1000.0);
           return q * mean_of(10, [&] { return code((x + sine.next()) / q + r.normal(0.7)); });
         };
       },
       {0.005, 0.1, 1.2}},
      {"hum behind a median, then an average",
       [](Board&, Converter& adc, Channel& of) {
         noise(adc, "0.5 LSB rms");
         hum(of, 0.05, 50.0, 1000.0);
         of.filter = {model::Median{.length = 5}, model::MovingAverage{{.count = 4}}};
       },
       [](Random& r) -> Reads {
         return [&r](double x) {
           Hum sine(r, 0.05, 50.0, 1000.0);
           std::vector<double> codes;
           for (int k = 0; k < 8; ++k) codes.push_back(code((x + sine.next()) / q + r.normal(0.5)));
           double sum = 0.0;
           for (std::size_t k = 0; k < 4; ++k) {
             std::vector<double> five(codes.begin() + static_cast<std::ptrdiff_t>(k),
                                      codes.begin() + static_cast<std::ptrdiff_t>(k) + 5);
             std::ranges::sort(five);
             sum += five[2] / 4.0;
           }
           return q * sum;
         };
       },
       {0.02, 1.2}},
      {"a reference with an arcsine limit that dominates",
       [](Board& b, Converter& adc, Channel&) {
         b.references.front().voltage = value("2.5 V ±0.5 % (arcsine)", "V");
         noise(adc, "0.7 LSB rms");
       },
       [](Random& r) -> Reads {
         const double reference = 1.0 + 0.005 * std::sin(r.flat(std::numbers::pi));
         return [=, &r](double x) { return q * code(x / q / reference + r.normal(0.7)); };
       },
       {1.0, 2.3}},
      {"a tared channel whose reference dominates",
       [](Board& b, Converter& adc, Channel& of) {
         b.references.front().voltage = value("2.5 V ±0.5 %", "V");
         noise(adc, "0.7 LSB rms");
         of.scaling.tare = 0.2;
       },
       [](Random& r) -> Reads {
         const double reference = 1.0 + r.flat(0.005);
         return [=, &r](double x) {
           const auto shown = [&](double v) { return q * code(v / q / reference + r.normal(0.7)); };
           return shown(x) - shown(0.2) + 0.2;
         };
       },
       {1.0, 2.3}},
      {"a tare at its own place",
       [](Board&, Converter& adc, Channel& of) {
         adc.inl = value("±4 LSB", "V");
         noise(adc, "0.1 LSB rms");
         of.scaling.tare = 1.0;
       },
       [](Random& r) -> Reads {
         const double inl = r.flat(4.0);
         return [=, &r](double x) {
           const auto shown = [&](double v) { return q * code(v / q + inl + r.normal(0.1)); };
           return shown(x) - shown(1.0) + 1.0;
         };
       },
       {1.0}},
      {"a low-pass fed from a thermistor, whose resistance changes over the span",
       [](Board&, Converter& adc, Channel& of) {
         noise(adc, "0.7 LSB rms");
         hum(of, 0.05, 120.0, 1000.0);
         of.sensor = model::Ntc{.law = model::Thermistor{.r25 = value("10 kohm", "ohm"),
                                                         .beta = value("3950 K", "K")}};
         of.frontend = {
             model::SensorDivider{.bias_resistor = value("10 kohm", "ohm"),
                                  .sensor_at_bottom = true,
                                  .supply = "ref"},
             model::Lowpass{.resistor = value("1 kohm", "ohm"), .capacitor = value("470 nF", "F")}};
       },
       [](Random& r) -> Reads {
         return [&r](double x) {
           const double sensor = ohms(x), source = sensor * 10e3 / (sensor + 10e3) + 1e3;
           const double left =
               1.0 / std::hypot(1.0, 2.0 * std::numbers::pi * 120.0 * source * 470e-9);
           Hum sine(r, 0.05 * left, 120.0, 1000.0);
           const double volts = 2.5 * sensor / (sensor + 10e3) + sine.next();
           const double shown = code(volts / q + r.normal(0.7)) * q;
           return 1.0 / (1.0 / 298.15 + std::log(10e3 * shown / (2.5 - shown) / 10e3) / 3950.0);
         };
       },
       {273.15, 298.15, 343.15},
       false,
       12,
       "-10..80 degC"},
      {"a truncated average of a register without its low bits",
       [](Board&, Converter& adc, Channel& of) {
         adc.reporting = {.kind = model::RegisterFormat::Kind::dropped, .bits = 4};
         noise(adc, "6 LSB rms");
         of.average.count = 8;
         of.average.truncated = true;
       },
       [](Random& r) -> Reads {
         return [&r](double x) {
           const double mean =
               mean_of(8, [&] { return std::floor(code(x / q + r.normal(6.0)) / 16.0); });
           return std::floor(mean + 1e-9) * 16.0 * q;
         };
       },
       {0.5, 1.003, 2.2}},
      {"two sines of interference without an average",
       [](Board&, Converter& adc, Channel& of) {
         noise(adc, "0.3 LSB rms");
         hum(of, 0.03, 50.0, 1000.0);
         of.interference.push_back({.frequency = {150.0}, .amplitude = 0.01});
         of.scaling.decimals = 2;
       },
       [](Random& r) -> Reads {
         return [&r](double x) {
           Hum first(r, 0.03, 50.0, 1000.0), second(r, 0.01, 150.0, 1000.0);
           const double shown = q * code((x + first.next() + second.next()) / q + r.normal(0.3));
           return std::floor(shown * 100.0 + 0.5) / 100.0;
         };
       },
       {0.01, 1.2}},
  };
}

}  // namespace tamlo::budget::brute_force
