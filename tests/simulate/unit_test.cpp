// SPDX-License-Identifier: Apache-2.0
#include "tamlo/simulate/unit.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "boards.hpp"
#include "tamlo/simulate/coverage.hpp"

namespace tamlo::simulate {
namespace {

// Each distribution: spread as stated, nothing outside its limits.
TEST(VirtualUnit, DeviationsFollowTheirDistribution) {
  for (const char* limit : {"±1 %", "±1 % (triangular)", "±1 % (arcsine)", "±1 % (k=2)"}) {
    const auto reference = std::string("2.5 V ") + limit;
    const auto chain = chain::build(testing::board({.reference = reference.c_str()}), "x");
    const auto& source = chain.sources[testing::source(chain, "ref voltage tolerance")];
    const bool bounded = source.distribution != quantity::Distribution::normal;
    double sum = 0.0, squares = 0.0;
    constexpr int count = 40000;
    for (std::uint64_t n = 0; n < count; ++n) {
      const double d = draw(chain, 1, n).parameters[source.parameter] - 2.5;
      ASSERT_LE(std::abs(d), bounded ? source.limit * (1 + 1e-12) : 1.0) << limit;
      sum += d;
      squares += d * d;
    }
    EXPECT_NEAR(std::sqrt(squares / count) / source.standard_uncertainty, 1.0, 0.02) << limit;
    EXPECT_NEAR(sum / count / source.standard_uncertainty, 0.0, 0.025) << limit;
  }
}

TEST(VirtualUnit, TheSameNumberIsTheSameUnit) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  EXPECT_EQ(draw(chain, 5, 17).parameters, draw(chain, 5, 17).parameters);
  EXPECT_NE(draw(chain, 5, 17).parameters, draw(chain, 5, 18).parameters);
}

TEST(VirtualUnit, AnIdealUnitReadsTheCode) {
  const auto chain = chain::build(testing::board(), "x");
  const auto unit = with_deviations(chain, {});
  math::RandomStream noise(0, 0);
  EXPECT_EQ(UnitReader(chain, chain, 1.25).register_value(unit, noise), 2048.0);
  EXPECT_EQ(UnitReader(chain, chain, 2.6).register_value(unit, noise), 4095.0);
  EXPECT_EQ(read(chain, chain, unit, 1.25, noise), 1.25);
}

TEST(VirtualUnit, AGivenDeviationActs) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  const auto offset = testing::source(chain, "adc offset tolerance");
  const auto unit = with_deviations(chain, {{offset, 5.0}});
  double sum = 0.0;
  math::RandomStream noise(3, 3);
  for (int i = 0; i < 400; ++i) sum += read(chain, chain, unit, 30.0, noise);
  EXPECT_NEAR(sum / 400 - 30.0, 5.0 * 62.5 / 4096, 0.002);
}

// The firmware may differ from the description: that is how a wrong convention gets into readings.
TEST(VirtualUnit, AnotherFirmwareReadsTheSameCodes) {
  const auto chain = chain::build(testing::board(), "x");
  auto wrong = testing::board();
  wrong.channels.front().scaling.convention = model::Convention::last_code;
  math::RandomStream noise(0, 0);
  EXPECT_DOUBLE_EQ(read(chain, chain::build(wrong, "x"), with_deviations(chain, {}), 1.25, noise),
                   2048 * 2.5 / 4095);
}

double spread_of_readings(const chain::Chain& chain, double x, int count) {
  const UnitReader reader(chain, chain, x);
  const auto unit = nominal(chain);
  double sum = 0.0, squares = 0.0;
  math::RandomStream noise(8, 8);
  for (int i = 0; i < count; ++i) {
    const double error = reader.read(unit, noise) - x;
    sum += error;
    squares += error * error;
  }
  return std::sqrt((squares - sum * sum / count) / count);
}

// Noise before a low-pass of 10 ms goes over from one conversion at 1 kSa/s to the next by a =
// exp(-0.1). The mean of 16 has [16 + 2 sum (16 - k) a^k] / 16^2 of the variance: 0.613, not 1
// / 16.
TEST(VirtualUnit, ReadingsKeepTheMemoryOfNoiseBeforeALowpass) {
  auto board = testing::board({.bits = 16, .span = "0..2.4 V"});
  auto& channel = board.channels.front();
  channel.rate = 1000.0;
  channel.average.count = 16;
  channel.frontend = {
      model::Amplifier{.gain = testing::value("1", ""), .noise = testing::value("2 mV rms", "V")},
      model::Lowpass{.resistor = testing::value("10 kohm", "ohm"),
                     .capacitor = testing::value("1 uF", "F")}};
  const auto chain = chain::build(board, "x");
  double kept = 16.0;
  for (int k = 1; k < 16; ++k) kept += 2.0 * (16 - k) * std::exp(-0.1 * k);
  const double expected = 2e-3 * std::sqrt(kept / 256.0);
  constexpr int count = 4000;
  EXPECT_NEAR(spread_of_readings(chain, 1.2, count) / expected, 1.0, 4.0 / std::sqrt(2.0 * count));
}

// A correction says how far the unit that was calibrated was off: units of such a board are off
// around zero, by what the correction leaves, as their budget says.
TEST(VirtualUnit, OfACorrectedChannelWasCalibrated) {
  auto board = testing::pack_voltage();
  // One offset, found at 30 V: of each tolerance it follows the effect there.
  board.channels.front().correction = model::Correction{.coefficients = {0.5},
                                                        .centre = 30.0,
                                                        .half_width = 30.0,
                                                        .standard_uncertainty = 0.01,
                                                        .covariance = {1e-4},
                                                        .positions = {30.0},
                                                        .weights = {1.0}};
  const auto chain = chain::build(board, "x");
  for (const auto& place :
       prove_coverage(chain, chain, {.at = {3.0, 30.0, 57.0}, .units = 2000}).places)
    EXPECT_NEAR(place.part, 0.96, 0.015) << place.at;
}

}  // namespace
}  // namespace tamlo::simulate
