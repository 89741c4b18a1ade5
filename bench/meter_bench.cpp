// SPDX-License-Identifier: Apache-2.0
// A hundred thousand rows of the demo's pack voltage, compared and calibrated. Beside it runs
// bench/peers/meter_rows.py, the same figures in numpy; scripts/bench prints the ratio.
#include <benchmark/benchmark.h>

#include "tamlo/chain/chain.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/math/random.hpp"
#include "tamlo/meter/calibrate.hpp"

namespace {

using namespace tamlo;

void hundred_thousand_rows(benchmark::State& state) {
  const auto board = io::load_board({TAMLO_SOURCE "/demo/board.toml"});
  const auto chain = chain::build(board, "pack_voltage");
  const auto& meter = board.meters.front();
  math::RandomStream stream(1, 1);
  std::vector<meter::Reading> rows;
  for (int i = 0; i < 100'000; ++i) {
    const double x = 1.0 + 58.0 * stream.uniform();
    rows.push_back({.meter = x, .reading = 0.02 + 1.002 * x + 0.005 * stream.normal()});
  }
  for (auto _ : state) {
    benchmark::DoNotOptimize(meter::compare(chain, meter, rows));
    benchmark::DoNotOptimize(
        meter::calibrate(chain, meter, rows, {.model = meter::Model::weighted_line}));
  }
}
BENCHMARK(hundred_thousand_rows)->Unit(benchmark::kMicrosecond);

}  // namespace
