// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/step_response.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "boards.hpp"

namespace tamlo::chain {
namespace {

// Against low-passes that are followed step by step in time, a thousandth of the quickest each:
// none, one, several, the same twice, and one that does nothing.
TEST(Lowpasses, AnswerAsTheyDoStepByStep) {
  using Constants = std::vector<double>;
  for (const auto& constants :
       {Constants{}, Constants{0.0}, Constants{1e-3}, Constants{1e-3, 4e-3}, Constants{2e-3, 2e-3},
        Constants{5e-3, 1e-3, 2e-3}, Constants(6, 1e-3), Constants(8, 3e-4),
        Constants{1e-3, 1e-3, 1e-3, 1e-3, 4e-3}}) {
    const Lowpasses lowpasses(constants);
    std::vector<double> states(constants.size(), 0.0);
    constexpr double step = 1e-6;
    double sum = 0.0;
    for (const double tau : constants) sum += tau;
    EXPECT_NEAR(lowpasses.delay(), sum, 1e-6);
    EXPECT_EQ(lowpasses.after_step(-1e-9), 0.0);
    for (int i = 0; i < 20000; ++i) {
      double value = 1.0;
      for (std::size_t k = 0; k < constants.size(); ++k) {
        if (constants[k] == 0.0) continue;
        // Half of the input's way within the step (the trapezoid's rule).
        const double before = states[k];
        states[k] += (value - before) * -std::expm1(-step / constants[k]);
        value = k + 1 < constants.size() ? (before + states[k]) / 2.0 : states[k];
      }
      if (i % 997 != 0) continue;
      EXPECT_NEAR(lowpasses.after_step((i + 1) * step), value, 1.5e-3) << i;
    }
  }
}

TEST(Lowpasses, PhasesAddUp) {
  const Lowpasses lowpasses({1e-3, 3e-3});
  const double f = 120.0, w = 2.0 * std::numbers::pi * f;
  EXPECT_NEAR(lowpasses.phase(f), -std::atan(w * 1e-3) - std::atan(w * 3e-3), 1e-12);
  EXPECT_EQ(lowpasses.phase(0.0), 0.0);
}

// Readings of an average of four and then a moving average of two, by hand: the step falls between
// conversions, between readings, or within one.
TEST(StepResponse, ReadingsAreOfTheirLastConversion) {
  auto board = testing::board();
  auto& channel = board.channels.front();
  channel.rate = 1000.0;
  channel.average.count = 4;
  channel.filter.push_back(model::MovingAverage{.length = {.count = 2}});
  const auto chain = chain::build(board, "x");
  using Values = std::vector<double>;
  EXPECT_EQ(step_response(chain, false, 1000.0, 5, 2.0), (Values{0, 0, 1, 1, 1}));
  EXPECT_EQ(step_response(chain, false, 1000.0, 5, 1.5), (Values{0, 0, 1, 1, 1}));
  // A reading shows conversions 4 k to 4 k + 3; at 1.25 the step comes with conversion 8.
  EXPECT_EQ(step_response(chain, true, 1000.0, 5, 1.25), (Values{0, 0, 0.5, 1, 1}));
  EXPECT_EQ(step_response(chain, true, 1000.0, 5, 1.75), (Values{0, 0, 0.25, 0.75, 1}));
}

}  // namespace
}  // namespace tamlo::chain
