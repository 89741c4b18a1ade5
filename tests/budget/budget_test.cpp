// SPDX-License-Identifier: Apache-2.0
#include "tamlo/budget/budget.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "boards.hpp"

namespace tamlo::budget {
namespace {

using testing::source;

// The pack voltage at 48 V, by hand. Nominal: 48 V / 25 = 1.92 V; 3145.728 codes of 15.2587890625
// mV each (62.5 V / 4096). t = 22 K (23 to 45 degC), 1 year. A contribution is half the difference
// of the readings at plus and minus one standard uncertainty, so ratios keep their curvature.
struct Expected {
  const char* source;
  double contribution;
};

double half(double above, double below) { return (above - below) / 2.0; }

TEST(Budget, AgreesWithTheHandComputedOneToTwelveDigits) {
  const double x = 48.0, lsb = 62.5 / 4096.0, root3 = std::sqrt(3.0);
  // A top resistor of 240 (1 + r) kohm: the pin sees 48 * 10 / (250 + 240 r), times 25 by firmware.
  const auto top = [&](double r) { return x * 10.0 / (10.0 + 240.0 * (1.0 + r)) * 25.0; };
  const auto bottom = [&](double r) {
    return x * 10.0 * (1.0 + r) / (10.0 * (1.0 + r) + 240.0) * 25.0;
  };
  // The firmware believes in 2.5 V; a reference of 2.5 (1 + r) V makes the code smaller.
  const auto reference = [&](double r) { return x / (1.0 + r); };
  const auto of = [](const auto& y, double r) { return half(y(r), y(-r)); };

  const double tolerance = 1e-3 / root3;      // ±0.1 %
  const double drift = 25e-6 * 22.0 / root3;  // ±25 ppm/K over 22 K
  // Noise of one conversion in codes: the converter's 0.6, and the reference's 9 uV seen through
  // 1.92 / 2.5 of the range: 9e-6 / 2.5 * 3145.728 = 0.0113246 (its curvature is under 1e-11).
  const double sigma =
      std::sqrt(0.36 + std::pow(half(3145.728 / (1 - 3.6e-6), 3145.728 / (1 + 3.6e-6)), 2));
  // What no averaging removes: exp(-4 pi^2 sigma^2) / (2 pi^2), and 16 times less of the rest.
  const double pi = std::acos(-1.0);
  double irreducible = 0.0;
  for (int k = 1; k < 20; ++k) {
    irreducible += std::exp(-4 * pi * pi * k * k * sigma * sigma) / (2 * pi * pi * k * k);
  }
  const double quantisation = std::sqrt(irreducible + (1.0 / 12.0 - irreducible) / 16.0);

  const Expected expected[] = {
      {"divider top tolerance", of(top, tolerance)},                   // about -26.6 mV
      {"divider bottom tolerance", of(bottom, tolerance)},             // about +26.6 mV
      {"divider top temperature", of(top, drift)},                     // about -14.6 mV
      {"divider bottom temperature", of(bottom, drift)},               // about +14.6 mV
      {"ref voltage tolerance", of(reference, 5e-4 / root3)},          // 48 * 2.887e-4 = -13.9 mV
      {"ref voltage temperature", of(reference, 220e-6 / root3)},      // 10 ppm/K * 22 K
      {"ref voltage ageing", of(reference, 40e-6 / root3)},            // one year
      {"adc offset tolerance", 2.0 / root3 * lsb},                     // 17.6 mV
      {"adc offset temperature", 2e-6 * 22.0 * 4096.0 / root3 * lsb},  // 2 ppm/K of full scale
      {"adc gain tolerance", 3.0 / root3 * 3145.728 / 4096.0 * lsb},   // in proportion to the code
      {"adc gain temperature", 4e-6 * 22.0 / root3 * x},
      {"adc INL", 1.5 / root3 * lsb},
      {"adc DNL", 0.9 / std::sqrt(12.0) * lsb},  // q^2/12 * d^2
      {"adc noise", 0.6 / 4.0 * lsb},            // root of 16
      {"ref noise", of(reference, 9e-6 / 2.5 / 4.0)},
      {"quantisation", quantisation * lsb},
  };
  const auto chain = chain::build(testing::pack_voltage(), "x");
  const auto budget = evaluate(chain, {.at = {x}});
  const auto& point = budget.points.front();
  ASSERT_EQ(point.contributions.size(), std::size(expected));
  double variance = 0.0, share = 0.0;
  for (const auto& [name, contribution] : expected) {
    const auto& c = point.contributions[source(chain, name)];
    EXPECT_NEAR(c.contribution, contribution, 1e-12 * x) << name;
    EXPECT_NEAR(c.contribution / contribution, 1.0, 1e-9) << name;
    variance += contribution * contribution;
    share += c.share;
  }
  EXPECT_NEAR(point.combined / std::sqrt(variance), 1.0, 1e-12);
  EXPECT_NEAR(share, 1.0, 1e-12);
  EXPECT_NEAR(point.coverage_factor, 1.959963984540054, 1e-14);  // normal, 97.5 %
  EXPECT_NEAR(point.expanded / (1.959963984540054 * std::sqrt(variance)), 1.0, 1e-12);
  EXPECT_NEAR(point.bias, 0.0, 1e-13);
  EXPECT_NEAR(*point.limit, 0.3, 1e-15);
  EXPECT_TRUE(std::isinf(point.dof));
}

// One resistor and nothing else: each figure by hand, with nothing to hide behind.
TEST(Budget, ALoneSource) {
  const auto chain = chain::build(
      testing::board({.span = "0..25 V", .top = "90 kohm", .bottom = "10 kohm ±1 %"}), "x");
  const auto budget = evaluate(chain, {.at = {20.0}, .coverage = 0.9545});
  const auto& point = budget.points.front();
  const double u = 0.01 / std::sqrt(3.0);
  const auto y = [](double r) { return 20.0 * (1 + r) * 100 / (10 * (1 + r) + 90); };
  const double resistor = half(y(u), y(-u));
  const double quantisation = 25.0 / 4096 / std::sqrt(12.0);
  const auto& c = point.contributions[source(chain, "divider bottom tolerance")];
  EXPECT_NEAR(c.contribution, resistor, 1e-13);
  EXPECT_NEAR(c.limit, 100.0, 1e-12);
  EXPECT_NEAR(c.standard_uncertainty, 100.0 / std::sqrt(3.0), 1e-12);
  EXPECT_NEAR(c.sensitivity, resistor / c.standard_uncertainty, 1e-15);
  EXPECT_NEAR(c.worst, half(y(0.01), y(-0.01)), 1e-13);
  EXPECT_NEAR(point.combined, std::hypot(resistor, quantisation), 1e-13);
  // So much of the uniform source, and half a step.
  EXPECT_NEAR(point.expanded, 0.9545 * std::sqrt(3.0) * resistor + 0.5 * 25.0 / 4096, 2e-5);
  EXPECT_NEAR(point.worst_case.low, y(-0.01) - 20.0 - 0.5 * 25.0 / 4096, 1e-13);
  EXPECT_NEAR(point.worst_case.high, y(0.01) - 20.0 + 0.5 * 25.0 / 4096, 1e-13);
  EXPECT_EQ(by_share(point).front(), source(chain, "divider bottom tolerance"));
  EXPECT_FALSE(point.margin());
}

TEST(Budget, PointsAreZeroMiddleAndFullScale) {
  EXPECT_EQ(default_points(testing::range("0..60 V")), (std::vector<double>{0, 30, 60}));
  EXPECT_EQ(default_points(testing::range("-10..10 V")), (std::vector<double>{-10, 0, 10}));
  EXPECT_EQ(default_points(testing::range("-2..10 V")), (std::vector<double>{-2, 0, 4, 10}));
  EXPECT_EQ(default_points(testing::range("4..20 mA")).size(), 3U);
  EXPECT_EQ(default_points(testing::range("-20..60 degC"))[1], 273.15);
}

// What each adjustment takes away, by what a source does over the span and not by its name.
TEST(Budget, AdjustmentsTakeAwayWhatTheyCan) {
  struct Case {
    const char* what;
    void (*add)(model::Board&);
    bool zero_cures, two_point_cures;
  };
  const Case cases[] = {
      {"offset", [](auto& b) { b.converters[0].offset = testing::value("±20 LSB", "V"); }, true,
       true},
      {"gain", [](auto& b) { b.converters[0].gain = testing::value("±20 LSB", "V"); }, false, true},
      {"reference", [](auto& b) { b.references[0].voltage = testing::value("2.5 V ±1 %", "V"); },
       false, true},
      {"INL", [](auto& b) { b.converters[0].inl = testing::value("±20 LSB", "V"); }, false, false},
      {"drift", [](auto& b) { b.converters[0].offset = testing::value("±1 LSB/K", "V"); }, false,
       false},
      {"ageing", [](auto& b) { b.references[0].voltage = testing::value("2.5 V ±1 %/year", "V"); },
       false, false},
      {"noise", [](auto& b) { b.converters[0].noise = testing::value("20 LSB rms", "V"); }, false,
       false},
  };
  for (const auto& [what, add, zero_cures, two_point_cures] : cases) {
    auto b = testing::board();
    b.conditions.temperature = testing::range("15..45 degC");
    b.conditions.age = 31557600.0;
    add(b);
    const auto budget = evaluate(chain::build(b, "x"), {.at = {2.0}});
    const auto& a = budget.points.front().adjusted;
    const double quantisation = 1.96 * 2.5 / 4096 / std::sqrt(12.0);
    EXPECT_GT(a.none, 5 * quantisation) << what;
    EXPECT_EQ(a.zero < 1.2 * quantisation, zero_cures) << what << " " << a.zero;
    EXPECT_EQ(a.two_point < 1.2 * quantisation, two_point_cures) << what << " " << a.two_point;
  }
}

// What a calibration leaves is what the same board has whose parts are all as they are written, but
// for what changes; at places by trials too.
TEST(Budget, ACalibrationLeavesWhatChanges) {
  const auto chain_of = [](const char* reference, const char* offset, const char* inl) {
    auto b = testing::board();
    b.conditions.temperature = testing::range("15..45 degC");
    b.conditions.age = 31557600.0;
    b.references[0].voltage = testing::value(reference, "V");
    b.converters[0].offset = testing::value(offset, "V");
    b.converters[0].inl = testing::value(inl, "V");
    return chain::build(b, "x");
  };
  const auto whole = chain_of("2.5 V ±1 % ±20 ppm/K ±400 ppm/year", "±20 LSB ±0.1 LSB/K", "±2 LSB");
  const auto changing = chain_of("2.5 V ±20 ppm/K ±400 ppm/year", "±0.1 LSB/K", "±2 LSB");
  const auto found = evaluate(whole, {.at = {0.6, 1.5, 2.3}, .calibrated = true});
  const auto expected = evaluate(changing, {.at = {0.6, 1.5, 2.3}});
  for (std::size_t i = 0; i < 3; ++i) {
    ASSERT_TRUE(found.points[i].calibrated);
    EXPECT_EQ(found.points[i].calibrated->bias, 0.0);
    EXPECT_NEAR(found.points[i].calibrated->expanded / expected.points[i].expanded, 1.0, 1e-9);
    EXPECT_GT(found.points[i].expanded, 2.0 * expected.points[i].expanded);
  }
  EXPECT_FALSE(evaluate(whole, {.at = {1.5}}).points.front().calibrated);
  // An end of the codes is within reach: by trials of units.
  const auto end = evaluate(whole, {.at = {0.0}, .calibrated = true}).points.front();
  ASSERT_EQ(end.method, Method::trials);
  EXPECT_LT(end.calibrated->expanded, end.expanded);
  EXPECT_GT(end.calibrated->expanded, 0.8 * evaluate(changing, {.at = {0.0}}).points[0].expanded);
}

TEST(Budget, ABiasIsReportedAndCountsAgainstTheTarget) {
  auto b = testing::board({.span = "0..2.4 V"});
  b.channels.front().scaling.convention = model::Convention::last_code;
  b.channels.front().target.accuracy = testing::value("±0.6 mV", "V").limits.front();
  const auto chain = chain::build(b, "x");
  const auto budget = evaluate(chain);
  const auto& full = budget.points.back();
  EXPECT_NEAR(full.bias, 2.4 / 4095, 1e-15);
  EXPECT_LT(full.expanded, 0.6e-3);  // the uncertainty alone would do
  EXPECT_NEAR(*full.margin(), 0.6e-3 - 2.4 / 4095 - full.expanded, 1e-15);
  EXPECT_FALSE(budget.target_met());
  EXPECT_EQ(&budget.worst(), &full);
  EXPECT_NEAR(full.adjusted_bias.two_point, 0.0, 1e-15);
  EXPECT_NEAR(full.adjusted_bias.zero, full.bias, 1e-15);
  EXPECT_TRUE(budget.target_met_after(&Adjusted::two_point));
}

TEST(Budget, ClippingIsSaid) {
  const auto budget = evaluate(chain::build(testing::board({.span = "0..2.6 V"}), "x"));
  EXPECT_FALSE(budget.points.front().clipped);
  EXPECT_TRUE(budget.points.back().clipped);
}

}  // namespace
}  // namespace tamlo::budget
