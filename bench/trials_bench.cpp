// SPDX-License-Identifier: Apache-2.0
// The trials of the demo's pack voltage at 48 V with their intervals, on one thread. Beside it runs
// bench/peers/channel_trials.py, the same in numpy; scripts/bench prints the ratio.
#include <benchmark/benchmark.h>

#include "tamlo/budget/channel_trials.hpp"
#include "tamlo/io/board_file.hpp"

namespace {

using namespace tamlo;

void two_million_trials(benchmark::State& state) {
  const auto chain =
      chain::build(io::load_board({TAMLO_SOURCE "/demo/board.toml"}), "pack_voltage");
  for (auto _ : state) {
    benchmark::DoNotOptimize(budget::simulate(chain, 48.0, {.seed = 1, .count = 2'000'000}));
  }
}
BENCHMARK(two_million_trials)->Unit(benchmark::kMicrosecond);

}  // namespace
