// SPDX-License-Identifier: Apache-2.0
// The worked examples of JCGM 100 and JCGM 101 through the public engine.
#include "tamlo/budget/propagate.hpp"

#include <gtest/gtest.h>

#include <array>
#include <cmath>
#include <numeric>

#include "tamlo/error.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/math/detail/linear.hpp"

namespace tamlo::budget {
namespace {

using X = std::span<const double>;

// Expected figures have the digits that are printed in the standard.
void expect_digits(double value, double printed, double last_digit) {
  EXPECT_LE(std::abs(value - printed), 0.5 * last_digit * 1.0001) << value;
}

// JCGM 100, H.1: end-gauge calibration, in nm, K and 1/K. Table H.1: 32 nm, 16 degrees of freedom.
TEST(Propagate, EndGauge) {
  const std::vector<Input> inputs{normal("standard", 50'000'623.0, 25.0, 18.0),
                                  normal("difference", 215.0, 9.7, 25.6),
                                  normal("expansion", 11.5e-6, 1.2e-6),
                                  normal("temperature", -0.1, 0.41),
                                  normal("expansion difference", 0.0, 0.58e-6, 50.0),
                                  normal("temperature difference", 0.0, 0.029, 2.0)};
  const Model length = [](X x) { return x[0] + x[1] - x[0] * (x[4] * x[3] + x[2] * x[5]); };
  const auto result = propagate(length, inputs, 0.99);
  expect_digits(result.estimate, 50'000'838.0, 1.0);
  expect_digits(result.combined, 32.0, 1.0);
  EXPECT_EQ(std::floor(result.dof.value()), 16.0);
  expect_digits(result.coverage_factor, 2.92, 0.01);
  expect_digits(result.expanded, 93.0, 1.0);
  // The uncertainties of the expansion and of the temperature have no effect to first order.
  EXPECT_NEAR(result.contributions[2], 0.0, 1e-9);
  EXPECT_NEAR(result.contributions[3], 0.0, 1e-9);
}

// JCGM 100, H.2: resistance and reactance from five simultaneous observations (table H.2).
TEST(Propagate, SimultaneousResistanceAndReactance) {
  const double volts[] = {5.007, 4.994, 5.005, 4.990, 4.999};
  const double milliamperes[] = {19.663, 19.639, 19.640, 19.685, 19.678};
  const double radians[] = {1.0456, 1.0438, 1.0468, 1.0428, 1.0433};
  const auto mean = [](const auto& v) { return std::accumulate(v, v + 5, 0.0) / 5.0; };
  const auto covariance = [&](const auto& a, const auto& b) {
    double sum = 0.0;
    for (int i = 0; i < 5; ++i) sum += (a[i] - mean(a)) * (b[i] - mean(b));
    return sum / 20.0;  // of the means: 1 / (n (n - 1))
  };
  const auto input = [&](const char* name, const auto& v, double scale) {
    auto of = normal(name, mean(v) * scale, std::sqrt(covariance(v, v)) * scale, 4.0);
    of.series = 1;
    return of;
  };
  const auto r = [&](const auto& a, const auto& b) {
    return covariance(a, b) / std::sqrt(covariance(a, a) * covariance(b, b));
  };
  const std::vector<Input> inputs{input("V", volts, 1.0), input("I", milliamperes, 1e-3),
                                  input("phi", radians, 1.0)};
  expect_digits(inputs[0].standard_uncertainty, 0.0032, 0.0001);
  expect_digits(inputs[1].standard_uncertainty, 0.0095e-3, 0.0001e-3);
  expect_digits(inputs[2].standard_uncertainty, 0.00075, 0.00001);
  const std::vector<Correlation> correlations{
      {0, 1, r(volts, milliamperes)}, {0, 2, r(volts, radians)}, {1, 2, r(milliamperes, radians)}};
  expect_digits(correlations[0].coefficient, -0.36, 0.01);
  expect_digits(correlations[1].coefficient, 0.86, 0.01);
  expect_digits(correlations[2].coefficient, -0.65, 0.01);
  const Models impedance = [](X x, std::span<double> y) {
    y[0] = x[0] / x[1] * std::cos(x[2]);
    y[1] = x[0] / x[1] * std::sin(x[2]);
    y[2] = x[0] / x[1];
  };
  const auto result = propagate(impedance, 3, inputs, 0.95, correlations);
  const double estimates[] = {127.732, 219.847, 254.260}, standards[] = {0.071, 0.295, 0.236};
  for (std::size_t k = 0; k < 3; ++k) {
    expect_digits(result.outputs[k].estimate, estimates[k], 0.001);
    // From the observations at full digits the second is 0.29558; the standard prints 0.295.
    expect_digits(result.outputs[k].combined, standards[k], k == 1 ? 0.0012 : 0.001);
  }
  // Five observations together: the degrees of freedom of any result are 4 (H.2.4).
  for (const auto& output : result.outputs) EXPECT_NEAR(output.dof.value(), 4.0, 1e-9);
  expect_digits(result.correlation(0, 1), -0.588, 0.001);
  expect_digits(result.correlation(0, 2), -0.485, 0.001);
  expect_digits(result.correlation(1, 2), 0.993, 0.001);
}

// Not observed together, correlated inputs of few degrees of freedom have none that can be stated;
// without a correlation, or of exact inputs, they have.
TEST(Propagate, DegreesOfFreedomAreUndefinedWhereTheyCannotBeKnown) {
  const Model difference = [](X x) { return x[0] - x[1]; };
  const auto dof = [&](double a, double b, double r, int series) {
    auto first = normal("a", 0.0, 1.0, a), second = normal("b", 0.0, 1.0, b);
    first.series = second.series = series;
    return propagate(difference, {first, second}, 0.95, {{0, 1, r}});
  };
  const double infinite = std::numeric_limits<double>::infinity();
  EXPECT_FALSE(dof(4.0, 9.0, 0.9, 0).dof);
  EXPECT_FALSE(dof(4.0, infinite, 0.9, 0).dof);
  EXPECT_NEAR(dof(4.0, 9.0, 0.9, 0).coverage_factor, 2.7764, 1e-4);  // t of 4
  EXPECT_NEAR(dof(4.0, 4.0, 0.0, 0).dof.value(), 8.0, 1e-12);
  EXPECT_NEAR(dof(4.0, 4.0, 0.9, 1).dof.value(), 4.0, 1e-12);
  EXPECT_TRUE(std::isinf(dof(infinite, infinite, 0.9, 0).dof.value()));
}

// JCGM 100, H.3: the calibration line of a thermometer, and its correction at 30 degC.
TEST(Propagate, ThermometerLine) {
  const std::vector<double> t{21.521, 22.012, 22.512, 23.003, 23.507, 23.999,
                              24.513, 25.002, 25.503, 26.010, 26.511};
  const std::vector<double> b{-0.171, -0.169, -0.166, -0.159, -0.164, -0.165,
                              -0.156, -0.157, -0.159, -0.161, -0.160};
  std::vector<double> x;
  for (const double value : t) x.push_back(value - 20.0);
  const std::vector<double> ones(t.size(), 1.0);
  const auto fit = math::fit_columns({ones, x}, b, {.variances = ones});
  const double offset = fit.parameters[0], gain = fit.parameters[1];
  const double of_offset = fit.covariance[0], of_gain = fit.covariance[3];
  double squares = 0.0;
  for (std::size_t i = 0; i < t.size(); ++i) squares += std::pow(b[i] - offset - gain * x[i], 2);
  const double variance = squares / 9.0;
  expect_digits(std::sqrt(variance), 0.0035, 0.0001);
  std::vector<Input> inputs{normal("y1", offset, std::sqrt(of_offset * variance), 9.0),
                            normal("y2", gain, std::sqrt(of_gain * variance), 9.0)};
  for (auto& input : inputs) input.series = 1;  // of one fit
  expect_digits(inputs[0].estimate, -0.1712, 0.0001);
  expect_digits(inputs[0].standard_uncertainty, 0.0029, 0.0001);
  expect_digits(inputs[1].estimate, 0.00218, 0.00001);
  expect_digits(inputs[1].standard_uncertainty, 0.00067, 0.00001);
  const double r = fit.covariance[1] / std::sqrt(of_offset * of_gain);
  expect_digits(r, -0.930, 0.001);
  const Model correction = [](X y) { return y[0] + y[1] * (30.0 - 20.0); };
  const auto result = propagate(correction, inputs, 0.95, {{0, 1, r}});
  expect_digits(result.estimate, -0.1494, 0.0001);
  expect_digits(result.combined, 0.0041, 0.0001);
}

// JCGM 101, 9.2: additive model of four inputs, normal (9.2.2), rectangular (9.2.3), and one ten
// times as wide (9.2.4).
TEST(Propagate, AdditiveModel) {
  const Model sum = [](X x) { return x[0] + x[1] + x[2] + x[3]; };
  const std::vector<Input> gaussian(4, normal("x", 0.0, 1.0));
  const auto closed = propagate(sum, gaussian);
  expect_digits(closed.combined, 2.0, 0.1);
  expect_digits(closed.expanded, 3.92, 0.01);
  const auto of_gaussian = simulate(sum, gaussian, {.seed = 1, .count = 2'000'000});
  EXPECT_NEAR(of_gaussian.combined, 2.00, 0.005);
  EXPECT_NEAR(of_gaussian.symmetric.high, 3.92, 0.01);
  EXPECT_TRUE(closed_form_valid(closed.estimate, closed.expanded, closed.combined, of_gaussian));

  const double a = std::sqrt(3.0);
  const std::vector<Input> flat(4, uniform("x", -a, a));
  expect_digits(propagate(sum, flat).expanded, 3.92, 0.01);
  const auto of_flat = simulate(sum, flat, {.seed = 2, .count = 2'000'000});
  EXPECT_NEAR(of_flat.combined, 2.00, 0.005);
  EXPECT_NEAR(of_flat.symmetric.low, -3.88, 0.01);
  EXPECT_NEAR(of_flat.shortest.high, 3.88, 0.02);

  auto wide = flat;
  wide[3] = uniform("x", -10.0 * a, 10.0 * a);
  const auto closed_wide = propagate(sum, wide);
  expect_digits(closed_wide.combined, 10.1, 0.1);
  expect_digits(closed_wide.expanded, 19.9, 0.1);
  const auto of_wide = simulate(sum, wide, {.seed = 3, .count = 2'000'000});
  expect_digits(of_wide.combined, 10.1, 0.1);
  EXPECT_NEAR(of_wide.symmetric.high, 17.0, 0.05);
  EXPECT_FALSE(closed_form_valid(0.0, closed_wide.expanded, closed_wide.combined, of_wide));
}

// JCGM 101, 9.3: mass calibration, mg. 0.0539 by the law of propagation, 0.0754 by trials.
TEST(Propagate, MassCalibration) {
  const std::vector<Input> inputs{normal("reference", 100'000.0, 0.050),
                                  normal("added", 1.234, 0.020), uniform("air", 1.10, 1.30),
                                  uniform("density of the weight", 7000.0, 9000.0),
                                  uniform("density of the reference", 7950.0, 8050.0)};
  const Model difference = [](X x) {
    return (x[0] + x[1]) * (1.0 + (x[2] - 1.2) * (1.0 / x[3] - 1.0 / x[4])) - 100'000.0;
  };
  const auto closed = propagate(difference, inputs);
  expect_digits(closed.estimate, 1.2340, 0.0001);
  expect_digits(closed.combined, 0.0539, 0.0001);
  expect_digits(closed.estimate - closed.expanded, 1.1285, 0.0002);
  const auto trials = simulate(difference, inputs, {.seed = 4, .count = 2'000'000});
  EXPECT_NEAR(trials.mean, 1.2340, 0.0001);
  // Printed are 0.0754 and 1.0834 to 1.3825, of trials with a tolerance of their own; the deviation
  // is exactly 0.07548: sqrt(0.050^2 + 0.020^2 + m^2 (0.1^2 / 3) E[(1/a - 1/b)^2]).
  EXPECT_NEAR(trials.combined, 0.07548, 1e-4);
  EXPECT_NEAR(trials.combined, 0.0754, 2e-4);
  // The density is flat at the top, so that the place of the shortest interval is uncertain, but
  // not its width.
  EXPECT_NEAR(trials.shortest.high - trials.shortest.low, 1.3825 - 1.0834, 5e-4);
  EXPECT_NEAR(trials.shortest.low, 1.0834, 0.004);
  EXPECT_FALSE(closed_form_valid(closed.estimate, closed.expanded, closed.combined, trials, 1));
}

// JCGM 101, 9.4: comparison loss in microwave power meter calibration, x2 = 0 and no correlation.
// Figures in units of 1e-6 (table 6); the mean x1^2 + 2 u^2 and the deviation
// sqrt(4 u^4 + 4 u^2 x1^2) are exact.
TEST(Propagate, MicrowavePower) {
  const struct {
    double x1, closed, mean, deviation, low, high;
  } cases[] = {{0.0, 0.0, 50.0, 50.0, 0.0, 150.0},
               {0.010, 100.0, 150.0, 112.0, 0.0, 367.0},
               {0.050, 500.0, 2550.0, 502.0, 1590.0, 3543.0}};
  for (const auto& c : cases) {
    const std::vector<Input> inputs{normal("x1", c.x1, 0.005), normal("x2", 0.0, 0.005)};
    const Model loss = [](X x) { return 1e6 * (x[0] * x[0] + x[1] * x[1]); };
    EXPECT_NEAR(propagate(loss, inputs).combined, c.closed, 0.5) << c.x1;
    const auto trials = simulate(loss, inputs, {.seed = 5, .count = 2'000'000});
    EXPECT_NEAR(trials.mean, c.mean, 1.0) << c.x1;
    EXPECT_NEAR(trials.combined, c.deviation, 0.6) << c.x1;
    EXPECT_NEAR(trials.shortest.low, c.low, c.low > 0.0 ? 12.0 : 1.0) << c.x1;
    EXPECT_NEAR(trials.shortest.high, c.high, c.low > 0.0 ? 12.0 : 1.5) << c.x1;
  }
  // With r = 0.9 the deviation is sqrt(2 (1 + r^2)) u^2 at x1 = 0 (9.4.3).
  const std::vector<Input> inputs{normal("x1", 0.0, 0.005), normal("x2", 0.0, 0.005)};
  const Model loss = [](X x) { return 1e6 * (x[0] * x[0] + x[1] * x[1]); };
  const auto trials = simulate(loss, inputs, {.seed = 6, .count = 2'000'000}, {{0, 1, 0.9}});
  EXPECT_NEAR(trials.combined, 25.0 * std::sqrt(4.0 * (1.0 + 0.81)), 0.3);
}

// JCGM 101, 9.5: gauge block, nm (table 11): 838, 32 and 745 to 931 by the law of propagation; 36
// and 745 to 932 by trials, at 99 %.
TEST(Propagate, GaugeBlock) {
  const std::vector<Input> inputs{student("standard", 50'000'623.0, 25.0, 18.0),
                                  student("difference", 215.0, 6.0, 24.0),
                                  student("random effects", 0.0, 4.0, 5.0),
                                  student("systematic effects", 0.0, 7.0, 8.0),
                                  uniform("expansion", 9.5e-6, 13.5e-6),
                                  normal("mean temperature", -0.1, 0.2),
                                  arcsine("cyclic temperature", -0.5, 0.5),
                                  curved_trapezoid("expansion difference", -1e-6, 1e-6, 0.1e-6),
                                  curved_trapezoid("temperature difference", -0.05, 0.05, 0.025)};
  const Model deviation = [](X x) {
    const double theta = x[5] + x[6];
    return (x[0] * (1.0 + x[4] * (theta - x[8])) + x[1] + x[2] + x[3]) /
               (1.0 + (x[4] + x[7]) * theta) -
           50'000'000.0;
  };
  const auto closed = propagate(deviation, inputs, 0.99);
  EXPECT_NEAR(closed.estimate, 838.0, 0.5);
  EXPECT_NEAR(closed.combined, 32.0, 0.5);
  const auto trials =
      simulate(deviation, inputs, {.seed = 7, .count = 1'000'000, .coverage = 0.99});
  EXPECT_NEAR(trials.mean, 838.0, 0.5);
  EXPECT_NEAR(trials.combined, 36.0, 0.6);
  EXPECT_NEAR(trials.shortest.low, 745.0, 2.0);
  EXPECT_NEAR(trials.shortest.high, 932.0, 2.0);
}

TEST(Propagate, TheAdaptiveStopKeepsItsDigits) {
  const Model sum = [](X x) { return x[0] + x[1]; };
  const std::vector<Input> inputs{normal("a", 10.0, 3.0), uniform("b", -1.0, 1.0)};
  const double exact = std::sqrt(9.0 + 1.0 / 3.0);
  const auto rough = simulate(sum, inputs, {.seed = 8, .digits = 1});
  const auto fine = simulate(sum, inputs, {.seed = 8, .digits = 2});
  EXPECT_TRUE(rough.settled && fine.settled);
  EXPECT_LT(rough.count, fine.count);
  EXPECT_NEAR(fine.combined, exact, tolerance(exact, 2));
  EXPECT_NEAR(fine.mean, 10.0, tolerance(exact, 2));
  EXPECT_FALSE(simulate(sum, inputs, {.seed = 8, .digits = 5, .most = 100'000}).settled);
}

TEST(Propagate, TheSameDigitsOnAnyNumberOfThreads) {
  const Model product = [](X x) { return x[0] * x[1] * x[2]; };
  const std::vector<Input> inputs{normal("a", 1.0, 0.1), uniform("b", 0.9, 1.1),
                                  triangular("c", 0.0, 2.0)};
  const auto one = simulate(product, inputs, {.seed = 9, .count = 300'001, .threads = 1});
  for (const int threads : {2, 7}) {
    const auto other = simulate(product, inputs, {.seed = 9, .count = 300'001, .threads = threads});
    EXPECT_EQ(one.mean, other.mean);
    EXPECT_EQ(one.combined, other.combined);
    EXPECT_EQ(one.symmetric, other.symmetric);
    EXPECT_EQ(one.shortest, other.shortest);
  }
}

// Each shape has the deviation that its input states, and pairs the correlation that is asked.
TEST(Propagate, ShapesAndCorrelations) {
  const Input shapes[] = {normal("x", 2.0, 0.5), uniform("x", 1.0, 3.0), triangular("x", 1.0, 3.0),
                          arcsine("x", 1.0, 3.0), curved_trapezoid("x", 1.0, 3.0, 0.4)};
  const Model itself = [](X x) { return x[0]; };
  for (const auto& shape : shapes) {
    const auto trials = simulate(itself, {shape}, {.seed = 10, .count = 1'000'000});
    EXPECT_NEAR(trials.mean, 2.0, 3e-3);
    EXPECT_NEAR(trials.combined / shape.standard_uncertainty, 1.0, 3e-3)
        << static_cast<int>(shape.shape);
  }
  const Model difference = [](X x) { return x[0] - x[1]; };
  for (const auto& shape : {shapes[0], shapes[1]}) {
    for (const double r : {-0.9, 0.5, 1.0}) {
      const auto trials =
          simulate(difference, {shape, shape}, {.seed = 11, .count = 500'000}, {{0, 1, r}});
      EXPECT_NEAR(trials.combined, shape.standard_uncertainty * std::sqrt(2.0 - 2.0 * r), 3e-3)
          << r;
      EXPECT_NEAR(propagate(difference, {shape, shape}, 0.95, {{0, 1, r}}).combined,
                  shape.standard_uncertainty * std::sqrt(2.0 - 2.0 * r), 1e-9);
    }
  }
  EXPECT_THROW(propagate(difference, {shapes[0]}, 0.95, {{0, 1, 0.5}}), ArgumentError);
  EXPECT_THROW(simulate(difference, {shapes[0], shapes[1]}, {}, {{0, 1, 1.5}}), ArgumentError);
  const Model nothing = [](X x) { return std::sqrt(-x[0]); };
  EXPECT_THROW(propagate(nothing, {shapes[0]}), DataError);
  EXPECT_THROW(simulate(nothing, {shapes[0]}, {.count = 1024}), DataError);
}

// Values of Student's t that correlate come off a grid: held against the quantile itself, which the
// same normal values give, far into the tails of one degree of freedom.
TEST(Propagate, StudentValuesOffTheGridAreQuantiles) {
  for (const double dof : {1.0, 2.5, 9.0, 200.0}) {
    std::vector<std::vector<double>> plain, drawn;
    const std::vector<Correlation> together{{.first = 0, .second = 1, .coefficient = 0.0}};
    Draws({normal("a", 0.0, 1.0), normal("b", 0.0, 1.0)}, together).fill(5, 0, 1000, plain);
    Draws({student("a", 0.0, 1.0, dof), student("b", 0.0, 1.0, dof)}, together)
        .fill(5, 0, 1000, drawn);
    for (std::size_t k = 0; k < 2; ++k) {
      for (std::size_t t = 0; t < 1000; ++t) {
        const double exact = math::student_quantile(math::normal_cdf(plain[k][t]), dof);
        EXPECT_NEAR(drawn[k][t], exact, 1e-8 * std::abs(exact) + 1e-12) << dof << " " << exact;
      }
    }
  }
}

}  // namespace
}  // namespace tamlo::budget
