// SPDX-License-Identifier: Apache-2.0
// What a budget says beside its figures: parts of the bias, worst cases, coverage, ideal parts.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <random>
#include <vector>

#include "boards.hpp"
#include "tamlo/budget/advice.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/chain/detail/bias_parts.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/check/check.hpp"
#include "tamlo/model/validate.hpp"
#include "tamlo/simulate/coverage.hpp"
#include "tamlo/simulate/unit.hpp"

namespace tamlo::budget {
namespace {

using testing::value;

model::Board thermistor(double interference = 0.0) {
  auto board = testing::board({.span = "-20..80 degC"});
  auto& x = board.channels.front();
  x.sensor = model::Ntc{.law = model::Thermistor{.r25 = value("10 kohm ±1 %", "ohm"),
                                                 .beta = value("3950 K ±1 %", "K")},
                        .dissipation = value("2 mW/K", "W/K")};
  x.frontend = {model::SensorDivider{
      .bias_resistor = value("10 kohm ±0.1 %", "ohm"), .sensor_at_bottom = true, .supply = "ref"}};
  x.target.accuracy = value("±0.5 K", "K").limits.front();
  if (interference > 0.0) {
    x.rate = 1000.0;
    x.interference = {{.frequency = {50.0}, .amplitude = interference}};
  }
  return board;
}

// Power of 2.5 V on 10 kohm beside 10 kohm at 25 degC: 0.156 mW, so 0.078 K at 2 mW/K.
TEST(BudgetStatements, SelfHeatingIsANamedPartOfTheBias) {
  const auto chain = chain::build(thermistor(), "x");
  const auto parts = chain::bias_parts(chain, 298.15);
  ASSERT_EQ(parts.size(), 1u);
  EXPECT_EQ(parts[0].name, "self-heating");
  EXPECT_NEAR(parts[0].size, 0.0781, 0.001);
  EXPECT_FALSE(parts[0].remedy.empty());
}

// 0.3 ohm in each of two leads, at 0.39 ohm a kelvin.
TEST(BudgetStatements, LeadsThatAreNotSubtractedAreABias) {
  auto board = testing::board({.bits = 16, .span = "0..100 degC"});
  auto& x = board.channels.front();
  model::Platinum sensor{
      .r0 = value("100 ohm", "ohm"), .wires = 2, .lead = value("0.3 ohm", "ohm")};
  x.frontend = {model::Excitation{.current = value("5 mA", "A")}};
  for (const bool compensated : {true, false}) {
    sensor.lead_compensated = compensated;
    x.sensor = sensor;
    const auto chain = chain::build(board, "x");
    EXPECT_NEAR(chain::bias(chain, 323.15), compensated ? 0.0 : 1.55, 0.03);
    EXPECT_EQ(chain::bias_parts(chain, 323.15).size(), compensated ? 0u : 1u);
    const auto findings = check::check(board, "x");
    EXPECT_TRUE(std::ranges::any_of(
        findings, [](const auto& f) { return f.identifier == "lead-resistance"; }));
  }
}

// A remedy that is tried on a budget of much interference may have no readings at all.
TEST(BudgetStatements, AdviceEndsWhereARemedyHasNoReadings) {
  for (const double amplitude : {0.005, 0.02, 0.1}) {
    EXPECT_NO_THROW(advise(thermistor(amplitude), "x", 0.95)) << amplitude;
  }
}

// 50 Hz at 10 Sa/s is at 0 Hz, whatever is averaged; a delta sigma converter's own filter counts.
TEST(BudgetStatements, MainsThatFoldsToZeroIsNotRejected) {
  auto board = testing::board();
  board.conditions.mains = model::Value{50.0};
  auto& x = board.channels.front();
  x.average.time = 1.0;
  const auto rejection = [&](double rate) {
    x.rate = rate;
    return chain::dynamics(chain::build(board, "x")).mains_rejection;
  };
  EXPECT_NEAR(rejection(10.0), 0.0, 1e-9);
  EXPECT_GT(rejection(1000.0), 100.0);
  EXPECT_GT(rejection(9.5), 15.0);
  x.average = {};
  x.rate.reset();
  auto& adc = board.converters.front();
  adc.architecture = model::Architecture::delta_sigma;
  adc.data_rate = 10.0;
  EXPECT_GT(chain::dynamics(chain::build(board, "x")).series.rejection_50_hz, 100.0);
}

// The worst code of check is that of the budget: both ends, without limits twice or left out.
TEST(BudgetStatements, CheckAndBudgetHaveOneWorstCase) {
  auto board = testing::board({.reference = "2.5 V ±0.2 % ±0.1 % (k=2)", .span = "0..2 V"});
  auto& adc = board.converters.front();
  adc.offset = value("±3 LSB", "V");
  adc.inl = value("±1 LSB", "V");
  adc.noise = value("0.8 LSB rms", "V");
  board.channels.front().interference = {{.frequency = {50.0}, .amplitude = 0.003}};
  const auto chain = chain::build(board, "x");
  const double x = 1.0, q = 2.5 / 4096.0;
  const auto codes = chain::worst_case(chain, x, chain::code);
  const auto budget = evaluate(chain, {.at = {x}, .search = false});
  // Half a code of quantisation is in the reading alone.
  EXPECT_NEAR(budget.points[0].worst_case.high, codes.high * q - x + q / 2.0, 0.05 * q);
  EXPECT_NEAR(budget.points[0].worst_case.low, codes.low * q - x - q / 2.0, 0.05 * q);
}

TEST(BudgetStatements, IntervalsHoldAtEveryCoverage) {
  auto board = testing::board({.reference = "2.5 V ±0.3 %", .span = "0..2.4 V"});
  board.converters.front().offset = value("±6 LSB", "V");
  board.converters.front().noise = value("0.7 LSB rms", "V");
  const auto chain = chain::build(board, "x");
  constexpr int units = 20'000 / testing::fewer;
  for (const double coverage : {0.5, 0.68, 0.9, 0.95, 0.99}) {
    const auto proof = simulate::prove_coverage(
        chain, chain, {.at = {1.2, 2.3}, .units = units, .coverage = coverage});
    for (const auto& place : proof.places) {
      const double scatter = 3.0 * std::sqrt(coverage * (1.0 - coverage) / units);
      // They hold at the worst place within a step, and a little more elsewhere.
      EXPECT_GE(place.part, coverage - 0.01 - scatter) << coverage << " at " << place.at;
      EXPECT_LE(place.part, coverage + 0.06 + scatter) << coverage << " at " << place.at;
    }
  }
}

TEST(BudgetStatements, APartsListWithoutLimitsIsOneOfIdealParts) {
  EXPECT_TRUE(evaluate(chain::build(testing::board(), "x")).of_ideal_parts);
  EXPECT_FALSE(evaluate(chain::build(testing::pack_voltage(), "x")).of_ideal_parts);
  const auto omitted = check::omissions(testing::board(), "x");
  EXPECT_TRUE(std::ranges::any_of(omitted, [](const auto& o) {
    return o.what == "no limits for offset, gain and INL of converter adc";
  }));
  EXPECT_TRUE(std::ranges::any_of(omitted,
                                  [](const auto& o) { return o.key == "conditions.temperature"; }));
  auto warm = testing::board();
  warm.conditions.temperature = {.low = 288.15, .high = 318.15, .unit = quantity::unit("degC")};
  const auto says_where = [&] {
    return std::ranges::any_of(check::omissions(warm, "x"), [](const auto& o) {
      return o.what.starts_with("no temperature at which the limits hold: 23 degC is taken");
    });
  };
  EXPECT_FALSE(says_where());
  warm.conditions.defaults = {"specified_at"};
  EXPECT_TRUE(says_where());
}

// The interval lies within the worst case, by closed form and by trials, with a tare and without.
TEST(BudgetStatements, TheIntervalLiesWithinTheWorstCase) {
  for (const bool tared : {false, true}) {
    auto board = testing::pack_voltage();
    board.channels.front().average.truncated = tared;
    if (tared) board.channels.front().scaling.tare = 0.0;
    for (const auto& point : evaluate(chain::build(board, "x")).points) {
      EXPECT_LE(point.worst_case.low, point.bias - point.expanded + 1e-12);
      EXPECT_GE(point.worst_case.high, point.bias + point.expanded - 1e-12);
    }
  }
}

// Half a code of dither, injected at the pin, is half a code of noise of the converter: averages of
// 256 then tell eight steps between codes, or more.
TEST(BudgetStatements, InjectedDitherIsNoiseThatAveragesTell) {
  auto board = testing::board({.bits = 10, .reference = "2.56 V"});
  board.channels.front().average.count = 256;
  const auto bits = [&] {
    const auto budget = evaluate(chain::build(board, "x"), {.at = {1.2345}, .search = false});
    return budget.points.front().resolution.effective;
  };
  EXPECT_NEAR(bits(), 10.0, 1e-9);
  auto noisy = board;
  noisy.converters.front().noise = value("0.5 LSB rms", "V");
  board.channels.front().dither = value("1.25 mV rms", "V");
  EXPECT_GT(bits(), 13.0);
  const auto of_dither = chain::build(board, "x"), of_noise = chain::build(noisy, "x");
  EXPECT_NEAR(chain::reading_noise(of_dither, 1.2345), chain::reading_noise(of_noise, 1.2345),
              1e-12);
  EXPECT_EQ(of_dither.sources.at(testing::source(of_dither, "injected dither")).kind(),
            chain::Kind::noise);
}

// 10 ppm/K over a box of 165 K is 1650 ppm in any range of temperatures; as a slope 220 ppm of it.
TEST(BudgetStatements, ADriftByTheBoxIsThatOfTheWholeBox) {
  auto board = testing::board({.reference = "2.5 V ±10 ppm/K box -40..125 degC"});
  board.conditions.temperature = testing::range("15..45 degC");
  const auto limit = [&] {
    const auto chain = chain::build(board, "x");
    return chain.sources.at(testing::source(chain, "ref voltage temperature")).limit / 2.5;
  };
  EXPECT_NEAR(limit(), 1650e-6, 1e-12);
  board.references.front().voltage = value("2.5 V ±10 ppm/K", "V");
  EXPECT_NEAR(limit(), 220e-6, 1e-12);
}

// A firmware with the beta formula for a thermistor of three coefficients: the difference of the
// two laws is a bias of each place, with a name. The difference by hand, from resistance to
// temperature.
TEST(BudgetStatements, AFirmwareWithAnotherLawIsABias) {
  constexpr double a = 1.129241e-3, b = 2.341077e-4, c = 8.775468e-8;
  auto board = thermistor();
  auto& x = board.channels.front();
  x.sensor = model::Ntc{.law = model::ThermistorCurve{.a = a, .b = b, .c = c},
                        .accuracy = value("±0.2 K", "K")};
  x.scaling.sensor = model::Ntc{
      .law = model::Thermistor{.r25 = value("10 kohm", "ohm"), .beta = value("3950 K", "K")}};
  const auto chain = chain::build(board, "x");
  for (const double ohms : {80e3, 10e3, 1e3}) {
    const double l = std::log(ohms);
    const double place = 1.0 / (a + b * l + c * l * l * l);
    const double shown = 1.0 / (1.0 / 298.15 + std::log(ohms / 10e3) / 3950.0);
    EXPECT_NEAR(chain::bias(chain, place), shown - place, 1e-9);
    const auto parts = chain::bias_parts(chain, place);
    ASSERT_EQ(parts.size(), 1U) << ohms;
    EXPECT_EQ(parts.front().name, "firmware's sensor");
    const auto point = evaluate(chain, {.at = {place}, .search = false}).points.front();
    EXPECT_NEAR(point.bias, shown - place, 0.1 * point.expanded);
  }
  // The firmware knows no limits, and one way to scale.
  std::get<model::Thermistor>(std::get<model::Ntc>(*x.scaling.sensor).law).r25 =
      value("10 kohm ±1 %", "ohm");
  EXPECT_THROW(chain::build(board, "x"), model::InvalidBoard);
  x.scaling.sensor = model::Bridge{.rated_output = value("2 mV/V", ""), .rated_load = 1.0};
  EXPECT_THROW(chain::build(board, "x"), model::InvalidBoard);
}

// 12 bits of 2.5 V: an SNR of 70 dB leaves 2.5 V / sqrt 8 / 10^3.5 = 0.2795 mV rms, 0.4580 LSB, of
// which the steps have 0.2887 LSB; noise alone is 0.3555 LSB, and the ENOB 11.34 bits again.
TEST(BudgetStatements, AnSnrHoldsTheStepsOnce) {
  auto board = testing::board();
  auto& noise = board.converters.front().noise;
  noise = quantity::parse_value("70 dB SNR", {.unit = quantity::unit("V"),
                                              .bases = {quantity::Basis::relative},
                                              .meant = quantity::Meant::noise});
  const auto chain = chain::build(board, "x");
  const auto& source = chain.sources.at(testing::source(chain, "adc noise"));
  EXPECT_NEAR(source.standard_uncertainty, 0.3555, 1e-4);
  EXPECT_EQ(source.specification, "70 dB SNR");
  const auto budget = evaluate(chain, {.at = {1.25}, .search = false});
  EXPECT_NEAR(budget.points[0].resolution.enob, (70.0 - 1.7609) / 6.0206, 2e-3);
  // An ideal converter of 12 bits has 74.01 dB.
  noise.limits.front().size /= std::pow(10.0, 4.1 / 20.0);
  EXPECT_THROW(chain::build(board, "x"), model::InvalidBoard);
}

// A firmware that divides by the last code takes all codes beyond it for more than the supply,
// where a photo resistor has no reading: they read as the last one does, in a loop and here.
TEST(BudgetStatements, BeyondTheEndOfALawReadingsAreThoseOfTheEnd) {
  auto board = testing::board({.bits = 6, .reference = "3.3 V", .span = "2..1000 lx"});
  board.converters.front().noise = value("9 LSB rms", "V");
  auto& x = board.channels.front();
  x.sensor = model::Photoresistor{
      .resistance = value("20 kohm", "ohm"), .at = 10.0, .exponent = value("0.7", "")};
  x.frontend = {model::SensorDivider{
      .bias_resistor = value("3300 ohm", "ohm"), .sensor_at_bottom = true, .supply = "ref"}};
  x.scaling.convention = model::Convention::last_code;
  const auto chain = chain::build(board, "x");
  for (const double code : {63.1, 64.0, 70.0, 1e6})
    EXPECT_EQ(chain::smooth_reading(chain, code), chain::exact_reading(chain, 63.0)) << code;
  const auto point = evaluate(chain, {.at = {2.0}, .search = false}).points.front();
  std::mt19937_64 random(20261201);
  std::normal_distribution<double> normal;
  std::vector<double> off;
  for (int i = 0; i < 100'000 / testing::fewer; ++i) {
    const double ohms = 20e3 * std::pow(0.2, -0.7);
    const double code = std::floor(64.0 * ohms / (ohms + 3300.0) + 9.0 * normal(random) + 0.5);
    const double part = std::clamp(code, 0.0, 63.0) / 63.0;
    const double shown =
        part < 1.0 ? 10.0 * std::pow(3300.0 * part / (1.0 - part) / 20e3, -1.0 / 0.7) : 0.0;
    off.push_back(std::abs(shown - 2.0 - point.bias));
  }
  const auto within = off.begin() + static_cast<std::ptrdiff_t>(off.size() * 95 / 100);
  std::ranges::nth_element(off, within);
  EXPECT_NEAR(point.expanded, *within, 0.05 * *within);
}

// A photo resistor tared in the dark, its resistance without an end: what that moves in light is
// many codes of the dark, and more than the converter has.
TEST(BudgetStatements, ATareWhereCodesAreNarrowKeepsTheWorstCaseFinite) {
  auto board = testing::board({.reference = "3 V", .span = "10..1000 lx"});
  board.converters.front().noise = value("2 LSB rms", "V");
  auto& x = board.channels.front();
  x.sensor = model::Photoresistor{.resistance = value("20 kohm ±3.7 % (typ)", "ohm"),
                                  .at = 10.0,
                                  .exponent = value("0.7 ±2.5 %", "")};
  x.frontend = {model::SensorDivider{
      .bias_resistor = value("3300 ohm", "ohm"), .sensor_at_bottom = true, .supply = "ref"}};
  x.scaling.tare = 10.0;
  const auto point =
      evaluate(chain::build(board, "x"), {.at = {1000.0}, .search = false}).points[0];
  std::mt19937_64 random(20261130);
  std::normal_distribution<double> normal;
  std::uniform_real_distribution<double> uniform(-1.0, 1.0);
  std::vector<double> off;
  for (int unit = 0; unit < 100'000 / testing::fewer; ++unit) {
    const double dark = 20e3 * (1.0 + 0.037 * normal(random));
    const double exponent = 0.7 * (1.0 + 0.025 * uniform(random));
    const auto read = [&](double lux) {
      const double ohms = dark * std::pow(lux / 10.0, -exponent);
      const double code = std::floor(4096.0 * ohms / (ohms + 3300.0) + 2.0 * normal(random) + 0.5);
      return 10.0 * std::pow(3300.0 * code / (4096.0 - code) / 20e3, -1.0 / 0.7);
    };
    off.push_back(std::abs(read(1000.0) - read(10.0) + 10.0 - 1000.0 - point.bias));
  }
  const auto within = off.begin() + static_cast<std::ptrdiff_t>(off.size() * 95 / 100);
  std::ranges::nth_element(off, within);
  EXPECT_NEAR(point.expanded, *within, 0.04 * *within);
  EXPECT_LT(point.worst_case.size(), 2.0 * *std::ranges::max_element(off));
}

}  // namespace
}  // namespace tamlo::budget
