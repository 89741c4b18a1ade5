// SPDX-License-Identifier: Apache-2.0
// What is left of a sine in the readings, by the transfer functions and by sampling it.
#include "tamlo/chain/sampled.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "boards.hpp"
#include "tamlo/error.hpp"

namespace tamlo::testing {
namespace {

// 16 bit, 1 kSa/s, averages of four: 250 readings a second.
chain::Chain averaged(bool lowpass) {
  auto b = board({.bits = 16});
  auto& channel = b.channels.front();
  channel.rate = 1000.0;
  channel.average.count = 4;
  if (lowpass) {
    channel.frontend.push_back(
        model::Lowpass{.resistor = value("1 kohm", "ohm"), .capacitor = value("1 uF", "F")});
  }
  return chain::build(b, "x");
}

// Amplitude of a frequency in a series, by its largest projection on any phase.
double amplitude_of(const std::vector<double>& times, const std::vector<double>& values,
                    double frequency) {
  double mean = 0.0, s = 0.0, c = 0.0;
  for (const double v : values) mean += v / static_cast<double>(values.size());
  for (std::size_t i = 0; i < values.size(); ++i) {
    const double angle = 2.0 * std::numbers::pi * frequency * times[i];
    s += 2.0 * (values[i] - mean) * std::sin(angle) / static_cast<double>(values.size());
    c += 2.0 * (values[i] - mean) * std::cos(angle) / static_cast<double>(values.size());
  }
  return std::hypot(s, c);
}

TEST(Sampled, WhatIsShownIsWhatSamplingGives) {
  const struct {
    double frequency;
    std::optional<double> alias;
  } cases[] = {{10.0, {}},     // 25 readings a period
               {62.5, {}},     // four
               {200.0, 50.0},  // folds at the 250 readings a second
               {990.0, 10.0},  // folds at the conversions already
               {1260.0, 10.0}};
  for (const bool lowpass : {false, true}) {
    const auto chain = averaged(lowpass);
    for (const auto& [frequency, alias] : cases) {
      const auto sine = chain::sampled_sine(chain, frequency);
      EXPECT_EQ(sine.alias.has_value(), alias.has_value()) << frequency;
      EXPECT_NEAR(sine.alias.value_or(0.0), alias.value_or(0.0), 1e-9) << frequency;
      EXPECT_NEAR(sine.conversions_per_period, 1000.0 / frequency, 1e-9);
      EXPECT_NEAR(sine.readings_per_period, 250.0 / frequency, 1e-9);
      const auto stretch = chain::sample_sine(chain, frequency);
      const double shows =
          amplitude_of(stretch.reading_times, stretch.readings, alias.value_or(frequency));
      EXPECT_NEAR(shows / stretch.amplitude, sine.shown, 0.05 * sine.shown + 1e-3) << frequency;
      // By hand: one pole of 1 ms, and a mean of four in a row.
      const double pole =
          lowpass ? 1.0 / std::hypot(1.0, 2.0 * std::numbers::pi * frequency * 1e-3) : 1.0;
      const double half = std::numbers::pi * frequency / 1000.0;
      EXPECT_NEAR(sine.shown, pole * std::abs(std::sin(4.0 * half) / (4.0 * std::sin(half))), 1e-6)
          << frequency;
      if (!alias) continue;
      // The sine that is drawn goes through the readings.
      for (std::size_t i = 0; i < stretch.readings.size(); ++i) {
        EXPECT_NEAR(stretch.shown_at(stretch.reading_times[i], *sine.alias), stretch.readings[i],
                    0.03 * stretch.amplitude);
      }
    }
  }
}

TEST(Sampled, RefusesWhatCannotBeSampled) {
  const auto chain = averaged(false);
  for (const double frequency : {0.0, -1.0, std::nan(""), 1e-6}) {
    EXPECT_THROW(chain::sample_sine(chain, frequency), ArgumentError) << frequency;
  }
  EXPECT_THROW(chain::sampled_sine(chain::build(board(), "x"), 1.0), ArgumentError);
  // A multiple of the rate stands still.
  const auto still = chain::sample_sine(chain, 1000.0);
  EXPECT_LT(amplitude_of(still.reading_times, still.readings, 50.0), 1e-9);
}

}  // namespace
}  // namespace tamlo::testing
