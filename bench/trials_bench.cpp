// SPDX-License-Identifier: Apache-2.0
// The trials of the demo's pack voltage at 48 V with their intervals, on one thread. Beside it runs
// bench/peers/channel_trials.py, the same in numpy; scripts/bench prints the ratio.
#include <benchmark/benchmark.h>

#include "math/instructions.hpp"
#include "tamlo/budget/channel_trials.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/io/board_file.hpp"

namespace {

using namespace tamlo;

void trials(benchmark::State& state, math::Instructions most) {
  math::hold_instructions(most);
  const auto chain =
      chain::build(io::load_board({TAMLO_SOURCE "/demo/board.toml"}), "pack_voltage");
  for (auto _ : state) {
    benchmark::DoNotOptimize(budget::simulate(chain, 48.0, {.seed = 1, .count = 2'000'000}));
  }
}
void two_million_trials(benchmark::State& state) { trials(state, math::Instructions::avx512); }
void two_million_trials_by_avx2(benchmark::State& state) {
  trials(state, math::Instructions::avx2);
  math::hold_instructions(math::Instructions::avx512);
}
BENCHMARK(two_million_trials_by_avx2)->Unit(benchmark::kMicrosecond);
BENCHMARK(two_million_trials)->Unit(benchmark::kMicrosecond);

}  // namespace
