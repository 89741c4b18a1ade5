// SPDX-License-Identifier: Apache-2.0
// Captured samples by themselves: buffers of codes as a driver hands them on, counted in two
// places, put together, and how many of them to average.
#include <fmt/format.h>

#include <cmath>

#include "tamlo/math/random.hpp"
#include "tamlo/signal/histogram.hpp"
#include "tamlo/signal/stability.hpp"

int main() {
  using namespace tamlo;

  math::RandomStream random(7, 1);
  double drift = 0.0;
  signal::Histogram codes_so_far, codes_later;
  signal::StabilityParts stability;
  for (int buffer = 0; buffer < 200; ++buffer) {
    // Stands for what a converter sends: noise of 2.5 codes, and a mean that wanders off.
    std::vector<std::uint16_t> codes(4096);
    for (auto& code : codes) {
      drift += 0.002 * random.normal();
      code = static_cast<std::uint16_t>(std::lround(1966.3 + drift + 2.5 * random.normal()));
    }
    (buffer < 100 ? codes_so_far : codes_later).add(codes);
    stability.add(std::vector<double>(codes.begin(), codes.end()));
  }

  codes_so_far.merge(codes_later);
  fmt::print("{} codes, {} to {}, {} of them missing; mean {:.1f}, noise {:.2f} LSB\n",
             codes_so_far.count(), codes_so_far.min(), codes_so_far.max(),
             codes_so_far.missing().size(), codes_so_far.mean(),
             std::sqrt(codes_so_far.variance()));
  const auto found = stability.result();
  fmt::print("average {} of them, for {:.3f} LSB; more would follow the drift\n", found.best,
             found.lowest);
}
