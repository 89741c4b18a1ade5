// SPDX-License-Identifier: Apache-2.0
// Adjustments that are made on each unit, against a plain loop over units that adjusts each.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <random>
#include <vector>

#include "boards.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/model/validate.hpp"

namespace tamlo::testing {
namespace {

// A divider on 20 bits whose reference and gain are off, and a meter of 60 000 counts beside it.
model::Board adjusted(std::vector<double> at, const char* with) {
  auto result = board({.bits = 20,
                       .reference = "2.5 V ±0.4 % ±20 ppm/K",
                       .span = "0..60 V",
                       .top = "240 kohm ±0.5 %",
                       .bottom = "10 kohm ±0.5 %"});
  result.converters.front().offset = value("±500 LSB", "V");
  result.conditions.temperature = {.low = 283.15, .high = 318.15, .unit = quantity::unit("degC")};
  result.meters.push_back({.name = "bench",
                           .ranges = {{.full_scale = value("60 V", "V"),
                                       .digits = 60000,
                                       .accuracy = value("±0.02 % ±3 digits", "V")}}});
  result.channels.front().adjustment = model::Adjustment{.at = std::move(at), .with = with};
  return result;
}

// Half of what holds 95 % of the errors about their mean, by units that are adjusted one by one.
double by_units(double x, const std::vector<double>& at, bool with_meter, double farthest) {
  std::mt19937_64 random(7);
  std::uniform_real_distribution<double> one(-1.0, 1.0);
  std::vector<double> errors;
  for (int unit = 0; unit < 200'000 / fewer; ++unit) {
    const double fixed = 1.0 + 0.004 * one(random);
    const double drift = 20e-6 * farthest * one(random), offset = 500.0 * one(random);
    const double top = 240e3 * (1.0 + 0.005 * one(random)),
                 bottom = 10e3 * (1.0 + 0.005 * one(random));
    const auto reading = [&](double v, bool drifted) {
      const double reference = 2.5 * (fixed + (drifted ? drift : 0.0));
      const double code = v * bottom / (top + bottom) / reference * 1048576.0 + offset;
      return std::floor(code + 0.5) * 2.5 / 1048576.0 * 25.0;
    };
    const double of_reading = 0.0002 * one(random), digits = 0.003 * one(random);
    std::vector<double> off;
    for (const double place : at) {
      const double shown =
          place + (with_meter ? of_reading * place + digits + 0.0005 * one(random) : 0.0);
      off.push_back(reading(place, false) - shown);
    }
    const double along = at.size() == 2 ? (x - at[0]) / (at[1] - at[0]) : 0.0;
    errors.push_back(reading(x, true) - x -
                     (at.size() == 2 ? off[0] + along * (off[1] - off[0]) : off[0]));
  }
  double mean = 0.0;
  for (const double e : errors) mean += e / static_cast<double>(errors.size());
  for (double& e : errors) e = std::abs(e - mean);
  std::ranges::sort(errors);
  return errors[static_cast<std::size_t>(0.95 * static_cast<double>(errors.size()))];
}

TEST(AdjustmentOfEachUnit, LeavesWhatAPlainLoopLeaves) {
  const std::vector<double> places[] = {{5.0, 55.0}, {10.0, 30.0}, {30.0}, {0.5}};
  for (const auto& at : places) {
    for (const char* with : {"bench", ""}) {
      const auto chain = chain::build(adjusted(at, with), "x");
      const auto budget = budget::evaluate(chain, {.at = {2.0, 20.0, 58.0}});
      for (const auto& point : budget.points) {
        // The limits hold at 23 degC: 13 K below and 22 K above it.
        const double wanted = by_units(point.at, at, *with != '\0', 22.0);
        // Limits of the meter are taken together as one normal source: where they alone are left,
        // that is up to 1.96 / (0.95 sqrt(3)) = 1.19 times as wide.
        EXPECT_GT(point.expanded, 0.97 * wanted - 2e-5) << at.size() << with << point.at;
        EXPECT_LT(point.expanded, (*with != '\0' ? 1.19 : 1.03) * wanted + 2e-5)
            << at.size() << with << point.at;
      }
    }
  }
}

// Made at 40 degC, drift counts from there: 30 K down in place of 22 K up.
TEST(AdjustmentOfEachUnit, CountsDriftFromItsTemperature) {
  auto with = adjusted({5.0, 55.0}, "");
  with.channels.front().adjustment->temperature = 313.15;
  const auto budget = budget::evaluate(chain::build(with, "x"), {.at = {58.0}});
  const double wanted = by_units(58.0, {5.0, 55.0}, false, 30.0);
  EXPECT_NEAR(budget.points.front().expanded, wanted, 0.03 * wanted);
}

// What is known to be off goes away at the places of the adjustment, and only as the line between.
TEST(AdjustmentOfEachUnit, TakesTheKnownBiasAwayAtItsPlaces) {
  auto with = adjusted({10.0, 50.0}, "");
  with.converters.front().first_transition = model::FirstTransition::full_code;
  const auto chain = chain::build(with, "x");
  EXPECT_NEAR(chain::bias(chain, 10.0), 0.0, 1e-9);
  EXPECT_NEAR(chain::bias(chain, 50.0), 0.0, 1e-9);
  with.channels.front().adjustment.reset();
  EXPECT_LT(chain::bias(chain::build(with, "x"), 10.0), -1e-6);
}

TEST(AdjustmentOfEachUnit, RefusesPlacesThatMeanNothing) {
  for (const auto& at :
       {std::vector<double>{}, {1.0, 2.0, 3.0}, {70.0}, {20.0, 20.1}, {30.0, 10.0}}) {
    const auto problems = model::validate(adjusted(at, "bench"));
    ASSERT_EQ(problems.size(), 1U) << at.size();
    EXPECT_EQ(problems.front().path, "channel.x.adjustment.at");
  }
  EXPECT_EQ(model::validate(adjusted({30.0}, "none")).size(), 1U);
  EXPECT_TRUE(model::validate(adjusted({5.0, 55.0}, "bench")).empty());
}

// All limits at their ends: 0.4 %, half of a per cent of each resistor over the divider, and 500
// LSB.
TEST(WorstCaseTarget, IsHeldAgainstTheWorstCase) {
  auto with = board({.bits = 20,
                     .reference = "2.5 V ±0.4 %",
                     .span = "0..60 V",
                     .top = "240 kohm ±0.5 %",
                     .bottom = "10 kohm ±0.5 %"});
  auto& target = with.channels.front().target;
  target.accuracy = value("±1 V", "V").limits.front();
  const auto budget_of = [&] { return budget::evaluate(chain::build(with, "x"), {.at = {60.0}}); };
  const double uncertain = budget_of().points.front().error();
  target.by = model::JudgedBy::worst_case;
  const auto budget = budget_of();
  const double pin =
      60.0 * 10e3 * 1.005 / (240e3 * 0.995 + 10e3 * 1.005);  // of the lowest reference
  const double reading = pin / (2.5 * 0.996) * 2.5 * 25.0;
  EXPECT_NEAR(budget.points.front().error(), reading - 60.0, 2e-3);
  EXPECT_GT(budget.points.front().error(), 1.5 * uncertain);
  EXPECT_TRUE(budget.target_met());
  target.by = model::JudgedBy::both;  // of which U is never the larger
  EXPECT_EQ(budget_of().points.front().error(), budget.points.front().error());
  target.accuracy = value("±0.7 V", "V").limits.front();
  EXPECT_FALSE(budget_of().target_met());
  EXPECT_NEAR(budget_of().worst_place.at, 60.0, 0.1);
}

}  // namespace
}  // namespace tamlo::testing
