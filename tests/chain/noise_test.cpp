// SPDX-License-Identifier: Apache-2.0
// Sources that are computed from the parts rather than stated: thermal and amplifier noise, the
// load of a reference, and INL as it was measured.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "boards.hpp"
#include "tamlo/budget/budget.hpp"

namespace tamlo::chain {
namespace {

using testing::source;
using testing::value;

model::Board amplified(model::Amplifier amplifier, bool with_lowpass = true) {
  auto b = testing::board({.span = "0..2.4 V"});
  auto& channel = b.channels.front();
  channel.rate = 1000.0;
  amplifier.gain = value("1", "");
  channel.frontend = {amplifier};
  if (with_lowpass) {
    channel.frontend.push_back(
        model::Lowpass{.resistor = value("10 kohm", "ohm"), .capacitor = value("10 nF", "F")});
  }
  return b;
}

// k = 1.380649e-23 J/K; at 23 degC sqrt(kT/C) of 8 pF is 22.608 uV, of 10 nF 639.44 nV.
TEST(Noise, ThermalNoiseOfCapacitors) {
  auto b = amplified({});
  b.converters.front().sampling_capacitor = 8e-12;
  const auto chain = build(b, "x");
  EXPECT_NEAR(chain.sources.at(source(chain, "sampling noise")).standard_uncertainty, 22.608e-6,
              1e-9);
  EXPECT_NEAR(chain.sources.at(source(chain, "resistor noise")).standard_uncertainty, 639.436e-9,
              1e-12);
}

// A density through one pole: e sqrt(pi/2 f_3dB) = e / sqrt(4 R C). 20 nV/sqrt(Hz), 10 kohm, 10 nF:
// 20e-9 * sqrt(2500) = 1 uV. A corner of 100 Hz adds 20e-9 * sqrt(100 ln(2500 * 3600)).
TEST(Noise, AmplifierNoiseFromADensity) {
  const auto chain = build(amplified({.noise_density = 20e-9, .noise_corner = 100.0}), "x");
  EXPECT_NEAR(chain.sources.at(source(chain, "amplifier white noise")).standard_uncertainty, 1e-6,
              1e-15);
  const auto& flicker = chain.sources.at(source(chain, "amplifier 1/f noise"));
  EXPECT_NEAR(flicker.standard_uncertainty, 20e-9 * std::sqrt(100.0 * std::log(2500.0 * 3600.0)),
              1e-15);
  // With a bandwidth of its own that is narrower, f_3dB = 1 kHz: 20e-9 * sqrt(pi/2 * 1000).
  const auto narrow = build(amplified({.noise_density = 20e-9, .bandwidth = 1000.0}), "x");
  EXPECT_NEAR(narrow.sources.at(source(narrow, "amplifier white noise")).standard_uncertainty,
              20e-9 * std::sqrt(std::numbers::pi / 2.0 * 1000.0), 1e-15);
  EXPECT_THROW(build(amplified({.noise_density = 20e-9}, false), "x"), ChainError);
}

// Averaging takes white noise down by its square root, and most of 1/f noise not at all: the mean
// of M at rate r keeps what is below r / M, (ln of that over 1/T) / (ln of r/2 over 1/T) of the
// variance.
TEST(Noise, FlickerDoesNotAverageAway) {
  auto b = amplified({.noise_density = 20e-9, .noise_corner = 100.0});
  b.channels.front().average.count = 100;
  const auto chain = build(b, "x");
  EXPECT_NEAR(chain.sources.at(source(chain, "amplifier white noise")).filter_gain(), 0.1, 0.01);
  const double passes = chain.sources.at(source(chain, "amplifier 1/f noise")).filter_gain();
  // |sin(pi f M / r) / (M sin(pi f / r))|^2 integrated over ln f, apart from here: 10^6 steps.
  double sum = 0.0;
  constexpr int steps = 1'000'000;
  for (int i = 0; i < steps; ++i) {
    const double f =
        std::exp(std::log(1.0 / 3600.0) + std::log(500.0 * 3600.0) * (i + 0.5) / steps);
    const double h =
        std::sin(std::numbers::pi * f / 10.0) / (100.0 * std::sin(std::numbers::pi * f / 1000.0));
    sum += h * h;
  }
  EXPECT_NEAR(passes / std::sqrt(sum / steps), 1.0, 1e-3);
  EXPECT_GT(passes, 0.7);
}

TEST(Noise, LoadOfAReference) {
  auto b = testing::board({.span = "0..2.4 V"});
  b.references.front().output_resistance = 0.05;
  b.references.front().load_change = 2e-3;
  const auto chain = build(b, "x");
  EXPECT_NEAR(chain.sources.at(source(chain, "ref load")).limit, 100e-6, 1e-15);
  const auto point = budget::evaluate(chain, {.at = {2.4}}).points.front();
  // It comes and goes, so that no adjustment takes it away.
  EXPECT_NEAR(std::abs(point.contributions.at(source(chain, "ref load")).contribution),
              2.4 / 2.5 * 100e-6 / std::sqrt(3.0), 1e-9);
  EXPECT_GT(point.adjusted.two_point, 1.9 * 2.4 / 2.5 * 100e-6 / std::sqrt(3.0));
}

// A measured table is a known deviation, a bias, and its uncertainty is what `inl` says.
TEST(Noise, MeasuredInl) {
  auto b = testing::board({.span = "0..2.4 V"});
  auto& adc = b.converters.front();
  adc.inl_table = {{0.0, 0.0}, {2048.0, 3.0}, {4095.0, 0.0}};
  adc.inl = value("±0.2 LSB (k=2)", "V");
  const auto chain = build(b, "x");
  const double q = 2.5 / 4096.0;
  EXPECT_NEAR(bias(chain, 1.25), 3.0 * q, 1e-9);
  EXPECT_NEAR(bias(chain, 0.625), 1.5 * q, 1e-9);
  EXPECT_NEAR(bias(chain, 0.0), 0.0, 1e-12);
  EXPECT_NEAR(chain.sources.at(source(chain, "adc INL")).standard_uncertainty, 0.1, 1e-12);
  // Between near codes the curve is smooth: a tare takes off what it is at its place.
  auto tared = b;
  tared.channels.front().scaling.tare = 0.625;
  EXPECT_NEAR(bias(build(tared, "x"), 0.6875), (1.5 * 0.6875 / 0.625 - 1.5) * q, 1e-9);
  EXPECT_NEAR(bias(build(tared, "x"), 1.25), (3.0 - 1.5) * q, 1e-9);
  // Signed codes count from the low end all the same.
  adc.coding = model::Coding::twos_complement;
  adc.inl_table = {{-2048.0, 0.0}, {0.0, 3.0}, {2047.0, 0.0}};
  EXPECT_NEAR(bias(build(b, "x"), 1.25), 3.0 * q, 1e-9);
}

}  // namespace
}  // namespace tamlo::chain
