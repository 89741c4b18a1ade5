// SPDX-License-Identifier: Apache-2.0
// Records: how long what is kept of them takes, beside a plain reading of the same memory, and
// beside the same in numpy and its relatives (peers/record.py).
#include <benchmark/benchmark.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <filesystem>
#include <fstream>

#include "tamlo/io/record_file.hpp"
#include "tamlo/math/random.hpp"
#include "tamlo/signal/capture.hpp"
#include "tamlo/signal/sine.hpp"

namespace {

using namespace tamlo;

// Noise about the middle of 16 bits, or codes all over them.
std::vector<std::uint16_t> codes(std::size_t n, double noise) {
  math::RandomStream stream(3, 1);
  std::vector<double> pool(1 << 16);
  for (auto& x : pool) x = stream.normal();
  std::vector<std::uint16_t> result(n);
  std::uint64_t state = 1;
  for (auto& code : result) {
    state = state * 6364136223846793005U + 1442695040888963407U;
    code = static_cast<std::uint16_t>(
        std::lround(32768.0 + std::clamp(noise * pool[state >> 48U], -32768.0, 32767.0)));
  }
  return result;
}

std::vector<double> values(std::size_t n) {
  const auto whole = codes(n, 30.0);
  return {whole.begin(), whole.end()};
}

std::vector<double> sine(std::size_t n) {
  math::RandomStream stream(4, 1);
  std::vector<double> result(n);
  for (std::size_t i = 0; i < n; ++i) {
    result[i] =
        3.0 + 1000.0 * std::sin(2.0 * 3.141592653589793 * 0.01234567 * static_cast<double>(i));
  }
  for (std::size_t i = 0; i < n; i += 7) result[i] += stream.normal();
  return result;
}

constexpr std::size_t many = 10'000'000, very_many = 100'000'000;

// The bytes of codes, eight at a time.
void reading_of_codes(benchmark::State& state) {
  const std::vector<std::uint16_t> all(very_many, 1);
  for (auto _ : state) {
    std::uint64_t sums[8] = {};
    for (std::size_t i = 0; i + 32 <= all.size(); i += 32) {
      std::uint64_t words[8];
      std::memcpy(words, &all[i], sizeof words);
      for (std::size_t k = 0; k < 8; ++k) sums[k] += words[k];
    }
    benchmark::DoNotOptimize(sums);
  }
}
BENCHMARK(reading_of_codes)->Unit(benchmark::kMicrosecond);

void moments_of_codes(benchmark::State& state) {
  const auto noise = codes(very_many, 3000.0);
  std::vector<std::int16_t> all(noise.size());
  std::ranges::transform(noise, all.begin(),
                         [](int code) { return static_cast<std::int16_t>(code - 32768); });
  for (auto _ : state) {
    signal::CodeMoments result;
    result.add(all);
    benchmark::DoNotOptimize(result.variance());
  }
}
BENCHMARK(moments_of_codes)->Unit(benchmark::kMicrosecond);

void histogram(benchmark::State& state, double noise) {
  const auto all = codes(very_many, noise);
  for (auto _ : state) {
    signal::Histogram result;
    result.add(all);
    benchmark::DoNotOptimize(result.variance());
  }
}
void histogram_of_noise(benchmark::State& state) { histogram(state, 3.0); }
void histogram_of_all_codes(benchmark::State& state) { histogram(state, 15000.0); }
BENCHMARK(histogram_of_noise)->Unit(benchmark::kMicrosecond);
BENCHMARK(histogram_of_all_codes)->Unit(benchmark::kMicrosecond);

void averaged_spectrum(benchmark::State& state) {
  const auto all = values(std::size_t{1} << 24);
  for (auto _ : state) {
    benchmark::DoNotOptimize(signal::spectrum(all, signal::Window::hann, 1 << 16));
  }
}
BENCHMARK(averaged_spectrum)->Unit(benchmark::kMicrosecond);

// One long segment, with the roots at hand, as the peer has them.
void spectrum_of_a_million(benchmark::State& state) {
  const auto all = values(std::size_t{1} << 20);
  signal::SpectrumParts parts(signal::Window::rectangular, all.size());
  for (auto _ : state) parts.add(all);
}
BENCHMARK(spectrum_of_a_million)->Unit(benchmark::kMicrosecond);

void sine_fit(benchmark::State& state) {
  const auto all = sine(many);
  for (auto _ : state) benchmark::DoNotOptimize(signal::fit_four(all, 0.01234567));
}
BENCHMARK(sine_fit)->Unit(benchmark::kMicrosecond);

void stability_in_parts(benchmark::State& state) {
  const auto all = values(many);
  for (auto _ : state) {
    signal::StabilityParts parts;
    for (std::size_t from = 0; from < all.size(); from += 16384) {
      parts.add(std::span(all).subspan(from, std::min<std::size_t>(16384, all.size() - from)));
    }
    benchmark::DoNotOptimize(parts.result());
  }
}
void stability_of_all_overlaps(benchmark::State& state) {
  const auto all = values(many);
  for (auto _ : state) benchmark::DoNotOptimize(signal::stability(all));
}
BENCHMARK(stability_in_parts)->Unit(benchmark::kMicrosecond);
BENCHMARK(stability_of_all_overlaps)->Unit(benchmark::kMicrosecond);

void csv_of_codes(benchmark::State& state) {
  const auto path = (std::filesystem::temp_directory_path() / "tamlo_bench_codes.csv").string();
  {
    std::ofstream file(path);
    file << "code\n";
    for (const auto code : codes(3'000'000, 300.0)) file << code << '\n';
  }
  for (auto _ : state) {
    io::RecordFile file(path, {}, {"code"});
    double sum = 0.0;
    file.read([&](std::size_t, std::span<const double> block) { sum += block.front(); });
    benchmark::DoNotOptimize(sum);
  }
}
BENCHMARK(csv_of_codes)->Unit(benchmark::kMicrosecond);

}  // namespace
