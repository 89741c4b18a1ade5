// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/laws.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "tamlo/chain/detail/laws.hpp"

namespace tamlo::chain {
namespace {

constexpr double zero = 273.15;

PlatinumLaw platinum(double base = 0.0, double slope = 0.0) {
  return {.r0 = 0, .error = 1, .base = base, .slope = slope, .added = {}};
}

// IEC 60751:2008, table 1, in ohms at R0 = 100 ohm.
TEST(SensorLaws, PlatinumIsTheTableOfTheStandard) {
  const double p[] = {100.0, 0.0};
  struct Row {
    double t, ohms;
  };
  for (const auto& [t, ohms] :
       {Row{-200, 18.520}, Row{-100, 60.256}, Row{-50, 80.306}, Row{0, 100.000}, Row{100, 138.506},
        Row{400, 247.092}, Row{600, 313.708}, Row{850, 390.481}}) {
    EXPECT_NEAR(forward_of(platinum(), t + zero, p), ohms, 0.0005 + 1e-9) << t;
  }
  for (double t = -200.0; t <= 850.0; t += 0.5) {
    const double back = inverse_of(platinum(), forward_of(platinum(), t + zero, p), p);
    ASSERT_NEAR(back, t + zero, 1e-9) << t;
  }
}

// Class B: 0.30 K + 0.005 |t|, one variable for all temperatures.
TEST(SensorLaws, PlatinumClassesGrowWithTheTemperature) {
  const double at_limit[] = {100.0, 1.0}, nominal[] = {100.0, 0.0};
  for (const double t : {-100.0, 0.0, 200.0}) {
    const double seen = inverse_of(platinum(0.3, 0.005),
                                   forward_of(platinum(0.3, 0.005), t + zero, at_limit), nominal);
    EXPECT_NEAR(seen - zero - t, 0.3 + 0.005 * std::abs(t), 1e-9) << t;
  }
}

TEST(SensorLaws, LeadsCountByTheNumberOfWires) {
  const double p[] = {100.0, 0.0, 0.5, 0.4};
  auto two = platinum(), three = platinum();
  two.added = {2, 3};
  three.added = {2};
  three.taken = {3};
  EXPECT_NEAR(forward_of(two, zero, p), 100.9, 1e-12);
  EXPECT_NEAR(forward_of(three, zero, p), 100.1, 1e-12);
  EXPECT_NEAR(forward_of(platinum(), zero, p), 100.0, 1e-12);
}

TEST(SensorLaws, ThermistorByBeta) {
  const BetaLaw law{.r25 = 0, .beta = 1, .error = 2};
  const double p[] = {10e3, 3950.0, 0.0};
  EXPECT_DOUBLE_EQ(forward_of(law, 298.15, p), 10e3);
  // 10 kohm exp(3950 (1/323.15 - 1/298.15)), by hand: exponent -3950 * 25 / (323.15 * 298.15).
  EXPECT_NEAR(forward_of(law, 323.15, p), 10e3 * std::exp(3950.0 * (1 / 323.15 - 1 / 298.15)),
              1e-9);
  EXPECT_NEAR(std::log(forward_of(law, 323.15, p) / 10e3), -1.024939, 1e-6);
  const double off[] = {10e3, 3950.0, 0.2};
  EXPECT_NEAR(inverse_of(law, forward_of(law, 310.0, off), p), 310.2, 1e-9);
}

// The cubic is solved in closed form; the equation itself is the proof.
TEST(SensorLaws, ThermistorByThreeCoefficients) {
  const SteinhartHart law{.a = 1.129e-3, .b = 2.341e-4, .c = 8.775e-8, .error = 0};
  const double p[] = {0.0};
  for (double t = 230.0; t <= 420.0; t += 1.0) {
    const double l = std::log(forward_of(law, t, p));
    ASSERT_NEAR(1.0 / (law.a + law.b * l + law.c * l * l * l), t, 1e-9) << t;
    ASSERT_NEAR(inverse_of(law, std::exp(l), p), t, 1e-9);
  }
}

// Every other law: a point by hand, and back.
TEST(SensorLaws, ThereAndBack) {
  struct Case {
    Law law;
    std::vector<double> p;
    double x, out;
  };
  const Case cases[] = {
      {LinearSensorLaw{0, 1, 0.0, 12.0}, {0.5, 4.5}, 3.0, 1.5},
      {StraightSensorLaw{0, 1, 273.15}, {8e-3, 0.35}, 298.15, 0.55},
      {BridgeLaw{0, 1, 2, 3, 4, 200.0}, {5.0, 2e-3, 0.0, 0.0, 0.0}, 50.0, 2.5e-3},
      // A quarter of the load, 10 % more by creep, and 1 % and -2 % of the rated output: 0.265.
      {BridgeLaw{0, 1, 2, 3, 4, 200.0}, {5.0, 2e-3, 0.01, -0.02, 0.1}, 50.0, 2.65e-3},
      {CurrentLoopLaw{0.004, 0.020, 0.0, 12e5, 0}, {0.0}, 3e5, 0.008},
      {PotentiometerLaw{0, 1, 0.0, 0.9}, {3.0, 10e3}, 0.3, 1.0},
      {PhotoresistorLaw{0, 1, 10.0}, {20e3, 0.5}, 1000.0, 2e3},
      {CurveLaw{{0, 1, 3}, {10, 20, 0}, 0}, {0.0}, 0.5, 15.0},
      {CurveLaw{{0, 1, 3}, {5, 3, -1}, 0}, {0.0}, 2.0, 1.0},
      {CurveLaw{{0, 1, 3}, {5, 3, -1}, 0}, {0.0}, 4.0, -3.0},
  };
  for (const auto& c : cases) {
    const double out = forward(c.law, {.value = c.x}, c.p).value;
    EXPECT_NEAR(out, c.out, 1e-12 * std::abs(c.out)) << c.law.index();
    // One of the curves has two values for what it gives.
    if (std::holds_alternative<CurveLaw>(c.law) && c.x == 0.5) continue;
    EXPECT_NEAR(inverse(c.law, out, c.p), c.x, 1e-9 * c.x) << c.law.index();
  }
}

}  // namespace
}  // namespace tamlo::chain
