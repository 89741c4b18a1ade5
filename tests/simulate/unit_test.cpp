// SPDX-License-Identifier: Apache-2.0
#include "tamlo/simulate/unit.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "boards.hpp"

namespace tamlo::simulate {
namespace {

// Each distribution: spread as stated, nothing outside its limits.
TEST(Unit, DeviationsFollowTheirDistribution) {
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

TEST(Unit, TheSameNumberIsTheSameUnit) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  EXPECT_EQ(draw(chain, 5, 17).parameters, draw(chain, 5, 17).parameters);
  EXPECT_NE(draw(chain, 5, 17).parameters, draw(chain, 5, 18).parameters);
}

TEST(Unit, AnIdealUnitReadsTheCode) {
  const auto chain = chain::build(testing::board(), "x");
  const auto unit = with_deviations(chain, {});
  math::Stream noise(0, 0);
  EXPECT_EQ(convert(chain, unit, 1.25, noise).code, 2048);
  EXPECT_TRUE(convert(chain, unit, 2.6, noise).clipped);
  EXPECT_EQ(read(chain, chain, unit, 1.25, noise), 1.25);
}

TEST(Unit, AGivenDeviationActs) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  const auto offset = testing::source(chain, "adc offset tolerance");
  const auto unit = with_deviations(chain, {{offset, 5.0}});
  double sum = 0.0;
  math::Stream noise(3, 3);
  for (int i = 0; i < 400; ++i) sum += read(chain, chain, unit, 30.0, noise);
  EXPECT_NEAR(sum / 400 - 30.0, 5.0 * 62.5 / 4096, 0.002);
}

// The firmware may differ from the description: that is how a wrong convention gets into readings.
TEST(Unit, AnotherFirmwareReadsTheSameCodes) {
  const auto chain = chain::build(testing::board(), "x");
  auto wrong = testing::board();
  wrong.channels.front().scaling.convention = model::Convention::last_code;
  math::Stream noise(0, 0);
  EXPECT_DOUBLE_EQ(read(chain, chain::build(wrong, "x"), with_deviations(chain, {}), 1.25, noise),
                   2048 * 2.5 / 4095);
}

}  // namespace
}  // namespace tamlo::simulate
