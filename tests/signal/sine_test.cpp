// SPDX-License-Identifier: Apache-2.0
#include "tamlo/signal/sine.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "tamlo/math/random.hpp"
#include "tamlo/signal/spectrum.hpp"
#include "waves.hpp"

namespace tamlo::signal {
namespace {

using Values = std::vector<double>;
using std::numbers::pi;

TEST(Sine, FitsWithoutNoiseAreExact) {
  for (const std::size_t n : {32U, 1000U, 5000U}) {
    for (const double cycles : {3.3, 7.0, 0.31 * static_cast<double>(n)}) {
      const double frequency = cycles / static_cast<double>(n);
      const auto fit = fit_four(wave(n, 2.5, frequency, 0.7, -1.2));
      EXPECT_TRUE(fit.converged);
      EXPECT_NEAR(fit.frequency, frequency, 1e-10 / static_cast<double>(n)) << n << " " << cycles;
      EXPECT_NEAR(fit.amplitude, 2.5, 1e-9);
      EXPECT_NEAR(fit.phase, 0.7, 1e-8);
      EXPECT_NEAR(fit.offset, -1.2, 1e-9);
    }
  }
}

// An ideal converter of N bits: SINAD 6.02 N + 1.76 dB, by fit and by spectrum.
TEST(Sine, IdealConverters) {
  for (int bits = 6; bits <= 20; ++bits) {
    const std::size_t n = 1 << 15;
    const double frequency = nearest_coherent(0.0917, n);
    // A quarter of a code off the middle, and so much short of both ends: no code is clipped, and
    // the errors are spread as the formula takes them to be.
    const double full = std::pow(2.0, bits - 1), amplitude = full - 0.27;
    auto samples = wave(n, amplitude, frequency, 0.3, 0.25);
    for (double& x : samples) x = std::floor(x) + 0.5;
    const double ideal = 20.0 * bits * std::log10(2.0) + 10.0 * std::log10(1.5) +
                         20.0 * std::log10(amplitude / full);
    const auto fit = fit_four(samples);
    EXPECT_NEAR(fit.sinad(), ideal, 0.05) << bits;
    EXPECT_NEAR(fit.enob(), bits + std::log2(amplitude / full), 0.01) << bits;
    EXPECT_TRUE(is_coherent(fit, n));
    const auto coherent = sine_figures(spectrum(samples, Window::rectangular));
    EXPECT_NEAR(coherent.sinad, ideal, 0.05) << bits;
    const auto windowed = sine_figures(spectrum(samples, Window::blackman_harris));
    EXPECT_NEAR(windowed.sinad, ideal, 0.1) << bits;
  }
}

// Over 1000 records of noise: as good as any estimate can be (Cramer and Rao), and as it says.
TEST(Sine, ReachesTheBound) {
  const std::size_t n = 256;
  const double sigma = 0.1;
  double of_amplitude = 0.0, of_frequency = 0.0, of_phase = 0.0, said = 0.0;
  constexpr int records = 1000;
  for (std::uint64_t record = 0; record < records; ++record) {
    math::RandomStream stream(4, record);
    auto samples = wave(n, 1.0, 0.1234, 0.5, 0.2);
    for (double& x : samples) x += sigma * stream.normal();
    const auto fit = fit_four(samples);
    of_amplitude += std::pow(fit.amplitude - 1.0, 2) / records;
    of_frequency += std::pow(fit.frequency - 0.1234, 2) / records;
    of_phase += std::pow(fit.phase - 0.5, 2) / records;
    said += fit.frequency_standard / records;
  }
  // Rife and Boorstyn, 1974, for real samples.
  const auto of = static_cast<double>(n);
  const double amplitude = sigma * std::sqrt(2.0 / of);
  const double frequency = sigma * std::sqrt(24.0 / (of * (of * of - 1.0))) / (2.0 * pi);
  const double phase = sigma * std::sqrt(4.0 * (2.0 * of - 1.0) / (of * (of + 1.0)));
  // Efficiency 0.95 and better; the variance of 1000 records is known to 4.5 %.
  EXPECT_LT(of_amplitude / std::pow(amplitude, 2), 1.0 / 0.95 + 0.1);
  EXPECT_LT(of_frequency / std::pow(frequency, 2), 1.0 / 0.95 + 0.1);
  EXPECT_LT(of_phase / std::pow(phase, 2), 1.0 / 0.95 + 0.1);
  EXPECT_NEAR(said / frequency, 1.0, 0.02);
}

TEST(Sine, CoherentFrequencies) {
  EXPECT_EQ(nearest_coherent(0.1, 1000), 101.0 / 1000.0);
  EXPECT_EQ(nearest_coherent(0.1, 1024), 103.0 / 1024.0);
  EXPECT_EQ(nearest_coherent(0.1, 1021), 102.0 / 1021.0);
  EXPECT_FALSE(is_coherent(fit_four(wave(1000, 1.0, 0.1004, 0.0, 0.0)), 1000));
}

}  // namespace
}  // namespace tamlo::signal
