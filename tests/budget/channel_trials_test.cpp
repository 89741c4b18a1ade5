// SPDX-License-Identifier: Apache-2.0
#include "tamlo/budget/channel_trials.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "boards.hpp"
#include "chain/read_units.hpp"
#include "plain_readings.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/simulate/unit.hpp"

namespace tamlo::budget {
namespace {

using testing::pack_voltage;
using testing::source;
using testing::value;

// Closed form, trials of the sources, and virtual units that convert one by one, agree.
TEST(ChannelTrials, ClosedFormTrialsAndVirtualUnitsAgree) {
  const auto chain = chain::build(pack_voltage(), "x");
  const auto budget = evaluate(chain, {.at = {12.0, 48.0}, .trials = TrialsRequest{.seed = 1}});
  for (const auto& point : budget.points) {
    ASSERT_TRUE(point.trials);
    const auto& trials = point.trials->of;
    EXPECT_TRUE(trials.settled);
    EXPECT_NEAR(trials.combined / point.combined, 1.0, 0.01);
    EXPECT_NEAR(trials.mean, point.bias, 0.01 * point.combined);
    double sum = 0.0, squares = 0.0;
    constexpr int units = 20000;
    for (int i = 0; i < units; ++i) {
      const auto number = static_cast<std::uint64_t>(i);
      math::RandomStream noise(2, number);
      const double error =
          testing::plain_reading(chain, simulate::draw(chain, 3, number), point.at, noise) -
          point.at;
      sum += error;
      squares += error * error;
    }
    const double deviation = std::sqrt(squares / units - sum * sum / units / units);
    EXPECT_NEAR(deviation / point.combined, 1.0, 5.0 / std::sqrt(2.0 * units));
  }
}

// "95 %" holds the truth between 94.5 and 95.5 % of the time in a near-normal channel. Where one
// uniform source dominates, the closed form adds half a step to what the source alone makes: 19.5
// codes of the 20.5 that may be.
TEST(ChannelTrials, CoverageOverAHundredThousandUnits) {
  auto one_source = testing::board({.span = "0..2.4 V"});
  one_source.converters.front().offset = value("±20 LSB", "V");
  struct Case {
    model::Board board;
    double least, most;
  };
  for (const auto& [board, least, most] :
       {Case{pack_voltage(), 0.945, 0.955}, Case{one_source, 0.95, 0.99}}) {
    const auto chain = chain::build(board, "x");
    const double x = 0.8 * chain.channel.span.high;
    const auto budget =
        evaluate(chain, {.at = {x}, .trials = TrialsRequest{.seed = 4, .count = 1'000'000}});
    const auto& point = budget.points.front();
    int closed = 0, trials = 0;
    constexpr int units = 100'000;
    for (int i = 0; i < units; ++i) {
      const auto number = static_cast<std::uint64_t>(i);
      math::RandomStream noise(5, number);
      const double error =
          testing::plain_reading(chain, simulate::draw(chain, 6, number), x, noise) - x;
      closed += std::abs(error - point.bias) <= point.expanded ? 1 : 0;
      trials += error >= point.trials->of.symmetric.low && error <= point.trials->of.symmetric.high
                    ? 1
                    : 0;
    }
    EXPECT_NEAR(trials / static_cast<double>(units), 0.95, 0.005);
    const double closed_part = closed / static_cast<double>(units);
    EXPECT_GT(closed_part, least);
    EXPECT_LT(closed_part, most);
  }
}

TEST(ChannelTrials, TheSameDigitsOnAnyNumberOfThreads) {
  const auto chain = chain::build(pack_voltage(), "x");
  const auto one = simulate(chain, 48.0, {.seed = 7, .count = 100'000, .threads = 1});
  for (const int threads : {2, 7}) {
    const auto other = simulate(chain, 48.0, {.seed = 7, .count = 100'000, .threads = threads});
    EXPECT_EQ(one.combined, other.combined);
    EXPECT_EQ(one.shortest, other.shortest);
  }
}

// Many units at once are the same units one by one, to the bit, on every set of instructions.
TEST(ChannelTrials, ManyUnitsAtOnce) {
  constexpr std::size_t count = 100;
  const auto chain = chain::build(pack_voltage(), "x");
  const auto inputs = inputs_of(chain, 40.0);
  std::vector<std::vector<double>> deviations;
  Draws(inputs, {}).fill(8, 0, count, deviations);
  std::vector<std::vector<double>> parameters;
  for (const double nominal : chain.nominal) parameters.emplace_back(count, nominal);
  for (std::size_t s = 0; s < inputs.size(); ++s) {
    for (std::size_t t = 0; t < count; ++t) {
      parameters[chain.sources[s].parameter][t] += deviations[s][t];
    }
  }
  std::vector<const double*> rows;
  for (const auto& row : parameters) rows.push_back(row.data());
  using math::Instructions;
  for (const auto with : {Instructions::base, Instructions::avx2, Instructions::avx512}) {
    if (with > math::widest_instructions()) continue;
    std::vector<double> out(count);
    chain::read_units(chain, 40.0, rows.data(), out, with);
    for (std::size_t t = 0; t < count; ++t) {
      std::vector<double> p;
      for (const auto& row : parameters) p.push_back(row[t]);
      ASSERT_EQ(out[t], chain::read(chain, 40.0, p));
    }
  }
}

// Two resistors from one reel: what they share cancels in the ratio, as much as they share it.
TEST(ChannelTrials, CorrelatedSources) {
  auto board = pack_voltage();
  const auto alone = evaluate(chain::build(board, "x"), {.at = {60.0}}).points.front();
  for (const double r : {0.5, 0.9, 1.0}) {
    board.channels.front().correlations = {
        {"divider top tolerance", "divider bottom tolerance", r}};
    const auto chain = chain::build(board, "x");
    const auto point =
        evaluate(chain, {.at = {60.0}, .trials = TrialsRequest{.seed = 9, .count = 100'000}})
            .points.front();
    const double top = point.contributions.at(source(chain, "divider top tolerance")).contribution;
    const double bottom =
        point.contributions.at(source(chain, "divider bottom tolerance")).contribution;
    EXPECT_NEAR(point.combined * point.combined,
                alone.combined * alone.combined + 2.0 * r * top * bottom, 1e-12);
    EXPECT_NEAR(point.trials->of.combined / point.combined, 1.0, 0.01) << r;
    double shares = 0.0;
    for (const auto& c : point.contributions) shares += c.share;
    EXPECT_NEAR(shares, 1.0, 1e-12);
  }
  board.channels.front().correlations = {{"divider top tolerance", "nothing", 0.5}};
  EXPECT_THROW(chain::build(board, "x"), chain::ChainError);
  board.channels.front().correlations = {{"divider top tolerance", "adc noise", 0.5}};
  EXPECT_THROW(chain::build(board, "x"), chain::ChainError);
}

// The worst place is found, not only among the asked points: a platinum sensor on two ranges.
TEST(ChannelTrials, TheWorstPlaceOfTheSpan) {
  auto board = testing::board({.span = "-20..150 degC"});
  auto& channel = board.channels.front();
  channel.sensor =
      model::Ntc{.law = model::Thermistor{value("10 kohm ±1 %", "ohm"), value("3950 K ±1 %", "K")}};
  channel.frontend = {model::SensorDivider{
      .bias_resistor = value("3.3 kohm ±0.1 %", "ohm"), .sensor_at_bottom = true, .supply = "ref"}};
  channel.target.accuracy = value("±3 % of reading", "K").limits.front();
  const auto chain = chain::build(board, "x");
  const auto budget = evaluate(chain);
  const auto used = [](const Point& p) { return (std::abs(p.bias) + p.expanded) / *p.limit; };
  std::vector<double> dense;
  for (int i = 0; i <= 3000; ++i) {
    const double x = channel.span.low + channel.span.width() * i / 3000.0;
    if (std::abs(x - 273.15) > 0.5) dense.push_back(x);
  }
  for (const auto& point : evaluate(chain, {.at = dense}).points) {
    EXPECT_LE(used(point), used(budget.worst_place) * (1.0 + 1e-3)) << point.at;
  }
}

TEST(ChannelTrials, ResolutionIsNotAccuracy) {
  auto board = testing::board({.span = "0..2.5 V"});
  board.converters.front().noise = value("1 LSB rms", "V");
  board.converters.front().gain = value("±40 LSB", "V");
  const auto point = evaluate(chain::build(board, "x"), {.at = {1.25}}).points.front();
  // Noise and quantisation of one conversion: sqrt(1 + 1/12) LSB.
  const double noise = std::sqrt(13.0 / 12.0);
  EXPECT_NEAR(point.resolution.effective, 12.0 - std::log2(noise), 1e-6);
  EXPECT_NEAR(point.resolution.noise_free, 12.0 - std::log2(6.6 * noise), 1e-6);
  EXPECT_NEAR(point.resolution.enob, 12.0 - std::log2(noise * std::sqrt(12.0)), 1e-6);
  EXPECT_NEAR(point.resolution.accuracy, std::log2(2.5 / (2.0 * point.expanded)), 1e-6);
  EXPECT_LT(point.resolution.accuracy, point.resolution.noise_free);
}

}  // namespace
}  // namespace tamlo::budget
