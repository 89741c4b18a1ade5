// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/compare.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "boards.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/model/detail/accuracy.hpp"
#include "tamlo/simulate/unit.hpp"

namespace tamlo::meter {
namespace {

const double k = 1.959963984540054;

TEST(Compare, OneRowByHand) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  const auto meter = testing::bench_meter();
  const auto result = compare(chain, meter, {{.meter = 48.0, .reading = 48.2}});
  ASSERT_EQ(result.rows.size(), 1U);
  const auto& row = result.rows.front();
  const double u_meter = std::sqrt((0.024 * 0.024 + 0.02 * 0.02 + 0.005 * 0.005) / 3.0);
  const auto budget = budget::evaluate(chain, {.at = {48.0}});
  EXPECT_NEAR(row.difference, 0.2, 1e-12);
  EXPECT_NEAR(row.expanded_meter, k * u_meter, 1e-12);
  EXPECT_EQ(row.expanded_channel, budget.points.front().expanded);
  EXPECT_NEAR(row.normalised_error, 0.2 / std::hypot(row.expanded_channel, k * u_meter), 1e-9);
  EXPECT_NEAR(row.limit, 0.3, 1e-12);
  // The guard band: the meter, and what changes from reading to reading (noise, quantisation).
  double random = 0.0;
  for (const char* name : {"adc noise", "ref noise", "quantisation"}) {
    random +=
        std::pow(budget.points.front().contributions[testing::source(chain, name)].contribution, 2);
  }
  EXPECT_NEAR(row.guard_band, k * std::sqrt(u_meter * u_meter + random), 1e-12);
  EXPECT_EQ(row.verdict, Verdict::pass);
  // One row: an offset, no gain, one degree of freedom.
  EXPECT_NEAR(result.summary.offset.value, 0.2, 1e-12);
  EXPECT_NEAR(result.summary.offset.standard_uncertainty, row.guard_band / k, 1e-12);
  EXPECT_FALSE(result.summary.gain);
  EXPECT_EQ(result.summary.agreement.dof, 1);
  EXPECT_NEAR(result.summary.agreement.chi_squared,
              std::pow(k * 0.2, 2) / (std::pow(row.expanded_channel, 2) + std::pow(k * u_meter, 2)),
              1e-9);
}

TEST(Compare, VerdictsTurnAtTheGuardBand) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  const auto meter = testing::bench_meter();
  const double guard =
      compare(chain, meter, {{.meter = 48.0, .reading = 48.0}}).rows.front().guard_band;
  const auto verdict = [&](double difference) {
    return compare(chain, meter, {{.meter = 48.0, .reading = 48.0 + difference}}).summary.verdict;
  };
  const double hair = 1e-9;
  for (const double sign : {1.0, -1.0}) {
    EXPECT_EQ(verdict(sign * (0.3 - guard - hair)), Verdict::pass);
    EXPECT_EQ(verdict(sign * (0.3 - guard + hair)), Verdict::undecided);
    EXPECT_EQ(verdict(sign * (0.3 + guard - hair)), Verdict::undecided);
    EXPECT_EQ(verdict(sign * (0.3 + guard + hair)), Verdict::fail);
  }
}

TEST(Compare, WithoutATargetTheBudgetIsTheLimit) {
  auto board = testing::pack_voltage();
  board.channels.front().target = {};
  const auto chain = chain::build(board, "x");
  const auto result = compare(chain, testing::bench_meter(), {{.meter = 5, .reading = 5.01}});
  EXPECT_FALSE(result.has_target);
  EXPECT_EQ(result.rows.front().limit, result.rows.front().expanded_channel);
}

TEST(Compare, UncertaintiesOfTheFileReplaceTheComputedOnes) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  const auto result = compare(chain, testing::bench_meter(),
                              {{.meter = 48, .reading = 48, .u_meter = 0.003, .u_reading = 0.004}});
  EXPECT_NEAR(result.rows.front().expanded_meter, k * 0.003, 1e-12);
  EXPECT_NEAR(result.rows.front().guard_band, k * 0.005, 1e-12);
}

TEST(Compare, OffsetAndGainOfKnownDifferences) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  std::vector<Reading> readings;
  for (const double x : {5.0, 20.0, 35.0, 50.0}) {
    readings.push_back({.meter = x, .reading = x + 0.04 - 0.003 * x});
  }
  const auto summary = compare(chain, testing::bench_meter(), readings).summary;
  EXPECT_NEAR(summary.offset.value, 0.04, 1e-12);
  ASSERT_TRUE(summary.gain);
  EXPECT_NEAR(summary.gain->value, -0.003, 1e-14);
  // The meter's 0.05 % is a gain that no number of readings averages away.
  EXPECT_GT(summary.gain->standard_uncertainty, 5e-4 / std::sqrt(3.0));
  EXPECT_LT(summary.gain->standard_uncertainty, 7e-4 / std::sqrt(3.0));
  // The budget's gain: resistors 0.096 % each, drift, reference, converter: near 0.11 %.
  EXPECT_NEAR(summary.gain->budgeted, 0.0011, 0.0002);
}

TEST(Compare, TheOffsetOfATemperatureIsAtZeroCelsius) {
  auto board = testing::board({.span = "0..100 degC"});
  board.channels.front().sensor = model::StraightSensor{.sensitivity = testing::value("20 V", "V"),
                                                        .offset = testing::value("0.1 V", "V"),
                                                        .at = 273.15};
  std::get<model::StraightSensor>(*board.channels.front().sensor).sensitivity.nominal = 0.02;
  const model::Meter meter{.name = "thermometer",
                           .ranges = {{.full_scale = testing::value("200 degC", "degC"),
                                       .digits = 20000,
                                       .accuracy = testing::value("±0.1 K", "K")}}};
  std::vector<Reading> readings;
  for (const double t : {10.0, 50.0, 90.0}) {
    readings.push_back({.meter = 273.15 + t, .reading = 273.15 + t + 0.3 - 0.01 * t});
  }
  const auto summary = compare(chain::build(board, "x"), meter, readings).summary;
  EXPECT_NEAR(summary.offset.value, 0.3, 1e-9);
  EXPECT_NEAR(summary.gain->value, -0.01, 1e-11);
}

TEST(Compare, TheKnownBiasIsExpected) {
  auto board = testing::pack_voltage();
  board.channels.front().scaling.convention = model::Convention::last_code;
  const auto chain = chain::build(board, "x");
  std::vector<Reading> readings;
  for (const double x : {10.0, 30.0, 50.0})
    readings.push_back({.meter = x, .reading = x * 4096 / 4095});
  const auto result = compare(chain, testing::bench_meter(), readings);
  for (const auto& row : result.rows) EXPECT_NEAR(row.normalised_error, 0.0, 1e-9);
  EXPECT_NEAR(result.summary.agreement.chi_squared, 0.0, 1e-9);
  EXPECT_NEAR(result.summary.gain->expected, 1.0 / 4095, 1e-12);
  EXPECT_NEAR(result.summary.gain->deviation(), 0.0, 1e-6);
}

// Two resistors that go together widen or narrow what the budget expects, as they do in the budget.
TEST(Compare, CorrelatedSourcesAreExpectedTogether) {
  auto board = testing::pack_voltage();
  const std::vector<Reading> readings{{.meter = 10.0, .reading = 10.0},
                                      {.meter = 50.0, .reading = 50.0}};
  double before = 0.0;
  for (const double r : {0.0, 0.9}) {
    board.channels.front().correlations = {
        {"divider top tolerance", "divider bottom tolerance", r}};
    const auto chain = chain::build(board, "x");
    const auto comparison = compare(chain, testing::bench_meter(), readings, 0.95);
    const auto budget = budget::evaluate(chain, {.at = {50.0}});
    EXPECT_NEAR(comparison.rows[1].expanded_channel, budget.points.front().expanded, 1e-12);
    const double expected = comparison.summary.gain->expected;
    if (r > 0.0) {
      EXPECT_LT(expected, 0.8 * before);  // most of what both resistors do to the gain is gone
    }
    before = expected;
  }
}

TEST(Compare, WhatCannotBeComparedIsSaid) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  EXPECT_THROW(compare(chain, testing::bench_meter(), {}), CompareError);
  EXPECT_THROW(compare(chain, testing::bench_meter(), {{.meter = 61.0, .reading = 61.0}}),
               CompareError);
}

// A channel that is exactly at its limit passes no more often than the guard band promises: one
// time in forty, by a meter whose limits are normal.
TEST(Compare, FalsePassesAreAsRareAsTheGuardBandPromises) {
  auto board = testing::board({.span = "0..2.4 V"});
  board.converters.front().noise = testing::value("0.5 LSB rms", "V");
  board.channels.front().target.accuracy = testing::value("±10 mV", "V").limits.front();
  const auto chain = chain::build(board, "x");
  const model::Meter meter{.name = "bench",
                           .ranges = {{.full_scale = testing::value("6 V", "V"),
                                       .digits = 60000,
                                       .accuracy = testing::value("±2 mV (k=2)", "V")}}};
  int passed = 0;
  constexpr int count = 10'000;
  for (std::uint64_t n = 0; n < count; ++n) {
    math::RandomStream stream(14, n);
    const double x = 0.2 + 2.0 * stream.uniform();
    // Every second one is off to the other side.
    const double off = n % 2 == 0 ? 0.010 : -0.010;
    const auto unit = simulate::with_deviations(chain, {});
    const double shown = std::round((x + 0.001 * stream.normal()) / 1e-4) * 1e-4;
    const Reading row{.meter = shown,
                      .reading = simulate::read(chain, chain, unit, x, stream) + off};
    passed += compare(chain, meter, {row}).summary.verdict == Verdict::pass ? 1 : 0;
  }
  // 2.5 %, and three standard deviations of 10 000 of them.
  EXPECT_LE(passed, 0.025 * count + 3.0 * std::sqrt(0.025 * count));
  EXPECT_GE(passed, 0.015 * count);
}

// A few repeats of a channel with more noise than was described: the guard band holds the error of
// their mean as often as it says, or more often, because where by chance they spread as little as
// was expected the budget's noise stands in.
TEST(Compare, TheGuardBandHoldsForFewRepeats) {
  auto board = testing::board({.bits = 16, .span = "0..2.4 V"});
  board.converters.front().noise = testing::value("2 LSB rms", "V");
  const auto chain = chain::build(board, "x");
  const model::Meter meter{.name = "bench",
                           .ranges = {{.full_scale = testing::value("6 V", "V"),
                                       .digits = 6'000'000,
                                       .accuracy = testing::value("±1 uV", "V")}}};
  const double sigma = 40.0 * 2.5 / 65536.0;
  for (const int repeats : {2, 3, 5, 10}) {
    int held = 0, within = 0, used = 0;  // by the guard band, by E_n
    constexpr int count = 4000 / testing::fewer;
    for (std::uint64_t n = 0; n < count; ++n) {
      math::RandomStream stream(16, n * 100 + static_cast<std::uint64_t>(repeats));
      std::vector<double> values;
      double mean = 0.0, squares = 0.0;
      for (int i = 0; i < repeats; ++i) {
        values.push_back(1.2 + sigma * stream.normal());
        mean += values.back() / repeats;
      }
      for (const double value : values) squares += (value - mean) * (value - mean);
      const double spread = std::sqrt(squares / (repeats - 1));
      const auto row =
          compare(chain, meter,
                  {{.meter = 1.2, .reading = mean, .repeats = repeats, .spread = spread}})
              .rows.front();
      if (spread < 6.0 * 2.5 / 65536.0) continue;  // as little as the described noise may spread
      ++used;
      held += std::abs(mean - 1.2) <= row.guard_band ? 1 : 0;
      within += std::abs(row.normalised_error) <= 1.0 ? 1 : 0;
    }
    EXPECT_GE(held, 0.94 * used) << repeats;
    EXPECT_GE(within, 0.94 * used) << repeats;
    // Of two repeats, those that spread little by chance are the ones that would not hold.
    if (repeats > 2) {
      EXPECT_LE(held, 0.975 * used) << repeats;
      EXPECT_LE(within, 0.975 * used) << repeats;
    }
    EXPECT_GE(used, 0.8 * count) << repeats;
  }
}

// Hysteresis, drift, shape, noise and repeats, each put in and found again.
TEST(Compare, WhatElseRowsTell) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  const auto meter = testing::bench_meter();
  std::vector<Reading> rows;
  double time = 0.0;
  math::RandomStream noise(15, 0);
  for (const double x : {10.0, 20.0, 30.0, 40.0, 50.0, 45.0, 35.0, 25.0, 15.0}) {
    const bool rising = rows.size() < 5;
    time += rows.size() % 2 == 0 ? 1000.0 : 5000.0;
    rows.push_back({.meter = x,
                    .reading = x + 0.05 + (rising ? 0.01 : -0.01) + 2e-6 * time,
                    .repeats = 10,
                    .spread = 0.05,
                    .direction = rising ? Direction::rising : Direction::falling,
                    .time = 1e9 + time});
  }
  rows[2].reading += 0.04;
  const auto s = compare(chain, meter, rows).summary;
  ASSERT_TRUE(s.hysteresis && s.drift && s.shape && s.noise);
  EXPECT_NEAR(s.hysteresis->value, 0.02, 3.0 * s.hysteresis->standard_uncertainty);
  EXPECT_NEAR(s.drift->value, 2e-6, 3.0 * s.drift->standard_uncertainty);
  EXPECT_EQ(s.shape->best_fit_at, 30.0);
  EXPECT_NEAR(s.shape->best_fit, 0.04, 0.015);
  EXPECT_NEAR(s.noise->observed, 0.05, 1e-12);
  EXPECT_EQ(s.noise->dof, 81);
  EXPECT_EQ(s.noise->differs, 1);
  EXPECT_LT(s.noise->low, 0.05);
  EXPECT_GT(s.noise->high, 0.05);
  // One reading says what it can, and no more.
  const auto one = compare(chain, meter, {rows[0]}).summary;
  EXPECT_FALSE(one.gain || one.hysteresis || one.drift || one.shape);
  EXPECT_NEAR(one.accuracy_ratio,
              0.3 / (k * std::sqrt((0.005 * 0.005 + 0.02 * 0.02 + 0.005 * 0.005) / 3.0)), 0.01);
}

TEST(Compare, RawRowsOfOnePositionAreOneRow) {
  const auto meter = testing::bench_meter();
  const std::vector<Reading> raw{{.meter = 48.00, .reading = 48.1},
                                 {.meter = 48.01, .reading = 48.2},
                                 {.meter = 48.01, .reading = 48.3},
                                 {.meter = 50.0, .reading = 50.0},
                                 {.meter = 50.0, .reading = 50.1, .unit = "b"}};
  const auto rows = group(raw, meter);
  ASSERT_EQ(rows.size(), 3U);
  EXPECT_EQ(rows[0].repeats, 3);
  EXPECT_NEAR(rows[0].reading, 48.2, 1e-12);
  EXPECT_NEAR(rows[0].meter, 48.02 / 1.0 - 0.02 / 1.5, 1e-9);
  // A digit to and fro is the meter's: the readings alone. Two digits are both: differences of
  // 0.10, 0.18 and 0.28, by hand.
  EXPECT_NEAR(*rows[0].spread, 0.1, 1e-12);
  auto moved = raw;
  moved[1].meter = moved[2].meter = 48.02;
  EXPECT_NEAR(*group(moved, meter)[0].spread, 0.0901849951, 1e-9);
  EXPECT_FALSE(rows[1].spread);
}

// How many repeats, or how good a meter, an undecided row needs.
TEST(Compare, WhatWouldDecideARow) {
  auto board = testing::pack_voltage();
  board.converters.front().noise = testing::value("20 LSB rms", "V");
  board.channels.front().average.count = 1;
  const auto chain = chain::build(board, "x");
  const auto meter = testing::bench_meter();
  const auto row = compare(chain, meter, {{.meter = 30.0, .reading = 30.2}}).rows.front();
  ASSERT_EQ(row.verdict, Verdict::undecided);
  ASSERT_TRUE(row.repeats_needed);
  const int n = static_cast<int>(*row.repeats_needed);
  const auto with = [&](int repeats) {
    return compare(chain, meter, {{.meter = 30.0, .reading = 30.2, .repeats = repeats}})
        .rows.front()
        .verdict;
  };
  EXPECT_EQ(with(n), Verdict::pass);
  EXPECT_EQ(with(n - 1), Verdict::undecided);
  EXPECT_FALSE(compare(chain, meter, {{.meter = 30.0, .reading = 30.29}}).rows[0].repeats_needed);
}

// At the pin the parts before it are observed by the meter as well: they are not to be blamed.
TEST(Compare, AMeterAtThePin) {
  auto board = testing::pack_voltage();
  auto meter = testing::bench_meter();
  meter.touches = model::Touches::pin;
  board.meters.push_back(meter);
  const auto chain = chain_as_metered(board, "x", meter);
  const auto result = compare(chain, meter, {{.meter = 2.0, .reading = 50.1}});
  EXPECT_NEAR(result.rows[0].meter, 50.0, 1e-12);
  EXPECT_NEAR(result.rows[0].difference, 0.1, 1e-12);
  // 2 V on the range of 6 V, 25 times as much of the quantity.
  const double u = 25.0 * std::sqrt((0.001 * 0.001 + 0.002 * 0.002 + 0.0005 * 0.0005) / 3.0);
  EXPECT_NEAR(result.rows[0].expanded_meter, k * u, 1e-9);
  const auto whole = chain::build(board, "x");
  const auto budget = budget::evaluate(chain, {.at = {50.0}}).points[0];
  const auto all = budget::evaluate(whole, {.at = {50.0}}).points[0];
  for (std::size_t s = 0; s < chain.sources.size(); ++s) {
    const bool before = chain.sources[s].name.starts_with("divider");
    EXPECT_NEAR(budget.contributions[s].contribution,
                before ? 0.0 : all.contributions[s].contribution, 1e-6)
        << chain.sources[s].name;
  }
}

// Simulated benches: a meter with its own deviations beside sound units. Claims of disagreement
// must come about as often as the coverage says (a little less: uniform sources have no tails).
struct Bench {
  int disagree = 0;
  int fail = 0;
};
Bench simulate_benches(const chain::Chain& chain, double top_factor, int count) {
  const auto meter = testing::bench_meter();
  Bench result;
  for (int n = 0; n < count; ++n) {
    const auto number = static_cast<std::uint64_t>(n);
    auto unit = simulate::draw(chain, 7, number);
    const auto& divider = std::get<chain::DividerLaw>(chain.path.stages.front().law);
    unit.parameters[divider.top] *= top_factor;
    math::RandomStream stream(8, number);
    const double gain = stream.uniform() * 2 - 1, digits = stream.uniform() * 2 - 1;
    std::vector<Reading> readings;
    for (const double x : {8.0, 20.0, 32.0, 44.0, 56.0}) {
      const double shown = std::round((x * (1 + 5e-4 * gain) + 0.02 * digits) / 0.01) * 0.01;
      // INL is fixed in a unit, but differs from code to code.
      unit.parameters[chain.conversion.inl] = 1.5 * (2 * stream.uniform() - 1);
      readings.push_back(
          {.meter = shown, .reading = simulate::read(chain, chain, unit, x, stream)});
    }
    const auto summary = compare(chain, meter, readings).summary;
    result.disagree += summary.agreement.agrees ? 0 : 1;
    result.fail += summary.verdict == Verdict::fail ? 1 : 0;
  }
  return result;
}

TEST(Compare, ASoundChannelIsRarelyAccusedAndAFaultIsFound) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  const auto sound = simulate_benches(chain, 1.0, 2000);
  EXPECT_LE(sound.disagree, 0.055 * 2000);
  EXPECT_GE(sound.disagree, 0.01 * 2000);
  EXPECT_EQ(sound.fail, 0);  // ±0.13 V by the budget, ±0.3 V allowed
  const auto faulty = simulate_benches(chain, 0.988, 500);
  EXPECT_GE(faulty.disagree, 495);
  EXPECT_EQ(faulty.fail, 500);
}

}  // namespace
}  // namespace tamlo::meter
