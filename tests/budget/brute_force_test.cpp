// SPDX-License-Identifier: Apache-2.0
// Budgets of channels of all kinds against units that convert one code at a time. Every channel has
// its own loop, written here in plain arithmetic: nothing of the chain is in it.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <iterator>
#include <numbers>

#include "brute_force.hpp"
#include "tamlo/budget/budget.hpp"

namespace tamlo::budget {
namespace {

using namespace brute_force;

TEST(BruteForce, ChannelsOfAllKinds) {
  constexpr int units = 20'000 / testing::fewer;
  auto cases = channels_before_the_pin();
  std::ranges::copy(converters_and_firmwares(), std::back_inserter(cases));
  std::ranges::copy(filtered_readings(), std::back_inserter(cases));
  EXPECT_GE(cases.size(), 30U);
  struct Line {
    double off;
    std::string text;
  };
  std::vector<Line> table;
  for (const auto& of : cases) {
    auto board = testing::board({.bits = of.bits, .span = of.span});
    of.describe(board, board.converters.front(), board.channels.front());
    const auto chain = chain::build(board, "x");
    const auto budget = evaluate(chain, {.at = of.at, .search = false});
    Random random;
    for (const auto& point : budget.points) {
      std::vector<double> errors;
      double sum = 0.0, squares = 0.0;
      // The closed form speaks of a place that nobody knows to a part of a step.
      const double step = std::max(chain::step_at(chain, point.at), point.code_width);
      const bool anywhere = point.method == Method::closed_form;
      for (int i = 0; i < units; ++i) {
        const double x = point.at + (anywhere ? random.flat(step / 2.0) : 0.0);
        errors.push_back(of.unit(random)(x) - x);
        sum += errors.back();
        squares += errors.back() * errors.back();
      }
      const double mean = sum / units;
      const double error_of_mean = std::sqrt(std::max(0.0, squares / units - mean * mean) / units);
      const auto inside = static_cast<double>(std::ranges::count_if(errors, [&](double e) {
        return std::abs(e - point.bias) <= point.expanded * (1.0 + 1e-9);
      }));
      const auto beyond = std::ranges::count_if(errors, [&](double e) {
        return e < point.worst_case.low - 1e-9 * point.code_width ||
               e > point.worst_case.high + 1e-9 * point.code_width;
      });
      for (double& e : errors) e = std::abs(e - point.bias);
      std::ranges::nth_element(errors, errors.begin() + units * 95 / 100);
      const double truth = errors[units * 95 / 100];
      const double wide = truth > 0.0 ? point.expanded / truth : 1.0;
      const auto line = fmt::format(
          "{:42} {:10.5g}  {:11}  bias {:10.3g} {:10.3g}  95 % {:9.3g} {:9.3g}  {:5.3f}  {:5.1f} %",
          of.name, point.at, name(point.method), point.bias, mean, point.expanded, truth, wide,
          100.0 * inside / units);
      table.push_back({std::abs(wide - 1.0), line});
      SCOPED_TRACE(line);
      // Where the budget took trials, its mean has an error of its own.
      const double both = point.method == Method::trials ? std::numbers::sqrt2 : 1.0;
      EXPECT_NEAR(point.bias, mean,
                  3.5 * both * error_of_mean + 0.02 * point.expanded + 1e-9 * point.code_width);
      EXPECT_GE(inside, 0.94 * units - testing::scatter(units));
      // Of discrete readings an interval grows by whole steps, and holds at the worst place in one.
      double steps = 0.0;
      for (std::size_t s = 0; s < budget.sources.size(); ++s) {
        if (budget.sources[s].kind() == chain::Kind::quantisation)
          steps += point.contributions[s].share;
      }
      const bool discrete = point.method == Method::trials || steps > 0.15;
      EXPECT_TRUE(discrete || inside <= 0.995 * units);
      EXPECT_LE(point.expanded, 1.25 * truth + (discrete ? step : 0.0));
      // Of what has no limit one in twenty may lie beyond.
      EXPECT_LE(beyond, units / 20);
    }
  }
  std::ranges::stable_sort(table, std::ranges::greater{}, &Line::off);
  fmt::print("the ten points that are farthest off, by the budget and by brute force:\n");
  for (std::size_t i = 0; i < std::min<std::size_t>(10, table.size()); ++i) {
    fmt::print("{}\n", table[i].text);
  }
}

}  // namespace
}  // namespace tamlo::budget
