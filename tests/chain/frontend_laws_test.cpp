// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/laws.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "boards.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/model/validate.hpp"

namespace tamlo::chain {
namespace {

using testing::board;
using testing::range;
using testing::value;

TEST(FrontendLaws, ByHand) {
  const double p[] = {2.5, 10e3, 1e-3, 120.0, 100.0, 1e-3, 0.0, 1e-6, 0.0};
  const auto half = forward_of(SensorDividerLaw{0, 1, true}, {.value = 10e3}, p);
  EXPECT_DOUBLE_EQ(half.value, 1.25);
  EXPECT_DOUBLE_EQ(half.resistance, 5e3);
  EXPECT_DOUBLE_EQ(forward_of(SensorDividerLaw{0, 1, false}, {.value = 40e3}, p).value, 0.5);
  for (const bool bottom : {true, false}) {
    const SensorDividerLaw law{0, 1, bottom};
    EXPECT_NEAR(inverse_of(law, forward_of(law, {.value = 3e3}, p).value, p), 3e3, 1e-9);
  }
  EXPECT_DOUBLE_EQ(forward_of(ExcitationLaw{2}, {.value = 138.506}, p).value, 0.138506);
  EXPECT_DOUBLE_EQ(forward_of(ShuntLaw{3}, {.value = 0.020}, p).value, 2.4);
  // 100 * (10 mV + 1 mV + 1 uA * 1 kohm); an amplifier drives its output, to its ends.
  AmplifierLaw law{.gain = 4, .offset = 5, .common_mode = 6, .bias_current = 7, .noise = 8};
  const Signal in{.value = 0.01, .resistance = 1e3};
  EXPECT_NEAR(forward_of(law, in, p).value, 1.2, 1e-12);
  EXPECT_EQ(forward_of(law, in, p).resistance, 0.0);
  law.high = 1.0;
  EXPECT_EQ(forward_of(law, in, p).value, 1.0);
  law.low = 1.5, law.high = 5.0;
  EXPECT_EQ(forward_of(law, in, p).value, 1.5);
  // A source of 10 kohm loads the divider: 1 * 10 / (10 + 10 + 10).
  const double resistors[] = {10e3, 10e3};
  const auto loaded = forward_of(DividerLaw{0, 1}, {.value = 1.0, .resistance = 10e3}, resistors);
  EXPECT_NEAR(loaded.value, 1.0 / 3.0, 1e-15);
  EXPECT_NEAR(loaded.resistance, 20.0 / 3.0 * 1e3, 1e-9);
}

// A sensor fed by the converter's own reference: the reference cancels, exactly and by itself.
TEST(FrontendLaws, RatiometricCancellation) {
  auto b = board({.reference = "2.5 V ±5 %", .span = "0..100 %"});
  b.channels.front().sensor =
      model::Potentiometer{.resistance = value("10 kohm", "ohm"), .supply = "ref"};
  auto c = build(b, "x");
  auto p = c.nominal;
  p[c.conversion.reference] *= 1.05;
  for (const double x : {0.1, 0.5, 0.9}) EXPECT_NEAR(read(c, x, p), x, 1e-15);
  EXPECT_LT(budget::evaluate(c).points.back().expanded, 1e-3);  // the quantisation only
  // The same sensor on a supply of its own does not cancel.
  b.references.push_back({.name = "other", .voltage = value("2.5 V ±5 %", "V")});
  std::get<model::Potentiometer>(*b.channels.front().sensor).supply = "other";
  c = build(b, "x");
  // Away from the end, where the codes cut half of it off.
  EXPECT_GT(budget::evaluate(c, {.at = {0.9}}).points.back().expanded, 0.05);
}

// Every code of every resolution: what cancels, cancels in the code itself.
TEST(FrontendLaws, CancellationInEveryCode) {
  for (const int bits : {8, 12, 16}) {
    auto ratiometric = board({.bits = bits, .reference = "2.5 V ±5 %", .span = "0..99 %"});
    ratiometric.channels.front().sensor =
        model::Potentiometer{.resistance = value("10 kohm", "ohm"), .supply = "ref"};
    auto tracking =
        board({.bits = bits, .span = "0..60 V", .top = "240 kohm", .bottom = "10 kohm"});
    auto& divider = std::get<model::Divider>(tracking.channels.front().frontend.front());
    divider.network = value("±20 % ±100 ppm/K", "");
    divider.tracking = value("±0.05 % ±5 ppm/K", "");
    const auto a = build(ratiometric, "x"), b = build(tracking, "x");
    auto moved_a = a.nominal, moved_b = b.nominal;
    moved_a[a.conversion.reference] *= 1.05;
    const auto& law = std::get<DividerLaw>(b.path.stages.front().law);
    moved_b[*law.network] *= 0.8;
    for (std::int64_t k = 0; k <= last_code(a); ++k) {
      const auto number = static_cast<double>(k) + 0.25;
      ASSERT_EQ(convert(a, code(a, quantity_at(a, number), moved_a)).code, k);
      ASSERT_EQ(convert(b, code(b, quantity_at(b, number), moved_b)).code, k);
    }
    // What is left of the network is its tracking: 0.05 % of the top, 24 / 25 of it in the ratio.
    const auto point = budget::evaluate(b, {.at = {60.0}}).points.front();
    EXPECT_NEAR(
        std::abs(
            point.contributions.at(testing::source(b, "divider tracking tolerance")).contribution),
        60.0 * 0.0005 / std::sqrt(3.0) * 24.0 / 25.0, 1e-6);
    EXPECT_NEAR(
        point.contributions.at(testing::source(b, "divider network tolerance")).contribution, 0.0,
        1e-12);
  }
}

TEST(FrontendLaws, RatiometricBridgeAndAmplifier) {
  auto b = board({.bits = 24, .reference = "5 V ±1 %", .span = "0..200 N m"});
  auto& channel = b.channels.front();
  channel.sensor = model::Bridge{.rated_output = value("2 mV/V ±0.1 %", ""),
                                 .rated_load = 200.0,
                                 .zero = value("±1 %", ""),
                                 .combined_error = value("±0.03 %", ""),
                                 .creep = value("±0.02 %", ""),
                                 .excitation = "ref"};
  channel.frontend.push_back(model::Amplifier{.gain = value("100 ±0.2 %", ""),
                                              .offset = value("±50 uV", "V"),
                                              .noise = value("1 uV rms", "V"),
                                              .common_mode = 2.5,
                                              .rejection = 1e-5});
  const auto c = build(b, "x");
  EXPECT_NEAR(voltage(c, 100.0, c.nominal), 5.0 * 2e-3 * 0.5 * 100, 1e-12);
  const auto budget = budget::evaluate(c, {.at = {100.0}});
  const auto& point = budget.points.front();
  const auto contribution = [&](const char* name) {
    return std::abs(point.contributions[testing::source(c, name)].contribution);
  };
  EXPECT_NEAR(contribution("ref voltage tolerance"), 0.0, 1e-9);
  EXPECT_NEAR(contribution("bridge rated output tolerance"), 0.1 / std::sqrt(3.0), 1e-9);
  // Parts of the rated 200 N m, and creep of the 100 N m that are there.
  EXPECT_NEAR(contribution("bridge zero tolerance"), 2.0 / std::sqrt(3.0), 1e-9);
  EXPECT_NEAR(contribution("bridge combined error"), 0.06 / std::sqrt(3.0), 1e-9);
  EXPECT_NEAR(contribution("bridge creep"), 0.02 / std::sqrt(3.0), 1e-9);
  // 50 uV of 10 mV at 200 N m is 1 N m; 2.5 V * 10 uV/V = 25 uV is half of that.
  EXPECT_NEAR(contribution("amplifier offset tolerance"), 1.0 / std::sqrt(3.0), 1e-9);
  EXPECT_NEAR(contribution("amplifier common mode tolerance"), 0.5 / std::sqrt(3.0), 1e-9);
  EXPECT_NEAR(contribution("amplifier noise"), 0.02, 1e-9);
}

// 10 kohm at 25 degC under 2.5 V over 10 kohm: 156 uW, at 2 mW/K 0.078 K too warm. The firmware
// does not know, so it is a bias.
TEST(FrontendLaws, SelfHeatingIsABias) {
  auto b = board({.span = "-20..100 degC"});
  auto& channel = b.channels.front();
  model::Ntc ntc{
      .law = model::Thermistor{.r25 = value("10 kohm", "ohm"), .beta = value("3950 K", "K")}};
  channel.frontend.push_back(model::SensorDivider{
      .bias_resistor = value("10 kohm", "ohm"), .sensor_at_bottom = true, .supply = "ref"});
  channel.sensor = ntc;
  EXPECT_NEAR(bias(build(b, "x"), 298.15), 0.0, 1e-9);
  ntc.dissipation = value("2 mW/K", "W/K");
  channel.sensor = ntc;
  const auto warm = build(b, "x");
  EXPECT_NEAR(bias(warm, 298.15), 2.5 * 2.5 / 4 / 10e3 / 2e-3, 0.0005);
  EXPECT_LT(bias(warm, 253.15), bias(warm, 298.15));  // most power where both resistors are equal
}

TEST(FrontendLaws, ALoopOverAShunt) {
  auto b = board({.span = "0..12 bar"});
  auto& channel = b.channels.front();
  model::Value accuracy;
  accuracy.limits.push_back(value("±0.2 % of span", "V").limits.front());
  channel.sensor = model::CurrentLoop{.accuracy = accuracy};
  channel.frontend.push_back(model::Shunt{.resistance = value("120 ohm ±0.1 %", "ohm")});
  const auto c = build(b, "x");
  EXPECT_NEAR(voltage(c, 0.0, c.nominal), 0.48, 1e-12);
  EXPECT_NEAR(voltage(c, 12e5, c.nominal), 2.4, 1e-12);
  const auto budget = budget::evaluate(c, {.at = {6e5}});
  const auto index = testing::source(c, "transmitter accuracy tolerance");
  EXPECT_NEAR(budget.points.front().contributions[index].contribution,
              0.002 * 12e5 / std::sqrt(3.0), 1e-6);
}

TEST(FrontendLaws, LeakageFlowsThroughTheSource) {
  auto b = board({.span = "0..24 V", .top = "90 kohm", .bottom = "10 kohm"});
  b.converters.front().leakage = value("±1 uA", "A");
  const auto c = build(b, "x");
  EXPECT_DOUBLE_EQ(signal(c, 5.0, c.nominal).resistance, 9e3);
  const auto budget = budget::evaluate(c, {.at = {12.0}});
  const auto& point = budget.points.front();
  // 1 uA through 9 kohm: 9 mV at the pin, 90 mV of the quantity.
  EXPECT_NEAR(point.contributions[testing::source(c, "adc leakage tolerance")].worst, 0.09, 1e-12);
}

// Ranges and codings: codes of the ends and the middle, and the way back, over all codes.
TEST(ConverterRanges, BipolarAndSignedCodes) {
  struct Case {
    model::Coding coding;
    std::int64_t first, at_zero;
  };
  for (const auto& [coding, first, at_zero] : {Case{model::Coding::offset_binary, 0, 2048},
                                               Case{model::Coding::twos_complement, -2048, 0}}) {
    auto b = board({.reference = "2.5 V ±1 %", .span = "-9.9..9.9 V"});
    b.converters.front().input_range = range("-10..10 V");
    b.converters.front().coding = coding;
    const auto c = build(b, "x");
    EXPECT_DOUBLE_EQ(code_width(c), 20.0 / 4096);
    EXPECT_EQ(first_code(c), first);
    EXPECT_EQ(convert(c, code(c, 0.0, c.nominal)).code, at_zero);
    EXPECT_EQ(convert(c, code(c, -10.0, c.nominal)).code, first);
    EXPECT_TRUE(convert(c, code(c, 10.1, c.nominal)).clipped);
    EXPECT_TRUE(convert(c, code(c, -10.1, c.nominal)).clipped);
    for (auto k = first_code(c); k <= last_code(c); ++k) {
      const double x = reading(c, static_cast<double>(k));
      ASSERT_EQ(convert(c, code(c, x, c.nominal)).code, k);
    }
    // The range follows the reference, around 0 V.
    auto p = c.nominal;
    p[c.conversion.reference] *= 1.01;
    EXPECT_NEAR(read(c, 0.0, p), 0.0, 1e-12);
    EXPECT_NEAR(read(c, 5.0, p), 5.0 / 1.01, 1e-12);
  }
}

TEST(ConverterRanges, APositiveAndANegativeReference) {
  auto b = board({.bits = 8, .reference = "3 V ±1 %", .span = "1..3 V"});
  b.references.push_back({.name = "low", .voltage = value("1 V ±1 %", "V")});
  b.converters.front().negative_reference = "low";
  const auto c = build(b, "x");
  EXPECT_DOUBLE_EQ(code_width(c), 2.0 / 256);
  EXPECT_EQ(convert(c, code(c, 1.0, c.nominal)).code, 0);
  EXPECT_EQ(convert(c, code(c, 2.0, c.nominal)).code, 128);
  auto p = c.nominal;
  p[c.conversion.negative_reference] = 1.01;  // at its own end it moves the reading by itself
  EXPECT_NEAR(read(c, 1.0, p) - 1.0, -2.0 * 0.01 / 1.99, 1e-12);
  EXPECT_NEAR(read(c, 3.0, p), 3.0, 1e-12);
}

TEST(ConverterRanges, Attenuation) {
  auto b = board({.span = "0..9 V"});
  b.converters.front().attenuations = {
      {.name = "unity", .ratio = value("1", ""), .usable = range("0..2.45 V")},
      {.name = "quarter",
       .ratio = value("0.25 ±0.3 %", ""),
       .usable = range("0..9.6 V"),
       .inl = value("±4 LSB", "V")}};
  b.converters.front().inl = value("±1 LSB", "V");
  b.channels.front().attenuation = "quarter";
  const auto c = build(b, "x");
  EXPECT_DOUBLE_EQ(code_width(c), 10.0 / 4096);
  EXPECT_EQ(convert(c, code(c, 5.0, c.nominal)).code, 2048);
  EXPECT_EQ(c.sources[testing::source(c, "adc INL")].limit, 4.0);
  const auto budget = budget::evaluate(c, {.at = {8.0}});
  const auto index = testing::source(c, "attenuation ratio tolerance");
  EXPECT_NEAR(budget.points.front().contributions[index].contribution, 8.0 * 0.003 / std::sqrt(3.0),
              1e-9);
}

// 10 Mohm at the end of 240 kohm over 10 kohm, which are 9.6 kohm: 9.6 / 10009.6 of it is lost.
TEST(FrontendLaws, AMeterLoadsThePin) {
  auto board = testing::pack_voltage();
  board.meters.push_back(testing::bench_meter());
  board.meters.front().input_resistance = testing::value("10 Mohm ±1 %", "ohm");
  const double before =
      chain::read(chain::build(board, "x"), 48.0, chain::build(board, "x").nominal);
  board.channels.front().loaded_by = "bench";
  const auto chain = chain::build(board, "x");
  EXPECT_NEAR(chain::read(chain, 48.0, chain.nominal) / before, 10e6 / (10e6 + 9600.0), 1e-12);
  EXPECT_NEAR(chain::bias(chain, 48.0), -48.0 * 9600.0 / 10009600.0, 1e-9);
  // Its tolerance is a source: 1 % of what is lost.
  const auto& source =
      chain.sources[testing::source(chain, "meter bench input resistance tolerance")];
  auto p = chain.nominal;
  EXPECT_NEAR(chain::effect(chain, 48.0, source, source.limit, p),
              0.01 * 48.0 * 9600.0 / 10009600.0, 1e-5);
  // A meter there sees what it does itself.
  const auto known = chain::referred_to_pin(chain);
  EXPECT_NEAR(chain::read(known, 48.0, known.nominal), before, 1e-12);
  board.meters.front().input_resistance.reset();
  EXPECT_THROW(chain::build(board, "x"), model::InvalidBoard);
}

}  // namespace
}  // namespace tamlo::chain
