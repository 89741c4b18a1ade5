// SPDX-License-Identifier: Apache-2.0
#include "tamlo/signal/spectrum.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

#include "math/instructions.hpp"
#include "tamlo/math/random.hpp"
#include "tamlo/signal/sine.hpp"
#include "waves.hpp"

namespace tamlo::signal {
namespace {

using Values = std::vector<double>;
using math::Instructions;
using std::numbers::pi;

// The transform behind it against sums over all samples: every length by its own way, the same bits
// with every set of instructions, and a sum of squares that is the mean square.
TEST(Spectrum, IsTheDirectTransform) {
  for (const std::size_t n : {8U, 16U, 32U, 64U, 128U, 256U, 512U, 1024U, 2048U, 4096U, 8192U}) {
    math::RandomStream stream(12, n);
    Values samples(n);
    for (auto& x : samples) x = stream.uniform();
    const auto found = spectrum(samples, Window::rectangular);
    ASSERT_EQ(found.power.size(), n / 2 + 1);
    for (const auto with : {Instructions::base, Instructions::avx2, Instructions::avx512}) {
      math::hold_instructions(with);
      ASSERT_EQ(spectrum(samples, Window::rectangular).power, found.power) << n;
    }
    const std::size_t step = std::max<std::size_t>(1, n / 64);
    double mean = 0.0, squares = 0.0;
    for (const double x : samples) mean += x / static_cast<double>(n);
    for (const double x : samples) squares += (x - mean) * (x - mean) / static_cast<double>(n);
    for (std::size_t k = 0; k <= n / 2; k += step) {
      std::complex<double> sum;
      for (std::size_t i = 0; i < n; ++i) {
        const auto turns = static_cast<double>(k * i % n) / static_cast<double>(n);
        sum += (samples[i] - mean) * std::polar(1.0, -2.0 * pi * turns);
      }
      const double sides = k == 0 || k == n / 2 ? 1.0 : 2.0;
      EXPECT_NEAR(found.power[k], sides * std::norm(sum) / static_cast<double>(n * n), 1e-14)
          << n << " " << k;
    }
    double total = 0.0;
    for (const double power : found.power) total += power;
    EXPECT_NEAR(total, squares, 1e-13) << n;
  }
}

TEST(Spectrum, SegmentsAddUp) {
  const std::size_t n = 4096;
  const auto one = wave(n, 1.0, 300.0 / n, 0.2, 0.0), other = wave(n, 5.0, 700.0 / n, 0.9, 0.0);
  auto both = one;
  both.insert(both.end(), other.begin(), other.end());
  const auto found = spectrum(both, Window::rectangular, n);
  ASSERT_EQ(found.segments, 2U);
  EXPECT_NEAR(found.power[300], 0.5 / 2.0, 1e-12);
  EXPECT_NEAR(found.power[700], 12.5 / 2.0, 1e-12);
  EXPECT_NEAR(found.power[n / 2 - 300] + found.power[n / 2 - 700], 0.0, 1e-12);
}

// Long records too, of which the bins are a cycle apart: near enough for a fit, which needs half a
// cycle.
TEST(Spectrum, TheLargestLineOfALongRecord) {
  const std::size_t n = 300000;
  for (const double cycles : {5.4, 1000.0, 1000.5, 77777.77}) {
    const double frequency = cycles / static_cast<double>(n);
    EXPECT_NEAR(largest_line(wave(n, 1.0, frequency, 0.3, 2.0)) * static_cast<double>(n), cycles,
                0.2);
  }
}

// Windows: gain and noise bandwidth against their own samples, and a line between bins.
TEST(Spectrum, WindowsAndTheirCorrections) {
  math::RandomStream stream(5, 0);
  Values noise;
  for (int i = 0; i < 1 << 16; ++i) noise.push_back(0.3 * stream.normal());
  for (const auto window :
       {Window::rectangular, Window::hann, Window::blackman_harris, Window::flat_top}) {
    const std::size_t n = 4096;
    double sum = 0.0, squares = 0.0;
    for (std::size_t i = 0; i < n; ++i) {
      sum += window_at(window, i, n);
      squares += std::pow(window_at(window, i, n), 2);
    }
    const auto of = figures(window);
    EXPECT_NEAR(of.coherent_gain, sum / n, 1e-12);
    EXPECT_NEAR(of.noise_bandwidth, n * squares / (sum * sum), 1e-12);
    // A sine in a bin has half its amplitude squared there.
    const auto line = spectrum(wave(n, 3.0, 500.0 / n, 0.4, 5.0), window);
    EXPECT_NEAR(line.power[500], 4.5, 1e-9) << name(window);
    // White noise: the mean square over all bins.
    const auto white = spectrum(noise, window, 1024);
    double total = 0.0;
    for (const double power : white.power) total += power / of.noise_bandwidth;
    EXPECT_NEAR(total, 0.09, 0.004) << name(window);
  }
  EXPECT_NEAR(largest_line(wave(1000, 1.0, 0.12345, 0.0, 0.0)), 0.12345, 2e-5);
}

TEST(Spectrum, HarmonicsFoldedOnesTooAndTones) {
  const std::size_t n = 1 << 14;
  const double frequency = nearest_coherent(0.21, n);
  auto samples = wave(n, 1.0, frequency, 0.0, 0.0);
  math::RandomStream stream(6, 0);
  for (std::size_t i = 0; i < n; ++i) {
    const double angle = 2.0 * pi * frequency * static_cast<double>(i);
    // Second and third harmonic of 1e-3 and 3e-4; the third lies at 1 - 0.63 = 0.37.
    samples[i] +=
        1e-3 * std::cos(2.0 * angle) + 3e-4 * std::cos(3.0 * angle) + 1e-5 * stream.normal();
  }
  const auto found = sine_figures(spectrum(samples, Window::blackman_harris));
  EXPECT_NEAR(found.thd, 10.0 * std::log10(1e-6 + 9e-8), 0.02);
  EXPECT_NEAR(found.sfdr, 60.0, 0.1);
  EXPECT_NEAR(found.snr, 10.0 * std::log10(0.5 / 1e-10), 0.3);
  EXPECT_NEAR(found.harmonics[1].frequency, 1.0 - 3.0 * frequency, 1e-6);
  EXPECT_NEAR(found.harmonics[1].power, 0.5 * 9e-8, 1e-9);
  // Tones in noise: found where they are, and in white noise one spectrum in a hundred has any.
  int wrong = 0;
  for (std::uint64_t record = 0; record < 200; ++record) {
    math::RandomStream noise(7, record);
    Values values;
    for (int i = 0; i < 4096; ++i) values.push_back(noise.normal());
    wrong += tones(spectrum(values, Window::hann, record % 2 == 0 ? 4096 : 512)).empty() ? 0 : 1;
    if (record > 0) continue;
    const auto mains = wave(4096, 0.5, 0.05, 0.0, 0.0);
    for (std::size_t i = 0; i < 4096; ++i) values[i] += mains[i];
    const auto lines = tones(spectrum(values, Window::hann, 1024));
    ASSERT_EQ(lines.size(), 1U);
    EXPECT_NEAR(lines[0].frequency, 0.05, 5e-4);
    EXPECT_NEAR(std::sqrt(2.0 * lines[0].power), 0.5, 0.05);
  }
  EXPECT_LE(wrong, 8);
}

}  // namespace
}  // namespace tamlo::signal
