// SPDX-License-Identifier: Apache-2.0
// What a plan promises is what virtual units beside virtual meters then show; and how the two sides
// are made a pair.
#include "tamlo/meter/bench_plan.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <vector>

#include "boards.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/error.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/meter/detail/pairing.hpp"
#include "tamlo/simulate/detail/stimulus.hpp"
#include "tamlo/simulate/sampler.hpp"
#include "tamlo/simulate/unit.hpp"

namespace tamlo::testing {
namespace {

quantity::Limit limit(double size, quantity::Basis basis) { return {.size = size, .basis = basis}; }

// Of six volts and of sixty, with an accuracy that is easily beaten and one that is not.
model::Meter meter_of(double ratio) {
  const auto range = [&](double full) {
    return model::MeterRange{.full_scale = {.nominal = full, .unit = quantity::unit("V")},
                             .digits = 6000.0,
                             .accuracy = {.unit = quantity::unit("V"),
                                          .limits = {limit(ratio, quantity::Basis::relative)}}};
  };
  return {.name = "bench", .ranges = {range(6.0), range(60.0)}};
}

model::Board board_with_target(double volts, double ratio) {
  auto board = pack_voltage();
  board.channels.front().rate = 1000.0;
  board.channels.front().target.accuracy = limit(volts, quantity::Basis::absolute);
  board.meters = {meter_of(ratio)};
  return board;
}

// One unit beside one meter at all positions of the plan.
meter::Comparison measured(const chain::Chain& chain, const chain::Chain& firmware,
                           const meter::BenchPlan& plan, const model::Meter& meter,
                           std::uint64_t number) {
  const auto unit = simulate::draw(chain, 11, number);
  const simulate::BenchMeter bench(meter, 1000 + number);
  auto noise = simulate::noise_stream(11, number, 0);
  std::vector<meter::Reading> readings;
  for (const auto& row : plan.positions) {
    readings.push_back({.meter = bench.show(row.at).value(),
                        .reading = simulate::read(chain, firmware, unit, row.at, noise)});
  }
  return meter::compare(firmware, meter, readings);
}

TEST(BenchPlan, RowsAreDecidedAsOftenAsItSays) {
  for (const double target : {0.08, 0.16, 0.3}) {
    const auto board = board_with_target(target, 0.0005);
    const auto chain = chain::build(board, "x");
    const auto& meter = board.meters.front();
    const auto plan = meter::plan_bench(board, "x", meter, 4);
    constexpr int units = 2000 / fewer;
    std::vector<int> decided(plan.positions.size(), 0);
    for (int number = 1; number <= units; ++number) {
      const auto rows =
          measured(chain, chain, plan, meter, static_cast<std::uint64_t>(number)).rows;
      for (std::size_t i = 0; i < rows.size(); ++i) {
        decided[i] += rows[i].verdict != meter::Verdict::undecided ? 1 : 0;
      }
    }
    for (std::size_t i = 0; i < decided.size(); ++i) {
      const double said = plan.positions[i].decided;
      const double seen = static_cast<double>(decided[i]) / units;
      // Three standard deviations of the count, and a tenth for uniform limits taken as normal.
      EXPECT_NEAR(seen, said,
                  3.0 * std::sqrt(said * (1.0 - said) / units + 0.25 / units / units) + 0.1)
          << target << " at " << plan.positions[i].at;
    }
  }
}

TEST(BenchPlan, AKnownFaultIsSeenAsOftenAsItSays) {
  auto board = board_with_target(0.3, 0.00002);
  // A converter so fine that half a code is most of what differs.
  auto& converter = board.converters.front();
  converter.offset = converter.gain = {};
  const auto chain = chain::build(board, "x");
  const auto& meter = board.meters.front();
  const auto plan = meter::plan_bench(board, "x", meter, 5);
  auto other = board;
  other.channels.front().scaling.convention =
      board.channels.front().scaling.convention == model::Convention::last_code
          ? model::Convention::full_scale
          : model::Convention::last_code;
  const auto wrong = chain::build(other, "x");
  const auto fault = std::ranges::find_if(plan.faults, [](const meter::FaultSeen& of) {
    return of.fault.starts_with("count convention");
  });
  ASSERT_NE(fault, plan.faults.end());
  constexpr int units = 1000 / fewer;
  int seen = 0;
  for (int number = 1; number <= units; ++number) {
    const auto unit = simulate::draw(chain, 11, static_cast<std::uint64_t>(number));
    const simulate::BenchMeter bench(meter, 1000 + static_cast<std::uint64_t>(number));
    auto noise = simulate::noise_stream(11, static_cast<std::uint64_t>(number), 0);
    std::vector<meter::Reading> readings;
    for (const auto& row : plan.positions) {
      readings.push_back({.meter = bench.show(row.at).value(),
                          .reading = simulate::read(chain, wrong, unit, row.at, noise)});
    }
    seen += meter::compare(chain, meter, readings).summary.agreement.probability < 0.025 ? 1 : 0;
  }
  EXPECT_NEAR(static_cast<double>(seen) / units, *fault->probability, 0.05);
}

TEST(BenchPlan, TakesWhatDecidesAndNoMore) {
  struct Case {
    double target, ratio;
    bool decides, better_helps;
  };
  const Case cases[] = {
      {0.3, 0.0005, true, true}, {0.3, 0.004, false, true}, {0.05, 0.0005, false, true}};
  for (const auto& [target, ratio, decides, better_helps] : cases) {
    const auto board = board_with_target(target, ratio);
    const auto plan = meter::plan_bench(board, "x", board.meters.front());
    EXPECT_GE(plan.positions.size(), 3u);
    EXPECT_LE(plan.positions.size(), 12u);
    EXPECT_EQ(plan.decided >= 0.95, decides) << target << " " << plan.decided;
    EXPECT_EQ(plan.decided_by_better_meter >= plan.decided, better_helps);
    EXPECT_TRUE(std::ranges::is_sorted(plan.positions, {}, &meter::PlannedPosition::at));
  }
  const auto board = board_with_target(0.3, 0.0005);
  auto short_meter = board.meters.front();
  short_meter.ranges.pop_back();
  EXPECT_THROW(meter::plan_bench(board, "x", short_meter), meter::CompareError);
}

// A pair is of both sides at once, and says how much its mean is worth.
TEST(Pairing, WaitsForBothSides) {
  const auto board = board_with_target(0.3, 0.0005);
  const auto chain = chain::build(board, "x");
  meter::Pairing pairing(chain, board.meters.front(), 0.3);
  using meter::Waits;
  const auto unit = simulate::nominal(chain);
  math::RandomStream noise(3, 0);
  double seconds = 0.0;
  const auto channel = [&](double x, int readings) {
    for (int i = 0; i < readings; ++i) {
      pairing.add_reading(simulate::read(chain, chain, unit, x, noise), seconds += 0.02);
    }
  };
  EXPECT_EQ(pairing.waits(), Waits::for_channel);
  channel(30.0, 40);
  EXPECT_EQ(pairing.waits(), Waits::for_meter);
  for (int i = 0; i < 9; ++i) {
    channel(30.0, 4);
    pairing.add_shown(30.01);
  }
  ASSERT_EQ(pairing.waits(), Waits::nothing);
  const auto pair = pairing.pair().value();
  EXPECT_NEAR(pair.reading, 30.0, 0.05);
  EXPECT_DOUBLE_EQ(pair.meter, 30.01);
  EXPECT_EQ(pair.meter_repeats, 1);
  EXPECT_GE(pair.repeats, 2);
  EXPECT_GT(pair.spread.value(), 0.0);
  // The quantity is changed: nothing of before is left, and a ramp is no pair.
  pairing.restart();
  EXPECT_FALSE(pairing.pair());
  for (int i = 0; i < 20; ++i) {
    channel(30.0 + i, 4);
    pairing.add_shown(30.0 + i);
    EXPECT_FALSE(pairing.pair()) << i;
  }
  channel(59.9, 60);
  pairing.add_overload();
  EXPECT_EQ(pairing.waits(), Waits::meter_overload);
  for (int i = 0; i < 12; ++i) {
    pairing.add_code(4095.0, seconds += 0.001);
    pairing.add_shown(59.9);
  }
  for (int i = 0; i < 4000 && pairing.waits() == Waits::for_channel; ++i) {
    pairing.add_code(4095.0, seconds += 0.001);
    if (i % 40 == 0) pairing.add_shown(59.9);
  }
  EXPECT_TRUE(pairing.waits() == Waits::code_at_end || pairing.waits() == Waits::for_meter);
  EXPECT_FALSE(pairing.pair());
}

// Late readings in one piece, with a step among them, give no mean over it.
TEST(Pairing, HoldsNoStepThatComesInOnePiece) {
  const auto board = board_with_target(0.3, 0.0005);
  const auto chain = chain::build(board, "x");
  for (const int stale : {1, 3, 8, 40}) {
    for (const bool rested_before : {false, true}) {
      meter::Pairing pairing(chain, board.meters.front(), 0.3);
      double seconds = 0.0;
      const auto round = [&](double x, int readings) {
        for (int i = 0; i < readings; ++i) pairing.add_reading(x, seconds += 0.02);
        pairing.add_shown(30.0);
      };
      for (int i = 0; i < 12; ++i) round(10.0, rested_before ? 4 : 0);
      for (int i = 0; i < stale; ++i) pairing.add_reading(10.0, seconds += 0.02);
      round(30.0, 60);
      EXPECT_FALSE(pairing.pair()) << stale;
      for (int i = 0; i < 4; ++i) round(30.0, 4);
      ASSERT_TRUE(pairing.pair()) << stale;
      EXPECT_DOUBLE_EQ(pairing.pair()->reading, 30.0) << stale;
    }
  }
}

// A display that shows the last place of a higher range is on it, and its accuracy is that range's.
TEST(Pairing, KnowsARangeByItsLastPlace) {
  const auto board = board_with_target(0.3, 0.0005);
  const auto chain = chain::build(board, "x");
  struct Case {
    double shown, place;
    std::optional<std::size_t> range;
  };
  const Case cases[] = {
      {5.25, 0.01, 1}, {5.25, 0.001, {}}, {5.25, 0.0, {}}, {5.0, 0.1, {}}, {30.0, 0.01, {}}};
  for (const auto& [shown, place, range] : cases) {
    meter::Pairing pairing(chain, board.meters.front(), 0.3);
    double seconds = 0.0;
    for (int i = 0; i < 400 && !pairing.pair(); ++i) {
      pairing.add_reading(shown, seconds += 0.02);
      if (i % 4 == 3) pairing.add_shown(shown, place);
    }
    ASSERT_TRUE(pairing.pair());
    EXPECT_EQ(pairing.pair()->meter_range, range) << shown << " " << place;
  }
}

}  // namespace
}  // namespace tamlo::testing
