// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/detail/live.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>

#include "boards.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/error.hpp"
#include "tamlo/simulate/sampler.hpp"

namespace tamlo::testing {
namespace {

// The pack voltage of the demo at 1 kSa/s, with one filter or another behind its average.
chain::Chain filtered(const std::vector<model::DigitalStage>& filter) {
  auto board = pack_voltage();
  board.channels.front().rate = 1000.0;
  board.channels.front().filter = filter;
  return chain::build(board, "x");
}

// Over many steps of virtual units the value taken is within a quarter of the uncertainty of what
// the unit comes to, in 99 % of them, and it does not wait longer than 1.5 times the shortest time:
// until the step's rest is that small, and a window of readings has come.
TEST(Settling, TakesTheSettledValueInTime) {
  const std::vector<model::DigitalStage> filters[] = {
      {}, {model::MovingAverage{{.count = 4}}}, {model::Exponential{.weight = 0.18}}};
  for (const auto& filter : filters) {
    const auto chain = filtered(filter);
    const double uncertainty = 0.15;
    const auto rule = meter::settling_rule(chain, 30.0, uncertainty);
    int within = 0;
    double waited = 0.0, shortest = 0.0;
    constexpr int steps = 1000 / fewer;
    for (int number = 1; number <= steps; ++number) {
      const double to = 10.0 + 40.0 * number / steps;
      const std::uint64_t readings = 16 * rule.window + 64;
      const simulate::Sampler::Settings settings{
          .stimulus = {.input = signal::Input::step, .from = 30.0, .to = to},
          .shows = record::Shows::readings,
          .rate = 1000.0,
          .samples = readings,
          .number = static_cast<std::uint64_t>(number)};
      simulate::Sampler sampler(chain, chain, simulate::draw(chain, 1, number), settings);
      const auto all = sampler.next(readings);
      const auto begin = static_cast<std::size_t>(std::ceil(sampler.step_at()));
      double final = 0.0;
      const std::size_t tail = (all.size() - begin) / 2;
      for (std::size_t i = all.size() - tail; i < all.size(); ++i) {
        final += all[i] / static_cast<double>(tail);
      }
      meter::Settling settling(rule);
      std::size_t at = begin;
      for (; at < all.size() && !settling.settled(); ++at) settling.add(all[at]);
      ASSERT_TRUE(settling.settled().has_value());
      within += std::abs(settling.settled()->value - final) <= uncertainty / 4.0 ? 1 : 0;
      waited += static_cast<double>(at - begin);
      const auto response = chain::step_response(chain.firmware.digital, 200);
      const auto rests = std::ranges::find_if(response, [&](double part) {
        return std::abs((1.0 - part) * (to - 30.0)) <= uncertainty / 4.0;
      });
      shortest +=
          static_cast<double>(rests - response.begin() + 1) + static_cast<double>(rule.window);
    }
    EXPECT_GE(within, steps * 99 / 100) << filter.size();
    EXPECT_LE(waited, 1.5 * shortest) << rule.window;
  }
}

// A quantity that moves is never at rest, however slowly, once the window sees it.
TEST(Settling, ARampIsNotAtRest) {
  meter::Settling settling({.window = 16, .allowed = 0.01, .noise = 0.001});
  for (int i = 0; i < 400; ++i) {
    settling.add(1e-3 * i + 1e-3 * std::sin(7.7 * i * i));
    EXPECT_FALSE(settling.settled().has_value()) << i;
  }
  for (int i = 0; i < 32; ++i) settling.add(0.4 + 1e-3 * std::sin(7.7 * i * i));
  ASSERT_TRUE(settling.settled().has_value());
  EXPECT_NEAR(settling.settled()->value, 0.4, 0.002);
  settling.restart();
  EXPECT_FALSE(settling.settled().has_value());
}

TEST(Settling, RefusesWhatIsNoRule) {
  const auto chain = filtered({});
  EXPECT_THROW(meter::settling_rule(chain, 30.0, 0.0), ArgumentError);
  EXPECT_THROW(meter::settling_rule(chain, 30.0, std::nan("")), ArgumentError);
  EXPECT_THROW(meter::Settling({.window = 3, .allowed = 1.0}), ArgumentError);
  EXPECT_THROW(meter::Settling({.allowed = 0.0}), ArgumentError);
  EXPECT_THROW(meter::Settling({.allowed = 1.0, .keeps = 1.0}), ArgumentError);
  meter::Settling settling({.allowed = 1.0});
  EXPECT_THROW(settling.add(std::nan("")), ArgumentError);
}

// Codes go through average and filter, readings do not; both give the same state at rest.
TEST(Live, CodesAreFilteredAndReadingsAreNot) {
  const auto chain = filtered({});
  meter::Live codes(chain, 0.5), readings(chain, 0.5);
  EXPECT_EQ(codes.state().readings, 0U);
  for (int i = 0; i < 320; ++i) codes.add_code(i % 2 == 0 ? 1966.0 : 1968.0, 1e-3 * i);
  const double value = chain::reading(chain, 1967.0);
  for (int i = 0; i < 20; ++i) readings.add_reading(value, 0.016 * i);
  EXPECT_EQ(codes.state().readings, 20U);
  EXPECT_NEAR(codes.state().last, value, 1e-9);
  ASSERT_TRUE(codes.settled() && readings.settled());
  EXPECT_NEAR(codes.state().settled->value, readings.state().settled->value, 1e-9);
  EXPECT_NEAR(codes.state().rate(), 1000.0 / 16.0, 0.1);
  EXPECT_EQ(codes.state().code, 1968.0);
  EXPECT_FALSE(readings.state().code.has_value());
}

}  // namespace
}  // namespace tamlo::testing
