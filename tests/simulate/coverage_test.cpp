// SPDX-License-Identifier: Apache-2.0
// Budgets held against readings of virtual units, by counting.
#include "tamlo/simulate/coverage.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "boards.hpp"
#include "tamlo/error.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/simulate/sampler.hpp"
#include "tamlo/simulate/unit.hpp"

namespace tamlo {
namespace {

TEST(Coverage, IsThatOfCountingOneByOneAndOfAnyThreads) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  const simulate::CoverageRequest request{.at = {20.0}, .first = 7, .units = 730, .seed = 5};
  const auto proof = simulate::prove_coverage(chain, chain, request, math::by_threads(3));
  ASSERT_EQ(proof.places.size(), 1u);
  const auto& place = proof.places.front();
  EXPECT_EQ(proof.units, 730u);
  std::uint64_t within = 0, above = 0;
  for (std::uint64_t n = 7; n < 737; ++n) {
    auto noise = simulate::noise_stream(5, n, 0);
    const double error =
        simulate::read(chain, chain, simulate::draw(chain, 5, n), 20.0, noise) - 20.0 - place.bias;
    within += std::abs(error) <= place.expanded ? 1 : 0;
    above += error > place.expanded ? 1 : 0;
  }
  EXPECT_EQ(place.within, within);
  EXPECT_EQ(place.above, above);
  EXPECT_EQ(place.within + place.below + place.above, 730u);
  EXPECT_TRUE(proof.holds());
  EXPECT_EQ(place.part, static_cast<double>(within) / 730.0);
  // Ended early, it is of what was read.
  const auto part =
      simulate::prove_coverage(chain, chain, {.at = {20.0}, .units = 1000}, math::by_threads(1),
                               [](double done) { return done < 0.3; });
  EXPECT_EQ(part.units, 300u);
  EXPECT_THROW(simulate::prove_coverage(chain, chain, {.units = 0}), ArgumentError);
}

// A part that is worse than its data sheet says is found out.
TEST(Coverage, DoesNotHoldOfUnitsThatAreWorse) {
  const auto chain = chain::build(testing::pack_voltage(), "x");
  auto board = testing::pack_voltage();
  std::get<model::Divider>(board.channels.front().frontend.front()).top =
      testing::value("240 kohm ±2 %", "ohm");
  const auto worse = chain::build(board, "x");
  const auto budgeted = simulate::prove_coverage(chain, chain, {.at = {50.0}, .units = 500});
  EXPECT_TRUE(budgeted.holds());
  simulate::CoverageProof mixed =
      simulate::prove_coverage(worse, worse, {.at = {50.0}, .units = 500});
  EXPECT_TRUE(mixed.holds());
  // The readings of the worse units within the interval of the better budget.
  std::uint64_t within = 0;
  for (std::uint64_t n = 1; n <= 500; ++n) {
    auto noise = simulate::noise_stream(1, n, 0);
    const double error =
        simulate::read(worse, worse, simulate::draw(worse, 1, n), 50.0, noise) - 50.0;
    within += std::abs(error - budgeted.places[0].bias) <= budgeted.places[0].expanded ? 1 : 0;
  }
  mixed.places[0].within = within;
  mixed.places[0].interval = math::probability_interval(within, 500, 0.99);
  EXPECT_FALSE(mixed.holds()) << within;
}

// Clopper and Pearson by hand where it is closed: none of ten, 1 - (1 - c)^(1/10) of half the
// rest; and five of ten, tabulated (0.1871, 0.8129).
TEST(Coverage, IntervalOfAProbability) {
  EXPECT_NEAR(math::probability_interval(0, 10, 0.95).high, 1.0 - std::pow(0.025, 0.1), 1e-14);
  EXPECT_EQ(math::probability_interval(0, 10, 0.95).low, 0.0);
  EXPECT_EQ(math::probability_interval(10, 10, 0.95).high, 1.0);
  EXPECT_NEAR(math::probability_interval(10, 10, 0.95).low, std::pow(0.025, 0.1), 1e-14);
  EXPECT_NEAR(math::probability_interval(5, 10, 0.95).low, 0.1871, 5e-5);
  EXPECT_NEAR(math::probability_interval(5, 10, 0.95).high, 0.8129, 5e-5);
  EXPECT_THROW(math::probability_interval(2, 1, 0.95), ArgumentError);
  EXPECT_THROW(math::probability_interval(0, 0, 0.95), ArgumentError);
  EXPECT_THROW(math::probability_interval(0, 1, 1.0), ArgumentError);
}

}  // namespace
}  // namespace tamlo
