// SPDX-License-Identifier: Apache-2.0
// Quantities of several channels, against a plain loop over units that shares no code with them.
#include "tamlo/budget/quantity_budget.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <random>
#include <vector>

#include "boards.hpp"
#include "tamlo/model/validate.hpp"

namespace tamlo::testing {
namespace {

// Taps of a stack on one converter: the resistors of the dividers, of which each channel has its
// own, and what they share.
model::Board taps(const char* reference, const char* resistor, const char* gain) {
  auto result = board({.bits = 20, .reference = reference, .span = "0..48 V"});
  if (*gain != '\0') result.converters.front().gain = value(gain, "V");
  result.channels.clear();
  for (const char* name : {"tap_1", "tap_2"}) {
    model::Channel channel{
        .name = name, .measures = name, .span = range("0..48 V"), .converter = "adc"};
    channel.frontend.push_back(
        model::Divider{.top = value(("190 kohm " + std::string(resistor)).c_str(), "ohm"),
                       .bottom = value(("10 kohm " + std::string(resistor)).c_str(), "ohm")});
    result.channels.push_back(channel);
  }
  return result;
}

std::vector<chain::Chain> chains_of(const model::Board& board) {
  std::vector<chain::Chain> result;
  for (const auto& channel : board.channels) result.push_back(chain::build(board, channel.name));
  return result;
}

model::Quantity quantity_of(const char* formula, const char* span) {
  return {.name = "q", .expression = formula, .span = range(span)};
}

// Half of what holds 95 % of the errors about their mean.
double interval(std::vector<double> errors) {
  double mean = 0.0;
  for (const double e : errors) mean += e / static_cast<double>(errors.size());
  for (double& e : errors) e = std::abs(e - mean);
  std::ranges::sort(errors);
  return errors[static_cast<std::size_t>(0.95 * static_cast<double>(errors.size()))];
}

TEST(QuantityBudget, AgreesWithAPlainLoopOverUnits) {
  const auto board = taps("2.5 V ±0.2 %", "±0.05 %", "±400 LSB");
  const auto chains = chains_of(board);
  struct Case {
    const char* formula;
    const char* span;
    double (*of)(double, double);
  };
  const Case cases[] = {
      {"tap_2 - tap_1", "2..5 V", [](double a, double b) { return b - a; }},
      {"(tap_1 + tap_2) / 2", "10..40 V", [](double a, double b) { return (a + b) / 2.0; }},
      {"tap_1 + 3 * tap_2", "20..120 V", [](double a, double b) { return a + 3.0 * b; }},
      {"max(tap_1, tap_2)", "20..40 V", [](double a, double b) { return std::max(a, b); }},
  };
  std::mt19937_64 random(42);
  std::uniform_real_distribution<double> one(-1.0, 1.0);
  for (const auto& [formula, span, of] : cases) {
    const auto budget =
        budget::evaluate(quantity_of(formula, span), chains,
                         {.units = static_cast<std::uint64_t>(200'000 / (fewer * fewer))});
    for (const auto& point : budget.points) {
      const double a = point.places[0].at, b = point.places[1].at;
      std::vector<double> errors;
      for (int unit = 0; unit < 200'000 / fewer; ++unit) {
        const double reference = 2.5 * (1.0 + 0.002 * one(random)), gain = 400.0 * one(random);
        const auto reading = [&](double x) {
          const double top = 190e3 * (1.0 + 0.0005 * one(random)),
                       bottom = 10e3 * (1.0 + 0.0005 * one(random));
          const double part = x * bottom / (top + bottom) / reference;  // of the codes
          const double code = part * 1048576.0 + gain * part;
          return std::floor(code + 0.5) * 2.5 / 1048576.0 * 20.0;
        };
        errors.push_back(of(reading(a), reading(b)) - of(a, b));
      }
      const double u = interval(errors);
      EXPECT_NEAR(point.expanded, u, 0.01 * fewer * u) << formula << " " << point.at;
    }
    EXPECT_EQ(budget.points.size(), 3U) << formula;
  }
}

// The sources come in one order at every place that was asked for, with what they do there.
TEST(QuantityBudget, PlacesThatAreAskedForHaveEverySource) {
  const auto chains = chains_of(taps("2.5 V ±0.2 %", "±0.05 %", "±400 LSB"));
  const auto quantity = quantity_of("tap_2 - tap_1", "2..5 V");
  const auto whole = budget::evaluate(quantity, chains);
  const auto some = budget::evaluate(quantity, chains, {.at = {5.0, 60.0, 2.0}});
  ASSERT_EQ(some.points.size(), 2U);  // no readings are 60 V apart
  EXPECT_EQ(some.points[0].expanded, whole.points[2].expanded);
  EXPECT_EQ(some.points[1].expanded, whole.points[0].expanded);
  for (const auto& point : some.points) {
    ASSERT_EQ(point.contributions.size(), some.sources.size());
    for (const auto& source : point.sources) {
      const auto at = std::ranges::find(some.sources, source.name, &chain::Source::name);
      ASSERT_NE(at, some.sources.end()) << source.name;
      EXPECT_EQ(point.contributions[static_cast<std::size_t>(at - some.sources.begin())],
                source.contribution);
    }
  }
}

// A reference that both share takes nothing of a small difference of two large voltages.
TEST(QuantityBudget, ASharedReferenceCancelsInADifference) {
  const auto budget = budget::evaluate(quantity_of("tap_2 - tap_1", "2..4 V"),
                                       chains_of(taps("2.5 V ±1 %", "±0.001 %", "±1 LSB")));
  for (const auto& point : budget.points) {
    if (point.places[0].at < 40.0) continue;
    EXPECT_LT(point.expanded, 0.1 * point.unrelated) << point.at;
    EXPECT_GE(point.worst_case.high, point.bias + point.expanded);
  }
  EXPECT_GE(
      std::ranges::count_if(budget.points, [](const auto& p) { return p.places[0].at > 40.0; }), 1);
}

TEST(QuantityBudget, HasShareContributionAndTargetOfItsOwn) {
  auto quantity = quantity_of("tap_2 - tap_1", "2..4 V");
  quantity.error = value("±30 mV", "V");
  quantity.target.accuracy = value("±1 %", "V").limits.front();
  const auto budget = budget::evaluate(quantity, chains_of(taps("2.5 V", "", "")));
  const auto& point = budget.points.front();
  EXPECT_EQ(point.sources.front().name, "q: own error");
  EXPECT_NEAR(point.sources.front().contribution, 0.030 / std::sqrt(3.0), 1e-12);
  EXPECT_NEAR(point.expanded, 0.95 * 0.030, 0.0003);
  EXPECT_NEAR(*point.limit, 0.02, 1e-12);
  EXPECT_FALSE(budget.target_met());
}

// A limit with its coverage factor, one that drifts, and several: each with its own law.
TEST(QuantityBudget, OwnLimitsKeepTheirLaws) {
  struct Case {
    const char* error;
    double standard, worst;  // by hand, in V; the worst of a normal law is its whole limit
  };
  const double both = std::hypot(0.030 / std::sqrt(3.0), 0.02 * 2.0 / std::sqrt(3.0));
  const Case cases[] = {{"±30 mV (k=2)", 0.015, 0.030},
                        {"±30 mV (triangular)", 0.030 / std::sqrt(6.0), 0.030},
                        {"±30 mV ±2 %", both, 0.070},
                        {"±10 mV/K", 0.010 * 22.0 / std::sqrt(3.0), 0.220}};
  auto with = taps("2.5 V", "", "");
  with.conditions.temperature = {.low = 283.15, .high = 318.15, .unit = quantity::unit("degC")};
  for (const auto& [error, standard, worst] : cases) {
    auto quantity = quantity_of("tap_2 - tap_1", "2..4 V");
    quantity.error = value(error, "V");
    const auto point = budget::evaluate(quantity, chains_of(with)).points.front();
    EXPECT_NEAR(point.combined, standard, 0.02 * standard) << error;
    EXPECT_NEAR(point.worst_case.high, std::max(worst, point.expanded), 1e-3) << error;
  }
}

TEST(QuantityBudget, RefusesFormulasThatMeanNothing) {
  auto with = taps("2.5 V", "", "");
  struct Case {
    const char* formula;
    const char* says;
  };
  const Case cases[] = {{"tap_1 - tap_3", "\"tap_3\", which is no channel"},
                        {"tap_1 * tap_2", "whose unit is not V"},
                        {"tap_1 + 3", "whose unit is not V"},
                        {"exp(tap_1)", "whose unit is not V"},
                        {"tap_1 -", "ends too early"},
                        {"tap_1 = 3", "an assignment"},
                        {"3", "no channel"}};
  for (const auto& [formula, says] : cases) {
    with.quantities = {quantity_of(formula, "0..5 V")};
    const auto problems = model::validate(with);
    ASSERT_EQ(problems.size(), 1U) << formula;
    EXPECT_NE(problems.front().problem.find(says), std::string::npos) << problems.front().problem;
    EXPECT_EQ(problems.front().path, "quantity.q.is");
  }
  with.quantities = {quantity_of("2 * tap_1 - min(tap_1, tap_2) / 3", "0..5 V")};
  EXPECT_TRUE(model::validate(with).empty());
  EXPECT_THROW(budget::evaluate(quantity_of("tap_1", "100..200 V"), chains_of(with)), DataError);
}

// A total error takes the place of offset, gain and INL.
TEST(TotalError, IsCountedOnce) {
  auto with = board();
  with.converters.front().total_error = value("±4 LSB", "V");
  const auto chain = chain::build(with, "x");
  const auto budget = budget::evaluate(chain, {.at = {1.25}});
  const double lsb = 2.5 / 4096;
  const auto source = std::ranges::find(budget.sources, "adc total error", &chain::Source::name);
  ASSERT_NE(source, budget.sources.end());
  EXPECT_NEAR(std::hypot(4.0 * lsb / std::sqrt(3.0), lsb / std::sqrt(12.0)),
              budget.points.front().combined, 1e-9);
  // No adjustment removes it.
  EXPECT_GE(budget.points.front().adjusted.two_point, budget.points.front().expanded);
  with.converters.front().inl = value("±1 LSB", "V");
  ASSERT_EQ(model::validate(with).size(), 1U);
  EXPECT_EQ(model::validate(with).front().path, "converter.adc.total_error");
}

}  // namespace
}  // namespace tamlo::testing
