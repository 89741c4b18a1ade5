// SPDX-License-Identifier: Apache-2.0
// Trials of several outputs, and the terms of second order, beside published figures and exact
// ones.
#include <gtest/gtest.h>

#include <cmath>
#include <limits>

#include "tamlo/budget/propagate.hpp"
#include "tamlo/error.hpp"

namespace tamlo::budget {
namespace {

using X = std::span<const double>;
using Y = std::span<double>;

// JCGM 100, H.2 by trials: resistance, reactance and impedance, with the estimates, standard
// uncertainties and correlations of the inputs that table H.2 prints; outputs as table H.4.
TEST(SeveralOutputs, ResistanceAndReactance) {
  const std::vector<Input> inputs{normal("V", 4.9990, 0.0032), normal("I", 19.6610e-3, 0.0095e-3),
                                  normal("phi", 1.04446, 0.00075)};
  const std::vector<Correlation> together{{0, 1, -0.36}, {0, 2, 0.86}, {1, 2, -0.65}};
  const Models impedance = [](X x, Y y) {
    y[0] = x[0] / x[1] * std::cos(x[2]);
    y[1] = x[0] / x[1] * std::sin(x[2]);
    y[2] = x[0] / x[1];
  };
  const auto closed = propagate(impedance, 3, inputs, 0.95, together);
  const TrialsRequest request{.seed = 3, .count = 400'000};
  const auto trials = simulate(impedance, 3, inputs, request, together);
  ASSERT_EQ(trials.outputs.size(), 3u);
  const double printed[] = {0.071, 0.295, 0.236};
  for (std::size_t k = 0; k < 3; ++k) {
    // The printed correlations have two digits: the deviations follow to some per cent.
    EXPECT_NEAR(trials.outputs[k].combined, printed[k], 0.03 * printed[k]) << k;
    EXPECT_NEAR(trials.outputs[k].combined, closed.outputs[k].combined, 0.005 * printed[k]) << k;
    ASSERT_EQ(trials.values[k].size(), request.count);
  }
  EXPECT_NEAR(trials.correlation(0, 1), closed.correlation(0, 1), 0.01);
  EXPECT_NEAR(trials.correlation(1, 2), 0.993, 0.003);
  EXPECT_NEAR(trials.correlation(1, 1), 1.0, 1e-12);
  EXPECT_THROW(trials.correlation(0, 3), ArgumentError);
  // The values are of one draw each: y0^2 + y1^2 = y2^2 holds in every trial.
  for (std::size_t i = 0; i < 1000; ++i) {
    EXPECT_NEAR(std::hypot(trials.values[0][i], trials.values[1][i]), trials.values[2][i], 1e-9);
  }
}

// One output among several is what it is alone, bit for bit, on any number of threads; trials go on
// until the slowest output has its digits.
TEST(SeveralOutputs, AreThoseOfEachAlone) {
  const std::vector<Input> inputs{normal("a", 2.0, 0.1), uniform("b", 0.5, 1.5)};
  const Models both = [](X x, Y y) { y[0] = x[0] * x[1], y[1] = x[0]; };
  const auto one = simulate(both, 2, inputs, {.seed = 5, .count = 70'001});
  const auto two = simulate(both, 2, inputs, {.seed = 5, .count = 70'001, .threads = 3});
  const auto alone =
      simulate([](X x) { return x[0] * x[1]; }, inputs, {.seed = 5, .count = 70'001});
  EXPECT_EQ(one.values, two.values);
  EXPECT_EQ(one.outputs[0].combined, alone.combined);
  EXPECT_EQ(one.outputs[0].shortest, alone.shortest);
  const auto settled = simulate(both, 2, inputs, {.seed = 5});
  const auto product = simulate([](X x) { return x[0] * x[1]; }, inputs, {.seed = 5});
  const auto first = simulate([](X x) { return x[0]; }, inputs, {.seed = 5});
  EXPECT_TRUE(settled.outputs[0].settled && settled.outputs[1].settled);
  EXPECT_GE(settled.outputs[0].count, std::max(product.count, first.count));
  EXPECT_THROW(simulate(both, 0, inputs), ArgumentError);
}

// JCGM 100, H.1.7: the terms of second order add 11.7 nm and 1.7 nm to 32 nm, which makes 34 nm.
TEST(SecondOrder, EndGauge) {
  const std::vector<Input> inputs{
      normal("standard", 50'000'623.0, 25.0),       normal("difference", 215.0, 9.7),
      normal("expansion", 11.5e-6, 1.2e-6),         normal("temperature", -0.1, 0.41),
      normal("expansion difference", 0.0, 0.58e-6), normal("temperature difference", 0.0, 0.029)};
  const Model length = [](X x) { return x[0] + x[1] - x[0] * (x[4] * x[3] + x[2] * x[5]); };
  const auto of = second_order(length, inputs);
  EXPECT_NEAR(std::sqrt(of.added_variance), std::hypot(11.7, 1.7), 0.3);
  EXPECT_NEAR(of.combined, 34.0, 0.5);
  EXPECT_NEAR(of.shift, 0.0, 1e-6);
}

// Squares and cubes, whose variance and mean are exact: of x^2 about m, 4 m^2 u^2 + (k - 1) u^4
// with k the fourth moment in u^4; trials say the same.
TEST(SecondOrder, IsExactForPolynomials) {
  const double m = 3.0;
  struct Case {
    Input input;
    double kurtosis;
  };
  const double w = 1.0, d = 0.5;  // E[v^2] (w^2 + d^2 / 3), E[v^4] (w^4 + 2 w^2 d^2 + d^4 / 5)
  const double second = (w * w + d * d / 3.0) / 3.0;
  const double fourth = (1.0 + 2.0 * d * d + d * d * d * d / 5.0) / 5.0;
  const Case cases[] = {{normal("x", m, 0.8), 3.0},
                        {uniform("x", 2.0, 4.0), 1.8},
                        {triangular("x", 2.0, 4.0), 2.4},
                        {arcsine("x", 2.0, 4.0), 1.5},
                        {curved_trapezoid("x", 2.0, 4.0, d), fourth / (second * second)}};
  const Model square = [](X x) { return x[0] * x[0]; };
  for (const auto& [input, kurtosis] : cases) {
    const double u = input.standard_uncertainty;
    const auto of = second_order(square, {input});
    EXPECT_NEAR(of.shift, u * u, 1e-12);
    EXPECT_NEAR(of.combined * of.combined, 4.0 * m * m * u * u + (kurtosis - 1.0) * u * u * u * u,
                1e-9);
    const auto trials = simulate(square, {input}, {.seed = 11, .count = 400'000});
    EXPECT_NEAR(trials.combined, of.combined, 0.005 * of.combined);
    EXPECT_NEAR(trials.mean - m * m, of.shift, 4.0 * of.combined / std::sqrt(400'000.0));
  }
  // The comparison loss of JCGM 101, 9.4 at 0: first order says 0, the deviation is 2 u^2.
  const Model loss = [](X x) { return x[0] * x[0] + x[1] * x[1]; };
  const auto at_zero = second_order(loss, {normal("a", 0.0, 0.005), normal("b", 0.0, 0.005)});
  EXPECT_NEAR(at_zero.combined, 50e-6, 1e-12);
  EXPECT_NEAR(at_zero.shift, 50e-6, 1e-12);
}

TEST(SecondOrder, RefusesWhatItCannotSay) {
  const Model cubic = [](X x) { return x[0] - x[0] * x[0] * x[0]; };
  EXPECT_THROW(second_order(cubic, {normal("x", 0.0, 0.9)}), DataError);
  EXPECT_THROW(second_order([](X) { return std::numeric_limits<double>::quiet_NaN(); },
                            {normal("x", 0.0, 1.0)}),
               DataError);
}

}  // namespace
}  // namespace tamlo::budget
