// SPDX-License-Identifier: Apache-2.0
#include "tamlo/quantity/notation.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <random>
#include <string>

namespace tamlo::quantity {
namespace {

Expected any_basis(const char* symbol) {
  return {.unit = unit(symbol),
          .bases = {Basis::absolute, Basis::relative, Basis::code, Basis::digit, Basis::span,
                    Basis::range}};
}

TEST(Notation, ReadsANominalWithAllItsLimits) {
  const auto v = parse_value("2.5 V ±0.05 % ±10 ppm/K ±40 ppm/year", any_basis("V"));
  EXPECT_EQ(v.nominal, 2.5);
  ASSERT_EQ(v.limits.size(), 3U);
  EXPECT_EQ(v.limits[0].size, 5e-4);
  EXPECT_EQ(v.limits[0].basis, Basis::relative);
  EXPECT_EQ(v.limits[0].drift, Drift::none);
  EXPECT_EQ(v.limits[1].size, 1e-5);
  EXPECT_EQ(v.limits[1].drift, Drift::temperature);
  EXPECT_EQ(v.limits[2].size, 4e-5);
  EXPECT_EQ(v.limits[2].drift, Drift::time);
  EXPECT_EQ(v.limits[2].per, 31557600.0);
}

// One limit, and what it must mean.
TEST(Notation, ReadsEveryKindOfLimit) {
  struct Case {
    const char* text;
    const char* unit;
    double size;
    Basis basis;
    Drift drift = Drift::none;
    Distribution distribution = Distribution::uniform;
    double factor = 1.0;
    bool noise = false;
  };
  using enum Basis;
  const Case cases[] = {
      {"±2 LSB", "V", 2, code},
      {"+-2 LSB", "V", 2, code},
      {"± 2 LSB", "V", 2, code},
      {"±2 digits", "V", 2, digit},
      {"±1 digit", "V", 1, digit},
      {"±0.5 % of span", "V", 0.005, span},
      {"±0.5 % of range", "V", 0.005, range},
      {"±0.5 % of reading", "V", 0.005, relative},
      {"±3 mV", "V", 0.003, absolute},
      {"±3 uV/K", "V", 3e-6, absolute, Drift::temperature},
      {"±2 ppm/K", "V", 2e-6, relative, Drift::temperature},
      {"±30 ppm/1000 h", "V", 3e-5, relative, Drift::time},
      {"±0.1 mV/year", "V", 1e-4, absolute, Drift::time},
      {"±0.1 LSB/K", "V", 0.1, code, Drift::temperature},
      {"±0.1 mV/K", "mV/K", 1e-4, absolute},  // a sensitivity's own unit, not a drift
      {"±1 %/K", "mV/K", 0.01, relative, Drift::temperature},
      {"±0.2 K", "K", 0.2, absolute},
      {"±20 uV/V", "V", 2e-5, relative},
      {"±2 mV (k=2)", "V", 0.002, absolute, Drift::none, Distribution::normal, 2},
      {"±2 mV (k=1.96)", "V", 0.002, absolute, Drift::none, Distribution::normal, 1.96},
      {"±2 mV (typ)", "V", 0.002, absolute, Drift::none, Distribution::normal, 1},
      {"±2 mV (triangular)", "V", 0.002, absolute, Drift::none, Distribution::triangular},
      {"±2 mV (arcsine)", "V", 0.002, absolute, Drift::none, Distribution::arcsine},
      {"±2 mV (uniform)", "V", 0.002, absolute},
      {"9 uV rms", "V", 9e-6, absolute, Drift::none, Distribution::normal, 1, true},
      {"0.6 LSB rms", "V", 0.6, code, Drift::none, Distribution::normal, 1, true},
  };
  for (const auto& c : cases) {
    const auto v = parse_value(c.text, any_basis(c.unit));
    ASSERT_EQ(v.limits.size(), 1U) << c.text;
    const auto& l = v.limits.front();
    EXPECT_FALSE(v.nominal) << c.text;
    EXPECT_EQ(l.size, c.size) << c.text;
    EXPECT_EQ(l.basis, c.basis) << c.text;
    EXPECT_EQ(l.drift, c.drift) << c.text;
    EXPECT_EQ(l.distribution, c.distribution) << c.text;
    EXPECT_EQ(l.coverage_factor, c.factor) << c.text;
    EXPECT_EQ(l.noise, c.noise) << c.text;
  }
}

TEST(Notation, StandardUncertaintyByDistribution) {
  EXPECT_DOUBLE_EQ(standard_uncertainty(3, Distribution::uniform), 3 / std::sqrt(3.0));
  EXPECT_DOUBLE_EQ(standard_uncertainty(3, Distribution::triangular), 3 / std::sqrt(6.0));
  EXPECT_DOUBLE_EQ(standard_uncertainty(3, Distribution::arcsine), 3 / std::sqrt(2.0));
  EXPECT_DOUBLE_EQ(standard_uncertainty(3, Distribution::normal, 2), 1.5);
}

TEST(Notation, ReadsRanges) {
  const auto temperature = parse_range("15..45 degC", any_basis("degC"));
  EXPECT_DOUBLE_EQ(temperature.low, 288.15);
  EXPECT_DOUBLE_EQ(temperature.high, 318.15);
  EXPECT_DOUBLE_EQ(temperature.farthest(296.15), 22.0);
  const auto volts = parse_range("-0.3..2.8 V", any_basis("V"));
  EXPECT_EQ(volts.low, -0.3);
  EXPECT_EQ(volts.high, 2.8);
  EXPECT_DOUBLE_EQ(volts.middle(), 1.25);
  const auto flow = parse_range("0..30 l/min", {});
  EXPECT_EQ(flow.unit.dimension.label, "l/min");
  EXPECT_EQ(parse_range("0..12 bar", {}).high, 12e5);
}

// Bad text, the column (in characters) where it goes wrong, and a piece of what is allowed there.
TEST(Notation, ErrorsNameTheColumnAndWhatIsAllowed) {
  struct Case {
    const char* text;
    const char* unit;
    std::size_t column;
    const char* allowed;
  };
  const Case cases[] = {
      {"", "V", 1, "a value such as"},
      {"2.5", "V", 4, "a unit of V"},
      {"2.5 mv", "V", 5, "did you mean mV? capitals count"},
      {"2.5 A", "V", 5, "a unit of V, such as V, mV or kV"},
      {"10 Kohm", "ohm", 4, "did you mean kohm?"},
      {"2.5 V ±", "V", 8, "a number"},
      {"2.5 V ±0.1", "V", 11, "a limit in V, %, ppm"},
      {"2.5 V ±0.1 A", "V", 12, "a limit in V"},
      {"2.5 V ±0.1 mv", "V", 12, "did you mean mV?"},
      {"2.5 V ±0.1 % ±3 bananas", "V", 17, "a limit in V"},
      {"2.5 V ±-0.1 %", "V", 8, "a size of 0 or more"},
      {"2.5 V +0.1 %", "V", 7, "a limit that begins with"},
      {"2.5 V ±0.1 % (k=0)", "V", 17, "above 0"},
      {"2.5 V ±0.1 % (gauss)", "V", 14, "(typ)"},
      {"2.5 V ±0.1 % (typ", "V", 18, "\")\""},
      {"2.5 V ±0.1 % of x", "V", 17, "span, range or reading"},
      {"2.5 V ±0.1 % of", "V", 12, "a limit in V"},
      {"2.5 V ±1 mV of span", "V", 10, "%, ppm or ppb before"},
      {"2.5 V ±0.1 % x", "V", 12, "a limit in V"},
      {"1e999 V", "V", 1, "a double can hold"},
      {"µ ±1 %", "V", 1, "a limit that begins with"},
      {"25 degC ±1 degC", "degC", 12, "difference of temperatures, which is in K"},
      {"0.25 V", "", 6, "a number without a unit"},
      {"9 uV rms ±1 %", "V", 10, "nothing after"},
  };
  for (const auto& c : cases) {
    const Expected expected{.unit = *c.unit == 0 ? Unit{} : unit(c.unit)};
    try {
      parse_value(c.text, expected);
      ADD_FAILURE() << c.text << " was taken";
    } catch (const NotationError& error) {
      EXPECT_EQ(error.column, c.column) << c.text << ": " << error.what();
      EXPECT_NE(error.hint.find(c.allowed), std::string::npos) << c.text << ": " << error.what();
    }
  }
}

TEST(Notation, ALimitOnABasisThatThePlaceDoesNotTakeIsRefused) {
  const Expected resistor{.unit = unit("ohm")};
  for (const char* text : {"10 kohm ±1 LSB", "10 kohm ±1 digits", "10 kohm ±1 % of span"}) {
    EXPECT_THROW(parse_value(text, resistor), NotationError) << text;
  }
  EXPECT_NO_THROW(parse_value("10 kohm ±1 % ±50 ohm", resistor));
}

TEST(Notation, BadRanges) {
  for (const char* text : {"60 V", "60..0 V", "5..5 V", "0..60", "0..60 A", "0.. V", "..60 V",
                           "0...60 V", "0..60 V V", "0..1e999 V"}) {
    EXPECT_THROW(parse_range(text, any_basis("V")), NotationError) << text;
  }
}

TEST(Notation, WhatIsPrintedReadsBackTheSame) {
  for (const char* text :
       {"2.5 V ±0.05 % ±10 ppm/K ±40 ppm/year", "240 kohm ±0.1 % ±25 ppm/K", "±2 LSB ±2 ppm/K",
        "0.6 LSB rms", "±0.05 % ±2 digits", "±0.5 % of span (k=2)", "4.5 V ±10 mV (triangular)",
        "1.1 V ±3 mV/1000 h (arcsine)", "±0.3 mV/K (typ)", "10 V ±0.02 % of range"}) {
    const bool ohms = std::string(text).find("ohm") != std::string::npos;
    const auto value = parse_value(text, any_basis(ohms ? "ohm" : "V"));
    EXPECT_EQ(to_string(value), text);
  }
  EXPECT_EQ(to_string(parse_value("2.50 \u00b5V +- 5e0ppm", any_basis("V"))), "2.5 uV ±5 ppm");
  EXPECT_EQ(to_string(parse_range("15..45 degC", any_basis("degC"))), "15..45 degC");
  EXPECT_EQ(to_string(parse_range("0..12 l/min", {})), "0..12 l/min");
}

// Random values with random limits: the bits survive, whatever the digits.
TEST(Notation, RandomValuesSurviveAPrintedRoundTrip) {
  std::mt19937_64 random(5);
  std::uniform_real_distribution<double> exponent(-8, 8), mantissa(1, 10);
  const auto number = [&] { return mantissa(random) * std::pow(10.0, exponent(random)); };
  for (int i = 0; i < 5000; ++i) {
    Value value{.nominal = number(), .unit = unit(i % 2 == 0 ? "mV" : "V")};
    value.limits.push_back({.size = number(), .unit = unit("%"), .basis = Basis::relative});
    value.limits.push_back({.size = number(), .unit = unit("uV"), .drift = Drift::temperature});
    value.limits.push_back({.size = number(),
                            .unit = unit("LSB"),
                            .basis = Basis::code,
                            .distribution = Distribution::normal,
                            .coverage_factor = number()});
    ASSERT_EQ(parse_value(to_string(value), any_basis("V")), value) << to_string(value);
  }
}

TEST(Notation, OneValueForARangeRootsAndFahrenheit) {
  auto one = any_basis("degC");
  one.one_value = true;
  const auto sixty = parse_range("60 degC", one);
  EXPECT_EQ(sixty.low, 333.15);
  EXPECT_EQ(sixty.high, 333.15);
  EXPECT_EQ(parse_range("15..45 degC", one).high, 318.15);
  EXPECT_THROW(parse_range("60 degC", any_basis("degC")), NotationError);
  EXPECT_THROW(parse_range("60 V", one), NotationError);
  EXPECT_THROW(parse_range("60 degC ±1 K", one), NotationError);
  EXPECT_EQ(parse_value("20 nV/sqrt(Hz)", any_basis("V/sqrt(Hz)")).nominal, 20e-9);
  EXPECT_EQ(parse_value("20 nV/sqrt(Hz) ±10 % (k=2)", any_basis("V/sqrt(Hz)")).limits.size(), 1U);
  // 32 degF is the ice point, 212 degF the steam point.
  EXPECT_NEAR(*parse_value("32 degF", any_basis("degF")).nominal, 273.15, 1e-12);
  EXPECT_NEAR(*parse_value("212 degF", any_basis("degC")).nominal, 373.15, 1e-12);
  EXPECT_EQ(difference_unit(unit("degF")), unit("K"));
}

}  // namespace
}  // namespace tamlo::quantity
