// SPDX-License-Identifier: Apache-2.0
// The closed form against brute force: many virtual units, drawn source by source, converting
// sample by sample with their own noise and steps.
#include <gtest/gtest.h>

#include <cmath>

#include "boards.hpp"
#include "plain_readings.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/simulate/unit.hpp"

namespace tamlo {
namespace {

struct Spread {
  double mean = 0.0, deviation = 0.0, lowest = 0.0, highest = 0.0, held = 0.0;
};

Spread simulate_units(const chain::Chain& chain, double x, double expanded, int count) {
  double sum = 0.0, squares = 0.0, lowest = 0.0, highest = 0.0;
  int held = 0;
  for (int n = 0; n < count; ++n) {
    const auto number = static_cast<std::uint64_t>(n);
    const auto unit = simulate::draw(chain, 42, number);
    math::RandomStream noise(43, number);
    // Somewhere within a code, so that quantisation is not the same in all units.
    const double place = x + (math::RandomStream(44, number).uniform() - 0.5) * 0.1;
    const double error = testing::plain_reading(chain, unit, place, noise) - place;
    sum += error;
    squares += error * error;
    lowest = std::min(lowest, error);
    highest = std::max(highest, error);
    if (std::abs(error) <= expanded) ++held;
  }
  return {sum / count, std::sqrt(squares / count - sum * sum / count / count), lowest, highest,
          static_cast<double>(held) / count};
}

TEST(VirtualUnits, SpreadAsTheBudgetSays) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  for (const double x : {6.0, 30.0, 55.0}) {
    const auto budget = budget::evaluate(chain, {.at = {x}});
    const auto& point = budget.points.front();
    const int count = 30000;
    const auto units = simulate_units(chain, x, point.expanded, count);
    // The standard deviation of a standard deviation is 1 / sqrt(2 n): 0.4 %.
    EXPECT_NEAR(units.deviation / point.combined, 1.0, 0.02) << x;
    EXPECT_NEAR(units.mean, 0.0, 5 * point.combined / std::sqrt(count)) << x;
    EXPECT_GT(units.lowest, point.worst_case.low) << x;
    EXPECT_LT(units.highest, point.worst_case.high) << x;
    // 95 % by a normal law; sums of uniform sources hold a little more.
    EXPECT_NEAR(units.held, 0.955, 0.01) << x;
  }
}

// DNL is half a code width of its limit: a lone source, checked against METHOD's variance.
TEST(VirtualUnits, DnlWidensTheQuantisation) {
  auto board = testing::board();
  board.converters.front().dnl = testing::value("±1 LSB", "V");
  const auto chain = chain::build(board, "x");
  const double q = chain::code_width(chain);
  const auto budget = budget::evaluate(chain, {.at = {1.2}});
  EXPECT_NEAR(budget.points.front().combined, q * std::sqrt((1.0 + 1.0) / 12.0), 1e-12);
  const auto units = simulate_units(chain, 1.2, 1.0, 30000);
  EXPECT_NEAR(units.deviation / budget.points.front().combined, 1.0, 0.02);
}

}  // namespace
}  // namespace tamlo
