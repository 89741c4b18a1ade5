// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/chain.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "boards.hpp"

namespace tamlo::chain {
namespace {

using testing::board;
using testing::range;
using testing::value;

TEST(Chain, TwelveBitsOnTwoAndAHalfVolts) {
  const auto chain = build(board(), "x");
  EXPECT_EQ(code_width(chain), 610.3515625e-6);
  EXPECT_EQ(convert(chain, code(chain, 1.25, chain.nominal)).code, 2048);
  EXPECT_FALSE(convert(chain, code(chain, 1.25, chain.nominal)).clipped);
  const auto top = convert(chain, code(chain, 2.5, chain.nominal));
  EXPECT_EQ(top.code, 4095);
  EXPECT_TRUE(top.clipped);
  const auto below = convert(chain, code(chain, -0.01, chain.nominal));
  EXPECT_EQ(below.code, 0);
  EXPECT_TRUE(below.clipped);
}

// With all deviations zero the error of indication is the quantisation and nothing else: at every
// code, just above its lower and just below its upper transition.
TEST(Chain, ErrorOfAnIdealUnitIsTheQuantisationOnly) {
  for (const int bits : {8, 12, 16}) {
    for (const bool divided : {false, true}) {
      const auto chain = build(board({.bits = bits,
                                      .span = divided ? "0..60 V" : "0..2.5 V",
                                      .top = divided ? "240 kohm" : nullptr,
                                      .bottom = "10 kohm"}),
                               "x");
      const double width = code_width_at(chain, chain.channel.span.middle());
      EXPECT_NEAR(width, (divided ? 62.5 : 2.5) / std::ldexp(1.0, bits), 1e-12 * width);
      for (std::int64_t k = 0; k <= last_code(chain); ++k) {
        for (const double inside : {-0.499999, 0.0, 0.499999}) {
          const double x = (static_cast<double>(k) + inside) * width;
          const auto result = convert(chain, code(chain, x, chain.nominal));
          ASSERT_EQ(result.code, k) << bits << " " << inside;
          const double error = reading(chain, static_cast<double>(result.code)) - x;
          ASSERT_NEAR(error, -inside * width, 1e-9 * width) << bits << " " << k;
        }
      }
      EXPECT_NEAR(bias(chain, chain.channel.span.high), 0.0, 1e-12);
    }
  }
}

TEST(Chain, ATruncatingConverterReadsHalfACodeLow) {
  auto b = board();
  b.converters.front().first_transition = model::FirstTransition::full_code;
  const auto chain = build(b, "x");
  const double q = code_width(chain);
  EXPECT_EQ(convert(chain, code(chain, 0.999 * q, chain.nominal)).code, 0);
  EXPECT_EQ(convert(chain, code(chain, 1.001 * q, chain.nominal)).code, 1);
  for (const double x : {0.3, 1.25, 2.2}) EXPECT_NEAR(bias(chain, x), -q / 2, 1e-15);
}

TEST(Chain, TheCountConventionIsABias) {
  auto b = board();
  b.channels.front().scaling.convention = model::Convention::last_code;
  const auto chain = build(b, "x");
  // code * FSR / 4095 instead of / 4096: high by one part in 4095.
  EXPECT_NEAR(bias(chain, 2.0), 2.0 / 4095.0, 1e-15);
  EXPECT_NEAR(reading(chain, 4095), 2.5, 1e-15);
  EXPECT_EQ(bias(chain, 0.0), 0.0);
}

// Each law against arithmetic by hand, forward with deviations and back without.
TEST(Chain, DeviationsActWhereTheyBelong) {
  auto b = board({.span = "0..60 V", .top = "240 kohm", .bottom = "10 kohm"});
  const auto chain = build(b, "x");
  auto p = chain.nominal;
  const auto& divider = std::get<DividerLaw>(chain.path.stages.front().law);
  p[divider.top] = 242e3;
  EXPECT_DOUBLE_EQ(voltage(chain, 50.0, p), 50.0 * 10.0 / 252.0);
  EXPECT_DOUBLE_EQ(read(chain, 50.0, p), 50.0 * 250.0 / 252.0);
  p = chain.nominal;
  p[chain.conversion.reference] = 2.5 * 1.001;
  EXPECT_NEAR(read(chain, 50.0, p), 50.0 / 1.001, 1e-12);
  p = chain.nominal;
  p[chain.conversion.gain] = 3.0;    // LSB at full scale
  p[chain.conversion.offset] = 2.0;  // LSB
  p[chain.conversion.dnl] = 0.9;     // moves an edge by half of it
  const double ideal = 50.0 / 25.0 / 2.5 * 4096.0;
  EXPECT_NEAR(code(chain, 50.0, p), ideal * (1.0 + 3.0 / 4096.0) + 2.0 + 0.45, 1e-9);
  EXPECT_NEAR(code(chain, 50.0, p), forward(chain.conversion, 2.0, p), 1e-9);
  EXPECT_NEAR(inverse(chain.conversion, code(chain, 50.0, p), p), 2.0, 1e-12);
}

TEST(Chain, ALinearSensorRunsFromEndToEnd) {
  auto b = board({.span = "0..12 l/min"});
  b.channels.front().sensor =
      model::LinearSensor{.at_low = value("0.5 V", "V"), .at_high = value("2.3 V", "V")};
  const auto chain = build(b, "x");
  EXPECT_DOUBLE_EQ(voltage(chain, 0.0, chain.nominal), 0.5);
  EXPECT_DOUBLE_EQ(voltage(chain, 12.0, chain.nominal), 2.3);
  EXPECT_DOUBLE_EQ(voltage(chain, 6.0, chain.nominal), 1.4);
  EXPECT_NEAR(quantity_at_voltage(chain, 1.4), 6.0, 1e-12);
  EXPECT_NEAR(code_width_at(chain, 6.0), code_width(chain) * 12.0 / 1.8, 1e-12);
}

// Half-widths under the conditions: 22 K from 23 degC to 45 degC, one year.
TEST(Chain, SourcesHaveTheSizeOfTheConditions) {
  const auto chain = build(testing::pack_voltage(), "x");
  struct Case {
    const char* name;
    double limit;
    Kind kind;
  };
  for (const auto& [name, limit, kind] :
       {Case{"ref voltage tolerance", 2.5 * 5e-4, Kind::tolerance},
        Case{"ref voltage temperature", 2.5 * 10e-6 * 22, Kind::temperature},
        Case{"ref voltage ageing", 2.5 * 40e-6, Kind::ageing}, Case{"ref noise", 9e-6, Kind::noise},
        Case{"divider top tolerance", 240.0, Kind::tolerance},
        Case{"divider bottom temperature", 10e3 * 25e-6 * 22, Kind::temperature},
        Case{"adc offset tolerance", 2.0, Kind::tolerance},
        Case{"adc offset temperature", 2e-6 * 22 * 4096, Kind::temperature},
        Case{"adc gain temperature", 4e-6 * 22 * 4096, Kind::temperature},
        Case{"adc INL", 1.5, Kind::nonlinearity}, Case{"adc DNL", 0.9, Kind::nonlinearity},
        Case{"adc noise", 0.6, Kind::noise}, Case{"quantisation", 0.5, Kind::quantisation}}) {
    const auto& source = chain.sources[testing::source(chain, name)];
    EXPECT_NEAR(source.limit, limit, 1e-12 * limit) << name;
    EXPECT_EQ(source.kind(), kind) << name;
  }
  EXPECT_EQ(chain.sources.size(), 16U);
}

TEST(Chain, NoDriftWhereTheConditionsDoNotMove) {
  auto b = testing::pack_voltage();
  b.conditions = {};
  for (const auto& source : build(b, "x").sources) {
    EXPECT_NE(source.kind(), Kind::temperature) << source.name;
    EXPECT_NE(source.kind(), Kind::ageing) << source.name;
  }
}

TEST(Chain, NoiseOfTheReferenceGrowsWithTheInput) {
  auto b = board({.reference = "2.5 V"});
  b.references.front().noise = value("610.3515625 uV rms", "V");  // one code at full scale
  const auto chain = build(b, "x");
  EXPECT_NEAR(noise_in_codes(chain, 0.0), 0.0, 1e-12);
  EXPECT_NEAR(noise_in_codes(chain, 1.25), 0.5, 1e-6);
  EXPECT_NEAR(noise_in_codes(chain, 2.5), 1.0, 1e-6);
}

TEST(Chain, DanglingNamesAreSaid) {
  auto b = board();
  EXPECT_THROW(build(b, "y"), ChainError);
  b.converters.front().reference = "none";
  EXPECT_THROW(build(b, "x"), ChainError);
  b.channels.front().converter = "none";
  EXPECT_THROW(build(b, "x"), ChainError);
}

TEST(Chain, AllowedByEachKindOfTarget) {
  auto b = board({.span = "0..2 V"});
  const auto chain = build(b, "x");
  const auto allowed = [&](const char* accuracy) {
    return allowed_at(chain, value(accuracy, "V").limits.front(), 0.5);
  };
  EXPECT_DOUBLE_EQ(allowed("±1 % of span"), 0.02);
  EXPECT_DOUBLE_EQ(allowed("±1 %"), 0.005);
  EXPECT_DOUBLE_EQ(allowed("±3 mV"), 0.003);
  EXPECT_NEAR(allowed("±2 LSB"), 5.0 / 4096.0, 1e-12);
}

TEST(Chain, WorstCaseMovesEverySourceToItsWorseEnd) {
  const auto chain = build(board({.reference = "2.5 V ±1 %",
                                  .span = "0..25 V",
                                  .top = "90 kohm ±1 %",
                                  .bottom = "10 kohm ±1 %"}),
                           "x");
  const auto worst = worst_case(chain, 20.0, voltage);
  EXPECT_DOUBLE_EQ(worst.high, 20.0 * 10.1 / (10.1 + 89.1));
  EXPECT_DOUBLE_EQ(worst.low, 20.0 * 9.9 / (9.9 + 90.9));
  const auto codes = worst_case(chain, 20.0, code);
  EXPECT_NEAR(codes.high, worst.high / (2.5 * 0.99) * 4096, 1e-9);
}

}  // namespace
}  // namespace tamlo::chain
