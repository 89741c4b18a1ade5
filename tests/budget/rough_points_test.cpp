// SPDX-License-Identifier: Apache-2.0
// Budgets at the ends of the codes, at clamps and behind coarse integers, against a plain loop for
// each conversion of many units. The loop is written here and shares no code with the chain.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <random>

#include "boards.hpp"
#include "tamlo/budget/budget.hpp"

namespace tamlo::budget {
namespace {

using model::IntegerStep;
using model::Operation;
using testing::board;
using testing::value;

// One converter on 2.5 V, or on 2.5 V either way; what is uniform in a unit, and its noise.
struct Device {
  const char* name;
  int bits = 12;
  bool bipolar = false;
  double offset = 0.0;     // LSB, uniform to either side
  double reference = 0.0;  // a part, likewise
  double inl = 0.0;        // LSB, likewise, and of each place its own
  double noise = 0.0;      // LSB
  int average = 1;
  std::vector<IntegerStep> steps{};                     // of the firmware; none: floating point
  double count = 0.0;                                   // V
  std::function<std::int64_t(std::int64_t)> integer{};  // the same steps in C
  int decimals = -1;
  bool tared = false;
  double gain = 0.0;                        // of an amplifier of 1, a part, uniform
  double lowest = -100.0, highest = 100.0;  // V, between which its output stays
  std::vector<double> at{};                 // V
};

chain::Chain built(const Device& d) {
  auto b = board({.bits = d.bits, .span = d.bipolar ? "-2.5..2.5 V" : "0..2.5 V"});
  auto& adc = b.converters.front();
  if (d.bipolar) {
    adc.input_range = testing::range("-2.5..2.5 V");
    adc.coding = model::Coding::twos_complement;
  }
  const auto limit = [](double size, const char* unit) {
    return value(("±" + std::to_string(size) + unit).c_str(), "V");
  };
  if (d.offset > 0.0) adc.offset = limit(d.offset, " LSB");
  if (d.inl > 0.0) adc.inl = limit(d.inl, " LSB");
  if (d.noise > 0.0) adc.noise = value((std::to_string(d.noise) + " LSB rms").c_str(), "V");
  if (d.reference > 0.0) {
    b.references.front().voltage.limits = limit(100.0 * d.reference, " %").limits;
  }
  auto& channel = b.channels.front();
  channel.average.count = d.average;
  if (!d.steps.empty()) {
    channel.scaling.integer = model::IntegerScaling{.steps = d.steps, .bits = 32, .count = d.count};
  }
  if (d.decimals >= 0) channel.scaling.decimals = d.decimals;
  if (d.tared) channel.scaling.tare = 0.0;
  if (d.gain > 0.0) {
    model::Amplifier amplifier{.gain = value("1", ""),
                               .output = model::Range{.low = d.lowest, .high = d.highest}};
    amplifier.gain.limits = limit(100.0 * d.gain, " %").limits;
    channel.frontend = {amplifier};
  }
  return chain::build(b, "x");
}

// What a unit shows for a voltage, conversion by conversion.
class Unit {
 public:
  Unit(const Device& d, std::mt19937_64& random) : d_(d), random_(random) {
    offset_ = d.offset * flat();
    reference_ = 2.5 * (1.0 + d.reference * flat());
    if (d.gain > 0.0) gain_ = 1.0 + d.gain * flat();
  }
  double shows(double volts) {
    const double q = (d_.bipolar ? 5.0 : 2.5) / std::ldexp(1.0, d_.bits);
    const double lowest = d_.bipolar ? -std::ldexp(1.0, d_.bits - 1) : 0.0;
    const double highest = lowest + std::ldexp(1.0, d_.bits) - 1.0;
    volts = std::clamp(gain_ * volts, d_.lowest, d_.highest);
    const double steady = volts / q * 2.5 / reference_ + offset_ + d_.inl * flat();
    double sum = 0.0;
    for (int i = 0; i < d_.average; ++i) {
      const double code = std::floor(steady + d_.noise * normal_(random_) + 0.5);
      sum += std::clamp(code, lowest, highest);
    }
    const double mean = sum / d_.average;
    double result = d_.integer ? d_.count * static_cast<double>(d_.integer(
                                                static_cast<std::int64_t>(std::floor(mean + 0.5))))
                               : mean * q;
    if (d_.decimals < 0) return result;
    const double place = std::pow(10.0, -d_.decimals);
    return std::floor(result / place + 0.5) * place;
  }

 private:
  double flat() { return 2.0 * uniform_(random_) - 1.0; }

  const Device& d_;
  std::mt19937_64& random_;
  std::uniform_real_distribution<double> uniform_{};
  std::normal_distribution<double> normal_{};
  double offset_ = 0.0, reference_ = 2.5, gain_ = 1.0;
};

IntegerStep multiply(std::int64_t by) { return {.operation = Operation::multiply, .operand = by}; }
IntegerStep divide(std::int64_t by) { return {.operation = Operation::divide, .operand = by}; }
IntegerStep add(std::int64_t by) { return {.operation = Operation::add, .operand = by}; }
IntegerStep clamp(std::int64_t low, std::int64_t high) {
  return {.operation = Operation::clamp, .operand = low, .most = high};
}

const std::vector<Device>& devices() {
  static const std::vector<Device> all{
      {.name = "grounded, noisy, averaged",
       .noise = 5.0,
       .average = 64,
       .at = {0.0, 0.002, 1.0, 2.5}},
      {.name = "an offset that the end cuts off",
       .offset = 8.0,
       .noise = 0.4,
       .at = {0.0, 1.2, 2.499}},
      {.name = "the same, averaged",
       .offset = 8.0,
       .noise = 0.8,
       .average = 16,
       .at = {0.0, 0.003, 2.5}},
      {.name = "one bit", .bits = 1, .noise = 0.1, .at = {0.0, 0.3, 1.0, 2.4}},
      {.name = "a reference that the span outgrows",
       .reference = 0.02,
       .noise = 0.5,
       .at = {0.0, 1.25, 2.48, 2.5}},
      {.name = "a clamp at the end of the span",
       .offset = 6.0,
       .noise = 0.6,
       .steps = {multiply(2500), divide(4096), clamp(0, 2400)},
       .count = 1e-3,
       .integer = [](std::int64_t c) { return std::clamp<std::int64_t>(c * 2500 / 4096, 0, 2400); },
       .at = {0.0, 1.0, 2.398, 2.4, 2.45}},
      {.name = "coarse integers",
       .offset = 2.0,
       .noise = 0.6,
       .steps = {divide(128), multiply(78125)},
       .count = 1e-6,
       .integer = [](std::int64_t c) { return c / 128 * 78125; },
       .at = {0.04, 1.0, 1.0154, 1.25, 2.4}},
      {.name = "division before the product",
       .noise = 0.6,
       .steps = {add(-355), divide(341), multiply(100)},
       .count = 341.0 * 2.5 / 4096.0 / 100.0,
       .integer = [](std::int64_t c) { return (c - 355) / 341 * 100; },
       .at = {0.1, 0.3, 1.25, 2.0}},
      {.name = "signed division about zero",
       .bipolar = true,
       .offset = 3.0,
       .noise = 0.5,
       .steps = {divide(64)},
       .count = 64.0 * 5.0 / 4096.0,
       .integer = [](std::int64_t c) { return c / 64; },
       .at = {-2.5, -1.0, -0.03, 0.0, 0.03, 1.0, 2.49}},
      {.name = "few decimals",
       .offset = 2.0,
       .noise = 0.6,
       .average = 8,
       .decimals = 1,
       .at = {0.0, 0.23, 1.25, 1.249}},
      {.name = "two decimals",
       .bits = 10,
       .offset = 1.0,
       .noise = 0.3,
       .decimals = 2,
       .at = {0.0, 1.003, 1.2, 2.49}},
      {.name = "fine everywhere",
       .offset = 2.0,
       .reference = 0.002,
       .inl = 1.0,
       .noise = 0.7,
       .average = 16,
       .at = {0.4, 1.25, 2.2}},
      {.name = "tared",
       .bits = 16,
       .offset = 200.0,
       .inl = 20.0,
       .noise = 1.0,
       .tared = true,
       .at = {0.5, 1.25, 2.0}},
      {.name = "an amplifier that ends before its converter does",
       .offset = 2.0,
       .noise = 0.6,
       .average = 4,
       .gain = 0.01,
       .lowest = 0.02,
       .highest = 2.2,
       .at = {0.0, 0.0205, 1.0, 2.19, 2.2, 2.22, 2.4}},
      {.name = "the same, with a tare below its end",
       .noise = 0.6,
       .tared = true,
       .gain = 0.01,
       .lowest = 0.02,
       .highest = 2.2,
       .at = {0.5, 2.21}},
  };
  return all;
}

TEST(RoughPoints, BudgetsHoldAtEndsClampsAndCoarseSteps) {
  constexpr int units = 20'000 / testing::fewer;
  for (const auto& device : devices()) {
    const auto chain = built(device);
    const auto budget = evaluate(chain, {.at = device.at, .search = false});
    std::mt19937_64 random(20261126);
    for (const auto& point : budget.points) {
      std::vector<double> errors;
      double sum = 0.0, squares = 0.0;
      for (int i = 0; i < units; ++i) {
        Unit unit(device, random);
        errors.push_back(unit.shows(point.at) - point.at - (device.tared ? unit.shows(0.0) : 0.0));
        sum += errors.back();
        squares += errors.back() * errors.back();
      }
      const double mean = sum / units;
      const double error_of_mean = std::sqrt(std::max(0.0, squares / units - mean * mean) / units);
      const auto inside = std::ranges::count_if(errors, [&](double e) {
        return std::abs(e - point.bias) <= point.expanded * (1.0 + 1e-9);
      });
      for (double& e : errors) e = std::abs(e - point.bias);
      std::ranges::nth_element(errors, errors.begin() + units * 95 / 100);
      const double truth = errors[units * 95 / 100];
      const auto lsb = (device.bipolar ? 5.0 : 2.5) / std::ldexp(1.0, device.bits);
      SCOPED_TRACE(std::string(device.name) + " at " + std::to_string(point.at) + " V by " +
                   std::string(name(point.method)));
      // Both means are of so many units.
      EXPECT_NEAR(point.bias, mean, 4.0 * std::sqrt(2.0) * error_of_mean + 1e-9 * lsb);
      EXPECT_GE(inside, 0.94 * units - testing::scatter(units));
      EXPECT_LE(point.expanded, 1.25 * truth + 1e-6 * lsb) << "the truth is " << truth;
      RecordProperty(std::string(device.name) + std::to_string(point.at),
                     std::to_string(point.expanded / truth));
    }
  }
}

// 4095 times 60000 needs 28 bits: in words of 28 with a sign, the upper part of the span is wrong.
TEST(RoughPoints, AnOverflowWithinReachMissesTheTarget) {
  auto b = board({.span = "0..2.5 V"});
  auto& channel = b.channels.front();
  channel.target.accuracy = value("±50 % of span", "V").limits.front();
  channel.scaling.integer = model::IntegerScaling{
      .steps = {multiply(60000), divide(4096)}, .bits = 28, .count = 2.5 / 60000.0};
  for (const auto& [x, overflows] : {std::pair{1.0, false}, std::pair{2.4, true}}) {
    const auto budget = evaluate(chain::build(b, "x"), {.at = {x}, .search = false});
    EXPECT_EQ(budget.points.front().overflows(), overflows) << x;
    EXPECT_EQ(budget.target_met(), !overflows) << x;
  }
}

// No more bits than there are different readings: 10 of a quiet converter, averaged or not; more
// where noise and averaging give steps between.
TEST(RoughPoints, BitsAreThoseOfDifferentReadings) {
  struct Case {
    double noise;
    int average;
    double least, most;
  };
  for (const auto& [noise, average, least, most] :
       {Case{0.0, 1, 10.0, 10.0}, Case{0.0, 64, 10.0, 10.0}, Case{0.05, 64, 10.0, 10.9},
        Case{1.0, 1, 9.5, 10.0}, Case{1.0, 64, 12.0, 13.1}}) {
    const auto chain = built({.name = "bits", .bits = 10, .noise = noise, .average = average});
    const auto budget = evaluate(chain, {.at = {1.25}, .search = false});
    const auto& resolution = budget.points.front().resolution;
    EXPECT_GE(resolution.effective, least - 1e-9) << noise << " " << average;
    EXPECT_LE(resolution.effective, most + 1e-9) << noise << " " << average;
    EXPECT_LE(resolution.noise_free, resolution.effective);
  }
}

// Behind a division by 128 there are 8 values of 10 bits; a clamp that holds the reading is said.
TEST(RoughPoints, BitsAndClampsAreThoseOfTheFirmware) {
  const Device coarse{.name = "coarse",
                      .bits = 10,
                      .noise = 0.05,
                      .average = 16,
                      .steps = {divide(128), multiply(3125)},
                      .count = 1e-4};
  const auto budget = evaluate(built(coarse), {.at = {1.25}, .search = false});
  EXPECT_LE(budget.points.front().resolution.effective, 3.0 + 1e-9);
  const Device held{
      .name = "held", .steps = {multiply(2500), divide(4096), clamp(0, 2400)}, .count = 1e-3};
  for (const auto& [x, clipped] : {std::pair{1.0, false}, std::pair{2.45, true}}) {
    EXPECT_EQ(evaluate(built(held), {.at = {x}, .search = false}).points.front().clipped, clipped);
  }
}

// A calibrated unit is not drawn at random: it has the errors that were corrected, to within the
// calibration's uncertainty. This one reads 4 mV low, so that its codes end at 4 mV.
TEST(RoughPoints, ACorrectedChannelIsTheUnitThatWasCalibrated) {
  constexpr double offset = -0.004, standard = 0.001, sigma = 0.7;
  auto b = board({.span = "0..2.5 V"});
  b.converters.front().offset = value("±8 LSB", "V");
  b.converters.front().noise = value("0.7 LSB rms", "V");
  b.channels.front().correction = model::Correction{
      .coefficients = {-offset}, .half_width = 1.25, .standard_uncertainty = standard};
  const std::vector<double> at{0.0, 0.003, 0.0045, 0.2, 2.499};
  const auto budget = evaluate(chain::build(b, "x"), {.at = at, .search = false});
  std::mt19937_64 random(7);
  std::normal_distribution<double> normal;
  constexpr int units = 20'000 / testing::fewer;
  const double q = 2.5 / 4096.0;
  for (const auto& point : budget.points) {
    SCOPED_TRACE(point.at);
    EXPECT_EQ(point.method == Method::trials, point.at < 0.1 || point.at > 2.0);
    double sum = 0.0, squares = 0.0;
    int inside = 0;
    for (int i = 0; i < units; ++i) {
      const double volts = point.at + offset + standard * normal(random);
      const double code = std::floor(volts / q + sigma * normal(random) + 0.5);
      const double error = std::clamp(code, 0.0, 4095.0) * q - offset - point.at;
      sum += error;
      squares += error * error;
      inside += std::abs(error - point.bias) <= point.expanded * (1.0 + 1e-9) ? 1 : 0;
    }
    const double mean = sum / units,
                 deviation = std::sqrt(std::max(0.0, squares / units - mean * mean));
    EXPECT_NEAR(point.bias, mean, 6.0 * std::hypot(deviation, point.combined) / std::sqrt(units));
    EXPECT_NEAR(point.combined, deviation, 0.03 * deviation + 0.01 * q);
    EXPECT_GE(inside, 0.94 * units - testing::scatter(units));
  }
}

}  // namespace
}  // namespace tamlo::budget
