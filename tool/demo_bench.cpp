// SPDX-License-Identifier: Apache-2.0
#include "demo_bench.hpp"

#include <thread>

#include "tamlo/link/detail/bench_stand_in.hpp"
#include "tamlo/link/detail/measuring.hpp"
#include "tamlo/meter/bench_plan.hpp"
#include "tamlo/report/reports.hpp"

namespace tamlo::tool {

std::vector<report::Line> told_at_the_bench(const model::Board& described,
                                            const std::string& channel) {
  auto board = described;
  const auto chain = chain::build(board, channel);
  simulate::Sampler sampler(
      chain, chain, simulate::draw(chain, 1, 7),
      {.rate = chain.firmware.digital.rate, .samples = 100'000'000, .number = 7});
  const auto& meter = *model::find(board.meters, "bench");
  link::BenchStandIn stand_in(sampler, chain, &meter, {.lines = 0, .meter = 0, .source = 0});
  stand_in.attach(board);
  const std::jthread served([&](const std::stop_token& stop) {
    stand_in.serve([&](double) { return !stop.stop_requested(); });
  });
  const auto plan = meter::plan_bench(board, channel, meter);
  std::vector<report::Line> told{report::of(plan).verdict.front()};
  link::Measuring measuring(board, channel, meter, {.source = &board.sources.front()});
  std::vector<meter::Reading> rows;
  for (const auto& position : plan.positions) {
    const auto taken = measuring.take(
        {.at = position.at}, [](const link::Progress&) { return link::Measuring::Wish::go_on; });
    if (taken) rows.push_back(taken->reading);
  }
  told.push_back(rows.empty()
                     ? report::Line{"no reading settled (machine too slow)", report::Tone::doubtful}
                     : report::headline(meter::compare(
                           meter::chain_as_metered(board, channel, meter), meter, rows)));
  return told;
}

}  // namespace tamlo::tool
