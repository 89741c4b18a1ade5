// SPDX-License-Identifier: Apache-2.0
// Conversions through the whole chain of the demo's pack voltage, there and back, beside a bare
// loop that does the same arithmetic by hand: divider, leakage, the rest in the sampling capacitor,
// code, clipping, volts, quantity.
#include <benchmark/benchmark.h>

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <vector>

#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/detail/batch.hpp"
#include "tamlo/io/board_file.hpp"

namespace {

using namespace tamlo;

constexpr std::size_t count = 1 << 16;

std::vector<double> quantities() {
  std::vector<double> x;
  for (std::size_t i = 0; i < count; ++i) x.push_back(60.0 * static_cast<double>(i) / count);
  return x;
}

void conversions_in_batches(benchmark::State& state) {
  const auto chain =
      chain::build(io::load_board({TAMLO_SOURCE "/demo/board.toml"}), "pack_voltage");
  const auto x = quantities();
  std::vector<std::int64_t> found(count);
  std::vector<double> shown(count);
  for (auto _ : state) {
    benchmark::DoNotOptimize(chain::conversions(chain, x, chain.nominal, found));
    chain::readings(chain, found, shown);
    benchmark::DoNotOptimize(shown.data());
  }
}
BENCHMARK(conversions_in_batches)->Unit(benchmark::kMicrosecond);

// What the loop knows; volatile, so that the compiler cannot fold it.
volatile double top = 240e3, bottom = 10e3, leakage = 0.0, left = 1e-4, before = 1.25,
                reference = 2.5, gain = 0.0, offset = 0.0;

void conversions_by_hand(benchmark::State& state) {
  const auto x = quantities();
  std::vector<std::int64_t> found(count);
  std::vector<double> shown(count);
  for (auto _ : state) {
    const double ratio = bottom / (top + bottom), resistance = top * ratio,
                 lost = leakage * resistance;
    const double rest = left, was = before, per_volt = 4096.0 / reference, grown = gain / 4096.0,
                 added = offset, per_count = reference / 4096.0, whole = top + bottom,
                 part = bottom;
    std::size_t clipped = 0;
    for (std::size_t i = 0; i < count; ++i) {
      double v = x[i] * ratio - lost;
      v += rest * (was - v);
      const double ideal = v * per_volt;
      const double above = ideal + ideal * grown + added + 0.5;
      found[i] = static_cast<std::int64_t>(std::clamp(above, 0.0, 4095.5));
      clipped += above < 0.0 || above >= 4096.0 ? 1U : 0U;
    }
    for (std::size_t i = 0; i < count; ++i) {
      shown[i] = static_cast<double>(found[i]) * per_count * whole / part;
    }
    benchmark::DoNotOptimize(clipped);
    benchmark::DoNotOptimize(shown.data());
  }
}
BENCHMARK(conversions_by_hand)->Unit(benchmark::kMicrosecond);

}  // namespace
