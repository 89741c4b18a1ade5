// SPDX-License-Identifier: Apache-2.0
// The interval that a budget states holds at every place within a code, where steps are a good part
// of it, and where readings bend within the limits. Conversions here are a floor() of their own.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "boards.hpp"
#include "tamlo/budget/advice.hpp"
#include "tamlo/budget/budget.hpp"

namespace tamlo::testing {
namespace {

// A converter of 8 bit without noise on a reference of 2.56 V: a code is 10 mV. At mid-scale the
// reference's limit moves the reading by `codes`, uniformly, or normally with that deviation.
double stated_in_codes(double codes, bool normal) {
  const double relative = codes / 128.0;
  const auto text = "2.56 V ±" + std::to_string(100.0 * relative) + " %" + (normal ? " (k=1)" : "");
  const auto b = board({.bits = 8, .reference = text.c_str(), .span = "0..2.5 V"});
  const auto budget = budget::evaluate(chain::build(b, "x"), {.at = {1.28}, .search = false});
  EXPECT_EQ(budget.points.front().method, budget::Method::closed_form);
  return budget.points.front().expanded / 0.01;
}

constexpr int units = 10'000;

// What the units are off, in parts of 1, evenly by probability: uniform, or normal.
std::vector<double> deviations(bool normal) {
  std::vector<double> result;
  for (int i = 0; i < units; ++i) {
    const double u = (i + 0.5) / units;
    // The normal quantile by bisection of erfc: no library of the budget's.
    double low = -6.0, high = 6.0;
    for (int k = 0; normal && k < 50; ++k) {
      const double z = (low + high) / 2.0;
      (std::erfc(-z / std::numbers::sqrt2) / 2.0 < u ? low : high) = z;
    }
    result.push_back(normal ? low : 2.0 * u - 1.0);
  }
  return result;
}

// How far an interval must reach, in codes, that holds 95 % of the units at a quantity that lies
// `away` above the middle of its code.
double needed(const std::vector<double>& units_off, double codes, double away) {
  std::vector<double> errors;
  for (const double off : units_off) {
    errors.push_back(std::abs(std::floor(away + codes * off + 0.5) - away));
  }
  std::ranges::nth_element(errors, errors.begin() + units * 95 / 100);
  return errors[units * 95 / 100];
}

TEST(EveryPlace, AnIntervalHoldsAtTheWorstPlaceWithinACode) {
  for (const bool normal : {false, true}) {
    const auto off = deviations(normal);
    // From steps that are most of it to such that are a sixth.
    for (const double codes : {0.2, 0.35, 0.5, 0.8, 1.1}) {
      if (normal && codes > 0.6) continue;
      double worst = 0.0;
      for (int place = 0; place < 50; ++place) {
        worst = std::max(worst, needed(off, codes, (place + 0.5) / 50.0 - 0.5));
      }
      const double stated = stated_in_codes(codes, normal);
      EXPECT_GE(stated, worst - 0.03) << codes << normal;
      EXPECT_LE(stated, worst + 0.03) << codes << normal;
      // And not more than steps as they are beside the rest.
      EXPECT_LE(stated, 0.5 + 1.96 * codes * (normal ? 1.0 : 0.97)) << codes << normal;
    }
  }
}

// The same of two uniform sources that are both large, down to steps of a hundredth of the
// variance: the reference moves readings at mid-scale by so many codes, the offset by so many.
TEST(EveryPlace, AnIntervalHoldsOfTwoUniformSources) {
  struct Codes {
    double reference, offset;
  };
  for (const auto& [reference, offset] :
       {Codes{1.1, 0.9}, Codes{2.0, 1.5}, Codes{2.0, 0.5}, Codes{3.0, 3.0}, Codes{3.6, 1.2}}) {
    auto b = board({.bits = 8,
                    .reference = ("2.56 V ±" + std::to_string(reference / 1.28) + " %").c_str(),
                    .span = "0..2.5 V"});
    b.converters.front().offset = value(("±" + std::to_string(offset) + " LSB").c_str(), "V");
    const auto budget = budget::evaluate(chain::build(b, "x"), {.at = {1.28}, .search = false});
    const double stated = budget.points.front().expanded / 0.01;
    double worst = 0.0;
    for (int place = 0; place < 50; ++place) {
      const double away = (place + 0.5) / 50.0 - 0.5;
      std::vector<double> errors;
      for (int i = 0; i < 100; ++i) {
        for (int k = 0; k < 100; ++k) {
          const double off = reference * (2.0 * (i + 0.5) / 100.0 - 1.0) +
                             offset * (2.0 * (k + 0.5) / 100.0 - 1.0);
          errors.push_back(std::abs(std::floor(away + off + 0.5) - away));
        }
      }
      std::ranges::nth_element(errors, errors.begin() + 9500);
      worst = std::max(worst, errors[9500]);
    }
    EXPECT_GE(stated, worst - 0.03) << reference << " " << offset;
    EXPECT_LE(stated, worst + 0.08) << reference << " " << offset;
  }
}

// A tare rounds too: what is left of a shift that moves both is one step, or none.
TEST(EveryPlace, AnIntervalHoldsOfADifferenceOfTwoReadings) {
  auto b = board({.bits = 8, .reference = "2.56 V", .span = "0..2.5 V"});
  b.converters.front().offset = value("±5 LSB", "V");
  auto& channel = b.channels.front();
  double stated = 0.0, worst = 0.0;
  for (int place = 0; place < 20; ++place) {
    const double tare = 0.5 + 0.01 * place / 20.0;
    channel.scaling.tare = tare;
    const auto budget = budget::evaluate(chain::build(b, "x"), {.at = {1.28}, .search = false});
    stated = budget.points.front().expanded / 0.01;
    std::vector<double> errors;
    for (int i = 0; i < units; ++i) {
      const double off = 5.0 * (2.0 * (i + 0.5) / units - 1.0);
      const double difference = std::floor(128.0 + off + 0.5) - std::floor(tare / 0.01 + off + 0.5);
      errors.push_back(std::abs(difference - (128.0 - tare / 0.01)));
    }
    std::ranges::nth_element(errors, errors.begin() + units * 95 / 100);
    worst = std::max(worst, errors[units * 95 / 100]);
  }
  EXPECT_NEAR(worst, 0.95, 0.011);
  EXPECT_GE(stated, worst - 0.03);
  EXPECT_LE(stated, 1.0);
}

// A cold thermistor whose converter may be so many codes off that some units would read a
// resistance below nothing. They read the last code, and no figure is lost or nothing.
TEST(EveryPlace, BeyondTheEndOfASensorUnitsReadTheLastCode) {
  auto b = board({.bits = 8, .reference = "2.5 V", .span = "-11.5..90 degC"});
  b.converters.front().offset = value("±24 LSB", "V");
  auto& channel = b.channels.front();
  channel.span = quantity::parse_range("-11.5..90 degC", {.unit = quantity::unit("degC")});
  channel.sensor = model::Ntc{
      .law = model::Thermistor{.r25 = value("10 kohm ±1 %", "ohm"), .beta = value("3950 K", "K")}};
  channel.frontend = {model::SensorDivider{
      .bias_resistor = value("3.3 kohm", "ohm"), .sensor_at_bottom = true, .supply = "ref"}};
  const auto chain = chain::build(b, "x");
  const auto& span = chain.channel.span;
  const auto budget = budget::evaluate(chain, {.at = {span.low}, .search = false});
  const auto& point = budget.points.front();
  EXPECT_EQ(point.method, budget::Method::trials);
  EXPECT_GT(point.expanded, 5.0);
  EXPECT_LT(point.expanded, 60.0);
  for (const auto& of : point.contributions) EXPECT_TRUE(std::isfinite(of.contribution + of.worst));
  // And advice about it comes to an end.
  EXPECT_NO_THROW(budget::advise(b, "x"));
}

// A resistance by a power law: exponent and resistance have limits of ten per cent and more, and
// readings bend. The nominal reading is then not their mean; 95 % lie in the interval all the same.
TEST(EveryPlace, AnIntervalHoldsWhereReadingsBend) {
  auto b = board({.bits = 20, .reference = "3.3 V", .span = "5..2000 lx"});
  auto& channel = b.channels.front();
  channel.sensor = model::Photoresistor{
      .resistance = value("20 kohm ±20 %", "ohm"), .at = 10.0, .exponent = value("0.7 ±10 %", "")};
  channel.frontend = {
      model::SensorDivider{.bias_resistor = value("2.2 kohm", "ohm"), .supply = "ref"}};
  const auto chain = chain::build(b, "x");
  for (const double lux : {50.0, 1000.0, 2000.0}) {
    const auto budget = budget::evaluate(chain, {.at = {lux}, .search = false});
    const auto& point = budget.points.front();
    EXPECT_EQ(point.roughness, chain::Roughness::curved) << lux;
    // The firmware takes R for 20 kohm (x / 10 lx)^-0.7; a unit has its own.
    int within = 0;
    constexpr int side = 300;
    double mean = 0.0;
    for (int i = 0; i < side; ++i) {
      for (int k = 0; k < side; ++k) {
        const double r = 1.0 + 0.2 * (2.0 * (i + 0.5) / side - 1.0);
        const double exponent = 0.7 * (1.0 + 0.1 * (2.0 * (k + 0.5) / side - 1.0));
        const double of_unit = r * std::pow(lux / 10.0, -exponent);
        const double error = 10.0 * std::pow(of_unit, -1.0 / 0.7) - lux;
        mean += error / (side * side);
        within += std::abs(error - point.bias) <= point.expanded ? 1 : 0;
      }
    }
    EXPECT_NEAR(static_cast<double>(within) / (side * side), 0.95, 0.012) << lux;
    EXPECT_NEAR(point.bias, mean, 0.05 * point.combined) << lux;
    EXPECT_GT(std::abs(mean), 0.05 * point.combined) << lux;
  }
}

}  // namespace
}  // namespace tamlo::testing
