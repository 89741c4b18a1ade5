// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/digital.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "boards.hpp"
#include "tamlo/error.hpp"
#include "tamlo/math/random.hpp"

namespace tamlo::chain {
namespace {

using namespace model;
constexpr double pi = std::numbers::pi;

// Every kind, and series of them; 1000 samples a second.
struct Case {
  const char* name;
  std::vector<model::DigitalStage> stages;
};
const Case cases[] = {
    {"block", {BlockAverage{{.count = 16}}}},
    {"block by time", {BlockAverage{{.time = 0.02}}}},
    {"moving", {MovingAverage{{.count = 7}}}},
    {"exponential", {Exponential{.weight = 0.15}}},
    {"exponential by time", {Exponential{.time_constant = 0.01}}},
    {"sinc 1", {Sinc{.order = 1, .decimation = 8}}},
    {"sinc 3", {Sinc{.order = 3, .decimation = 10}}},
    {"sinc 5", {Sinc{.order = 5, .decimation = 4}}},
    {"Butterworth 1", {Butterworth{.order = 1, .cutoff = 60.0}}},
    {"Butterworth 2", {Butterworth{.order = 2, .cutoff = 40.0}}},
    {"Butterworth 5", {Butterworth{.order = 5, .cutoff = 100.0}}},
    {"notch", {Notch{.frequency = 50.0, .width = 20.0}}},
    {"taps", {FirFilter{.taps = {1.0, 2.0, 3.0, 2.0, 1.0}}}},
    {"block, moving", {BlockAverage{{.count = 16}}, MovingAverage{{.count = 4}}}},
    {"block, exponential", {BlockAverage{{.count = 5}}, Exponential{.weight = 0.2}}},
    {"sinc, taps", {Sinc{.order = 3, .decimation = 5}, FirFilter{.taps = {0.25, 0.5, 0.25}}}},
    {"moving, sinc, notch",
     {MovingAverage{{.count = 3}}, Sinc{.order = 2, .decimation = 4}, Notch{50.0, 10.0}}},
};
const Case medians[] = {{"median 3", {Median{3}}},
                        {"median 5", {Median{5}}},
                        {"median 15", {Median{15}}},
                        {"median, block", {Median{5}, BlockAverage{{.count = 8}}}},
                        {"block, median", {BlockAverage{{.count = 4}}, Median{3}}},
                        {"moving, median", {MovingAverage{{.count = 4}}, Median{7}}},
                        {"median, exponential", {Median{3}, Exponential{.weight = 0.2}}}};

// Standard deviation of what a series makes of noise whose neighbours correlate by `correlation`.
double simulated(const Digital& digital, double correlation, std::uint64_t number) {
  math::RandomStream stream(20261124, number);
  DigitalState state(digital);
  double noise = stream.normal(), squares = 0.0;
  int count = 0;
  const double fresh = std::sqrt(1.0 - correlation * correlation);
  for (int i = 0; i < 1'500'000 / testing::fewer; ++i) {
    noise = correlation * noise + fresh * stream.normal();
    if (!state.push(noise)) continue;
    if (i < 1000) continue;  // filled
    squares += state.value() * state.value();
    ++count;
  }
  return std::sqrt(squares / count);
}

TEST(Digital, NoiseGainIsThatOfSimulatedNoise) {
  const double within = 0.01 * std::sqrt(static_cast<double>(testing::fewer));
  std::uint64_t number = 0;
  for (const auto& [name, stages] : cases) {
    const auto digital = prepare(stages, 1000.0);
    const double formula = std::sqrt(noise_gain(digital));
    EXPECT_NEAR(simulated(digital, 0.0, ++number) / formula, 1.0, within) << name;
  }
  for (const auto& [name, stages] : medians) {
    const auto digital = prepare(stages, 1000.0);
    EXPECT_NEAR(simulated(digital, 0.0, ++number) / std::sqrt(noise_gain(digital)), 1.0, within)
        << name;
    EXPECT_NEAR(simulated(digital, 0.8, ++number) / std::sqrt(noise_gain(digital, 0.8)), 1.0,
                1.5 * within)
        << name;
  }
}

// Neighbours that resemble each other average less: exp(-T / tau) for a low-pass of that tau.
TEST(Digital, CorrelatedNoiseAveragesLess) {
  std::uint64_t number = 100;
  for (const auto& [name, stages] : cases) {
    const auto digital = prepare(stages, 1000.0);
    for (const double correlation : {0.3, 0.9}) {
      EXPECT_NEAR(
          simulated(digital, correlation, ++number) / std::sqrt(noise_gain(digital, correlation)),
          1.0, 0.02 * std::sqrt(static_cast<double>(testing::fewer)))
          << name << " " << correlation;
    }
  }
  // Sum over i, j of rho^|i-j| / N^2, by hand for N = 2 and rho = 0.5: (2 + 2 * 0.5) / 4.
  EXPECT_NEAR(noise_gain(prepare({BlockAverage{{.count = 2}}}, 1.0), 0.5), 0.75, 1e-12);
}

// Variances of the median of standard normal values: Sarhan and Greenberg (1956), table of order
// statistics: 0.4487 for 3, 0.2868 for 5, 0.2104 for 7; pi / 2n for many.
TEST(Digital, MedianOfFew) {
  EXPECT_NEAR(median_variance(1), 1.0, 1e-9);
  EXPECT_NEAR(median_variance(3), 0.4487, 5e-5);
  EXPECT_NEAR(median_variance(5), 0.2868, 5e-5);
  EXPECT_NEAR(median_variance(7), 0.2104, 5e-5);
  EXPECT_NEAR(median_variance(1001) * 1001.0, pi / 2.0, 2e-3);
}

// -3 dB of sinc filters in parts of the data rate, the roots of (sin(pi x) / (pi x))^order = 2^-1/2
// (bisected apart from here): 0.4429, 0.3189, 0.2620, 0.2275, 0.2038 for orders 1 to 5. The first
// notch is at the data rate.
TEST(Digital, SincFilters) {
  const struct {
    int order;
    double cutoff;
  } expected[] = {{1, 0.4429}, {2, 0.3189}, {3, 0.2620}, {4, 0.2275}, {5, 0.2038}};
  for (const auto& [order, at] : expected) {
    const auto digital = prepare({Sinc{.order = order, .decimation = 64}}, 64000.0);
    EXPECT_NEAR(cutoff(digital) * 64.0, at, 1.5e-4) << order;
    EXPECT_LT(magnitude(digital, 1000.0), 1e-12);
    EXPECT_NEAR(magnitude(digital, 0.0), 1.0, 1e-12);
    EXPECT_EQ(decimation(digital), 64);
    EXPECT_EQ(output_rate(digital), 1000.0);
    EXPECT_EQ(readings_to_settle(digital, 1e-6), order);
  }
}

TEST(Digital, CutoffsAndNotchesLieWhereTheyAreAsked) {
  for (int order = 1; order <= 8; ++order) {
    const auto digital = prepare({Butterworth{.order = order, .cutoff = 123.0}}, 1000.0);
    EXPECT_NEAR(cutoff(digital) * 1000.0, 123.0, 1e-6) << order;
    EXPECT_NEAR(magnitude(digital, 0.0), 1.0, 1e-12);
  }
  const auto notch = prepare({Notch{.frequency = 50.0, .width = 4.0}}, 1000.0);
  EXPECT_LT(magnitude(notch, 50.0), 1e-12);
  EXPECT_NEAR(magnitude(notch, 0.0), 1.0, 1e-12);
  // The -3 dB points are 4 Hz apart, up to the bending of the bilinear transform.
  double below = 40.0, above = 60.0;
  while (magnitude(notch, below) > std::sqrt(0.5)) below += 0.001;
  while (magnitude(notch, above) > std::sqrt(0.5)) above -= 0.001;
  EXPECT_NEAR(above - below, 4.0, 0.01);
  // A mean over a whole mains period takes out the mains and all its harmonics.
  const auto period = prepare({BlockAverage{{.time = 0.02}}}, 1000.0);
  for (const double harmonic : {50.0, 100.0, 250.0}) EXPECT_LT(magnitude(period, harmonic), 1e-12);
}

// Size, delay and settling against the filter run sample by sample.
TEST(Digital, FiguresAreThoseOfTheRunningFilter) {
  for (const auto& [name, stages] : cases) {
    const auto digital = prepare(stages, 1000.0);
    const int kept = decimation(digital);
    // A ramp comes out late by the delay; a block's value comes with its last sample.
    DigitalState ramp(digital);
    double last = 0.0;
    int at = 0;
    for (int i = 0; i < 20000; ++i) {
      if (ramp.push(i)) {
        last = ramp.value();
        at = i;
      }
    }
    EXPECT_NEAR(at - last, group_delay(digital), 1e-6) << name;
    // A sine: the largest reading over many phases.
    const double frequency = 13.7;
    DigitalState sine(digital);
    double most = 0.0;
    for (int i = 0; i < 400'000; ++i) {
      if (sine.push(std::sin(2.0 * pi * frequency * i / 1000.0)) && i > 2000) {
        most = std::max(most, std::abs(sine.value()));
      }
    }
    EXPECT_NEAR(most, magnitude(digital, frequency), 1e-3) << name;
    // A step.
    for (const double band : {0.1, 1e-3, 1e-6}) {
      DigitalState step(digital);
      int readings = 0, settled = 1;
      for (int i = 0; i < 3000 * kept; ++i) {
        if (!step.push(1.0)) continue;
        ++readings;
        if (std::abs(step.value() - 1.0) > band) settled = readings + 1;
      }
      EXPECT_EQ(readings_to_settle(digital, band), settled) << name << " " << band;
    }
  }
}

// What a board keeps of its filters has a bound: a longer answer is computed again where it is
// asked for, and is the same.
TEST(Digital, AChainKeepsShortAnswersAlone) {
  auto board = testing::pack_voltage();
  auto& channel = board.channels.front();
  channel.average = {};
  for (const double weight : {0.01, 1e-4}) {
    channel.filter = {model::Exponential{.weight = weight}};
    const auto chain = build(board, "x");
    const auto& digital = chain.firmware.digital;
    const auto answer = impulse_response(digital);
    EXPECT_EQ(digital.answer != nullptr, answer.size() <= longest_kept) << answer.size();
    EXPECT_EQ(digital.answer != nullptr, weight == 0.01);
    auto again = digital;
    again.answer = nullptr;
    EXPECT_EQ(impulse_response(again), answer);
  }
}

TEST(Digital, MediansPassStepsWholeAndDropSpikes) {
  const auto digital = prepare({Median{5}}, 0.0);
  DigitalState state(digital);
  state.prime(1.0);
  for (const double x : {1.0, 100.0, 1.0, -50.0, 1.0, 1.0}) {
    ASSERT_TRUE(state.push(x));
    EXPECT_EQ(state.value(), 1.0);
  }
  EXPECT_EQ(readings_to_settle(digital, 1e-9), 3);
}

TEST(Digital, APrimedStateIsAtRest) {
  for (const auto& [name, stages] : cases) {
    const auto digital = prepare(stages, 1000.0);
    DigitalState state(digital);
    state.prime(-7.25);
    for (int i = 0; i < 50; ++i) {
      state.push(-7.25);
      EXPECT_NEAR(state.value(), -7.25, 1e-12) << name;
    }
  }
}

TEST(Digital, WhatDoesNotFitTheRateIsRefused) {
  EXPECT_THROW(prepare({Butterworth{.order = 2, .cutoff = 600.0}}, 1000.0), ArgumentError);
  EXPECT_THROW(prepare({MovingAverage{{.time = 0.1}}}, 0.0), ArgumentError);
  // Behind an average of 10 the rate is 100 Hz.
  EXPECT_THROW(prepare({BlockAverage{{.count = 10}}, Notch{50.0, 5.0}}, 1000.0), ArgumentError);
  EXPECT_EQ(prepare({MovingAverage{{.time = 0.1}}}, 1000.0).stages.front().averages.front(), 100);
}

}  // namespace
}  // namespace tamlo::chain
