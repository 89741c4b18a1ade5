// SPDX-License-Identifier: Apache-2.0
// The closed-form budget of the demo's pack voltage at 1001 points, beside the bare evaluations of
// the chain that it needs: for each point four of each source (plus and minus the standard
// uncertainty, plus and minus the limit), and a reading.
#include <benchmark/benchmark.h>

#include "tamlo/budget/budget.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/io/board_file.hpp"

namespace {

using namespace tamlo;

constexpr int points = 1001;

chain::Chain pack_voltage() {
  return chain::build(io::load_board({TAMLO_SOURCE "/demo/board.toml"}), "pack_voltage");
}

std::vector<double> grid(const chain::Chain& chain) {
  std::vector<double> at;
  for (int i = 0; i < points; ++i) at.push_back(chain.channel.span.high * i / (points - 1));
  return at;
}

void budget_at_1001_points(benchmark::State& state) {
  const auto chain = pack_voltage();
  const budget::Request request{.at = grid(chain)};
  for (auto _ : state) benchmark::DoNotOptimize(budget::evaluate(chain, request));
}
BENCHMARK(budget_at_1001_points)->Unit(benchmark::kMicrosecond);

void bare_chain_evaluations(benchmark::State& state) {
  const auto chain = pack_voltage();
  const auto at = grid(chain);
  const auto count = 4 * chain.sources.size() + 1;
  for (auto _ : state) {
    for (const double x : at) {
      for (std::size_t i = 0; i < count; ++i) {
        benchmark::DoNotOptimize(chain::read(chain, x, chain.nominal));
      }
    }
  }
}
BENCHMARK(bare_chain_evaluations)->Unit(benchmark::kMicrosecond);

// An ordinary budget, its points checked by readings that are drawn, beside the same without.
void ordinary(benchmark::State& state, std::uint64_t check_units) {
  const auto chain = pack_voltage();
  for (auto _ : state)
    benchmark::DoNotOptimize(budget::evaluate(chain, {.check_units = check_units}));
}
void ordinary_budget(benchmark::State& state) { ordinary(state, budget::Request{}.check_units); }
BENCHMARK(ordinary_budget)->Unit(benchmark::kMicrosecond);
void budget_without_checks(benchmark::State& state) { ordinary(state, 0); }
BENCHMARK(budget_without_checks)->Unit(benchmark::kMicrosecond);

}  // namespace
