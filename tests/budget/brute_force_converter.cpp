// SPDX-License-Identifier: Apache-2.0
// Converters and firmwares, each as a board and as a loop.
#include "brute_force.hpp"

namespace tamlo::budget::brute_force {

std::vector<Case> converters_and_firmwares() {
  return {
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
      {"divided by 16, averaged",
       [](Board&, Converter& adc, Channel& of) {
         adc.reporting = {.kind = model::RegisterFormat::Kind::divided, .divisor = 16};
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
         adc.reporting = {.kind = model::RegisterFormat::Kind::shifted, .bits = 16};
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
         adc.formats_before = {{.kind = model::RegisterFormat::Kind::shifted, .bits = 16}};
         adc.reporting = {.kind = model::RegisterFormat::Kind::dropped, .bits = 8};
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
         adc.reporting = {.kind = model::RegisterFormat::Kind::replicated, .bits = 16};
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
  };
}

}  // namespace tamlo::budget::brute_force
