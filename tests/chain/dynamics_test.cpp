// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/dynamics.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "boards.hpp"
#include "plain_readings.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/math/random.hpp"
#include "tamlo/simulate/unit.hpp"

namespace tamlo::chain {
namespace {

using testing::board;
using testing::source;
using testing::value;

model::Board quiet(const char* noise = "0.8 LSB rms") {
  auto b = board({.span = "0..2.4 V"});
  b.converters.front().noise = value(noise, "V");
  b.channels.front().rate = 1000.0;
  return b;
}

const double more_scatter = std::sqrt(static_cast<double>(testing::fewer));

// Standard deviation of simulated readings about `x`, spread over a step.
double spread(const Chain& chain, double x, int trials = 20000 / testing::fewer) {
  const auto unit = simulate::with_deviations(chain, {});
  math::RandomStream place(1, 0);
  double sum = 0.0, squares = 0.0;
  for (int i = 0; i < trials; ++i) {
    math::RandomStream stream(2, static_cast<std::uint64_t>(i));
    const double at = x + step_at(chain, x) * place.uniform();
    const double error = testing::plain_reading(chain, unit, at, stream) - at;
    sum += error;
    squares += error * error;
  }
  return std::sqrt(squares / trials - sum * sum / trials / trials);
}

TEST(Dynamics, NoiseOfAReadingIsThatOfSimulatedOnes) {
  const std::vector<model::DigitalStage> filters[] = {
      {},
      {model::MovingAverage{{.count = 4}}},
      {model::Exponential{.weight = 0.3}},
      {model::Sinc{.order = 3, .decimation = 4}},
      {model::Median{5}},
      {model::Butterworth{.order = 3, .cutoff = 20.0}, model::MovingAverage{{.count = 3}}}};
  for (const auto& filter : filters) {
    for (const int average : {1, 8}) {
      auto b = quiet();
      b.channels.front().average.count = average;
      b.channels.front().filter = filter;
      const auto chain = build(b, "x");
      // A median of means is not quite what the rule for one quantiser says.
      const bool median_of_means = average > 1 && chain.firmware.digital.stages.back().median > 0;
      EXPECT_NEAR(spread(chain, 1.0) / reading_noise(chain, 1.0), 1.0,
                  (median_of_means ? 0.03 : 0.02) * more_scatter)
          << average << " " << chain.firmware.digital.stages.back().name;
    }
  }
}

// A sine that the sampling folds down: what is left of it is what simulated conversions show.
TEST(Dynamics, InterferenceFoldsIntoTheReadings) {
  for (const double frequency : {50.0, 62.5, 1010.0, 24937.0}) {
    auto b = quiet("0.5 LSB rms");
    auto& channel = b.channels.front();
    channel.average.count = 16;
    channel.interference = {{.frequency = {frequency}, .amplitude = 0.05}};
    channel.frontend = {
        model::Lowpass{.resistor = value("1 kohm", "ohm"), .capacitor = value("100 nF", "F")}};
    const auto chain = build(b, "x");
    EXPECT_NEAR(spread(chain, 1.0) / reading_noise(chain, 1.0), 1.0, 0.02 * more_scatter)
        << frequency;
    const auto d = dynamics(chain);
    ASSERT_EQ(d.aliases.size(), 1U);
    const auto& alias = d.aliases.front();
    // One pole: 1 / sqrt(1 + (2 pi f R C)^2).
    EXPECT_NEAR(alias.analog,
                1.0 / std::hypot(1.0, 2.0 * std::numbers::pi * frequency * 1e3 * 100e-9), 1e-12);
    EXPECT_DOUBLE_EQ(alias.at_pin, 0.05);
    EXPECT_NEAR(alias.amplitude, 0.05 * alias.analog * alias.digital, 1e-12);
  }
  EXPECT_DOUBLE_EQ(folded(1010.0, 1000.0), 10.0);
  EXPECT_DOUBLE_EQ(folded(950.0, 1000.0), 50.0);
  EXPECT_DOUBLE_EQ(folded(499.0, 1000.0), 499.0);
}

// A mean over one period of 50 Hz, at 1 kSa/s, takes 50 Hz out; of f within ±0.5 Hz it leaves up to
// |sin(20 pi f / 1000) / (20 sin(pi f / 1000))|, the most at 49.5 Hz. Harmonics vary as the mains
// do.
TEST(Dynamics, OfMainsThatVaryTheWorstFrequencyCounts) {
  for (const auto& [order, own] : {std::pair{1.0, false}, {3.0, false}, {1.0, true}}) {
    auto b = quiet();
    auto& channel = b.channels.front();
    channel.filter = {model::MovingAverage{{.count = 20}}};
    const auto varying = value("50 Hz ±0.5 Hz", "Hz");
    if (!own) b.conditions.mains = varying;
    channel.interference = {{.frequency = {50.0 * order}, .amplitude = 0.05}};
    if (own) channel.interference.front().frequency = varying;
    const auto d = dynamics(build(b, "x"));
    const double f = 49.5 * order * std::numbers::pi / 1000.0;
    const double left = std::abs(std::sin(20.0 * f) / (20.0 * std::sin(f)));
    EXPECT_NEAR(d.aliases.front().digital, left, 1e-4 * left);
    EXPECT_NEAR(d.aliases.front().frequency, 49.5 * order, 1e-3);
    if (order > 1.0 || own) continue;
    EXPECT_NEAR(d.mains_rejection, -20.0 * std::log10(left), 1e-3);
  }
}

// METHOD: 2 pi f A t / sqrt 2. 1 V at 1 kHz with 1 us: 4.4429 mV.
TEST(Dynamics, Jitter) {
  auto b = board({.span = "0..2 V"});
  b.converters.front().jitter = 1e-6;
  b.channels.front().fastest = 1000.0;
  const auto chain = build(b, "x");
  const auto& jitter = chain.sources.at(source(chain, "aperture jitter"));
  EXPECT_NEAR(jitter.standard_uncertainty, 4.442882938e-3, 1e-11);
  EXPECT_EQ(jitter.kind(), Kind::noise);
}

// An amplifier's noise behind a slow low-pass is nearly the same in neighbouring conversions.
TEST(Dynamics, NoiseBehindASlowLowpassAveragesLess) {
  auto b = board({.span = "0..2.4 V"});
  auto& channel = b.channels.front();
  channel.rate = 10e3;
  channel.average.count = 16;
  channel.frontend = {
      model::Amplifier{.gain = value("1", ""), .noise = value("5 mV rms", "V")},
      model::Lowpass{.resistor = value("10 kohm", "ohm"), .capacitor = value("100 nF", "F")}};
  const auto slow = build(b, "x");
  const double correlation = std::exp(-1.0 / (1e-3 * 10e3));
  double sum = 0.0;
  for (int i = 0; i < 16; ++i) {
    for (int j = 0; j < 16; ++j) sum += std::pow(correlation, std::abs(i - j));
  }
  EXPECT_NEAR(slow.sources.at(source(slow, "amplifier noise")).filter_gain(), std::sqrt(sum) / 16.0,
              1e-9);
  std::swap(channel.frontend[0], channel.frontend[1]);  // now the noise comes behind it
  const auto fast = build(b, "x");
  EXPECT_NEAR(fast.sources.at(source(fast, "amplifier noise")).filter_gain(), 0.25, 1e-12);
}

// Delay of a whole channel: the conversion, then low-pass, blocks of 10 ms and the mean of four as
// one. Expected: the largest of the delays of a loop that is written here, for steps that fall a
// thousandth of a conversion apart.
TEST(Dynamics, Latency) {
  auto b = quiet();
  auto& channel = b.channels.front();
  b.converters.front().max_rate = 1000.0;
  channel.average.count = 10;
  channel.filter = {model::MovingAverage{{.count = 4}}};
  channel.frontend = {
      model::Lowpass{.resistor = value("10 kohm", "ohm"), .capacitor = value("1 uF", "F")}};
  channel.target.accuracy = value("±1 % of span", "V").limits.front();
  const auto d = dynamics(build(b, "x"));
  EXPECT_NEAR(d.analog_settling, 10e-3 * std::log(100.0), 1e-12);
  EXPECT_EQ(d.series.to_target, 4);
  double longest = 0.0;
  int first_valid = 0;
  for (int moment = 0; moment < 10'000; ++moment) {
    const double step = (moment + 0.5) * 1e-6;  // s, conversions every ms
    std::vector<double> blocks;
    double settled = 0.0;
    for (int block = 1; block <= 40; ++block) {
      double sum = 0.0;
      for (int i = 1; i <= 10; ++i) {
        const double since = ((block - 1) * 10 + i) * 1e-3 - step;
        if (since > 0.0) sum += 1.0 - std::exp(-since / 10e-3);
      }
      blocks.push_back(sum / 10.0);
      double mean = 0.0;
      for (std::size_t i = blocks.size() < 4 ? 0 : blocks.size() - 4; i < blocks.size(); ++i) {
        mean += blocks[i] / 4.0;
      }
      if (std::abs(1.0 - mean) <= 0.01 && settled == 0.0) settled = block * 10e-3;
      if (moment == 0 && settled > 0.0 && first_valid == 0) first_valid = block;
    }
    longest = std::max(longest, settled - step);
  }
  EXPECT_NEAR(d.latency, 1e-3 + longest, 1e-6);
  EXPECT_EQ(d.first_valid, first_valid);
  EXPECT_LT(d.latency, 1e-3 + d.analog_settling + 5 * 10e-3);  // less than one after the other
  EXPECT_DOUBLE_EQ(d.series.output_rate, 100.0);
}

// An amplifier that slews, has a bandwidth and feeds a low-pass, as a loop over time that is
// written here: it settles no later than is said, and not much before.
TEST(Dynamics, AmplifiersTakeTheirTime) {
  for (const auto& [slew, bandwidth, tau] : {std::tuple{2e3, 1e3, 10e-6},
                                             {200.0, 100e3, 1e-6},
                                             {2e6, 2e3, 1e-3},
                                             {4e3, 500.0, 200e-6}}) {
    auto b = board({.span = "0..0.2 V"});
    auto& channel = b.channels.front();
    channel.frontend = {
        model::Amplifier{.gain = value("10", ""), .bandwidth = bandwidth, .slew = slew},
        model::Lowpass{.resistor = value("1 kohm", "ohm"),
                       .capacitor = {.nominal = tau / 1e3, .unit = quantity::unit("F")}}};
    channel.target.accuracy = value("±0.5 % of span", "V").limits.front();
    const double told = dynamics(build(b, "x")).analog_settling;
    const double step = told / 200'000.0, pole = 2.0 * M_PI * bandwidth;
    double amplifier = 0.0, pin = 0.0, settled = 0.0;
    for (double t = 0.0; t < 2.0 * told; t += step) {
      amplifier += std::min(slew, pole * (2.0 - amplifier)) * step;
      pin += (amplifier - pin) / tau * step;
      if (std::abs(2.0 - pin) > 0.005 * 2.0) settled = t;
    }
    EXPECT_LE(settled, told) << slew << " " << bandwidth;
    EXPECT_GE(settled, 0.5 * told) << slew << " " << bandwidth;
  }
}

// Against a firmware that is fed with noise, conversion by conversion, written here: where the
// quantity stands at the worst place between the edges, and nowhere more often than is said.
TEST(Dynamics, FalseTripsOfAThreshold) {
  struct Comparator {
    double sigma;  // LSB
    int average;
    double hysteresis;  // LSB
    int debounce = 1;
  };
  const double q = 2.5 / 4096.0;
  for (const auto& [sigma, average, hysteresis, debounce] :
       {Comparator{1.0, 1, 2.0}, Comparator{0.3, 1, 1.0}, Comparator{0.25, 1, 0.0},
        Comparator{2.0, 8, 1.5}, Comparator{0.5, 4, 1.0}, Comparator{2000.0, 1, 900.0},
        Comparator{90.0, 4, 60.0}, Comparator{1.0, 1, 1.0, 2}, Comparator{2.0, 4, 0.5, 3},
        Comparator{300.0, 1, 100.0, 5}}) {
    SCOPED_TRACE(::testing::Message()
                 << sigma << " LSB, " << average << ", " << hysteresis << ", " << debounce);
    auto b = quiet((std::to_string(sigma) + " LSB rms").c_str());
    b.converters.front().max_rate = 1000.0;
    auto& channel = b.channels.front();
    channel.average.count = average;
    channel.threshold = {.at = 1.0, .hysteresis = hysteresis * q, .debounce = debounce};
    const auto t = threshold(build(b, "x"));
    ASSERT_TRUE(t && t->false_trips && t->debounce_counted);
    EXPECT_NEAR(t->debounce_delay, (debounce - 1) * average / 1000.0, 1e-12);
    math::RandomStream noise(7, static_cast<std::uint64_t>(average * 100 + sigma * 10.0));
    double most = 0.0;
    constexpr int readings = 100'000;
    const double apart = std::max(0.125, (hysteresis + 2.0) / 24.0);
    for (double place = t->off_code - 1.0; place <= t->on_code + 1.0; place += apart) {
      bool on = false;
      int trips = 0, in_a_row = 0;
      for (int i = 0; i < readings; ++i) {
        double sum = 0.0;
        for (int k = 0; k < average; ++k) sum += std::floor(place + sigma * noise.normal() + 0.5);
        const double mean = sum / average;
        in_a_row = on                   ? mean < t->off_code ? in_a_row + 1 : 0
                   : mean >= t->on_code ? in_a_row + 1
                                        : 0;
        if (in_a_row < debounce) continue;
        on = !on;
        in_a_row = 0;
        if (on) ++trips;
      }
      most = std::max(most, static_cast<double>(trips));
    }
    const double expected = *t->false_trips / t->reading_rate * readings;
    EXPECT_NEAR(most, expected, 5.0 * std::sqrt(expected) + 0.02 * expected + 1.0);
  }
}

// Of readings that share conversions a debounce is not counted: the trips are those without it, and
// no fewer than there are.
TEST(Dynamics, ADebounceOfReadingsThatShareConversions) {
  auto b = quiet("2 LSB rms");
  b.converters.front().max_rate = 1000.0;
  auto& channel = b.channels.front();
  channel.filter = {model::MovingAverage{.length = 8}};
  channel.threshold = {.at = 1.0, .hysteresis = 0.5 * 2.5 / 4096.0};
  const auto without = threshold(build(b, "x"));
  channel.threshold->debounce = 4;
  const auto with = threshold(build(b, "x"));
  EXPECT_FALSE(with->debounce_counted);
  EXPECT_EQ(with->false_trips, without->false_trips);
  EXPECT_NEAR(with->debounce_delay, 0.003, 1e-12);
}

// Whatever the noise: one reading in two passes a code where the quantity stands at it.
TEST(Dynamics, NoiseDoesNotMoveAThreshold) {
  const double q = 2.5 / 4096.0;
  for (const double sigma : {1.0, 40.0, 200.0}) {
    for (const int average : {1, 4, 64}) {
      for (const double code : {1800.0, 1803.0, 1811.0, 2048.0}) {
        auto b = quiet((std::to_string(sigma) + " LSB rms").c_str());
        auto& channel = b.channels.front();
        channel.average.count = average;
        channel.threshold = {.at = code * q, .hysteresis = 20.0 * q};
        const auto t = threshold(build(b, "x"));
        ASSERT_TRUE(t);
        EXPECT_EQ(t->on_code, code);
        EXPECT_NEAR(t->on / q, code - 0.5 / average, 0.02 + 0.02 * sigma / std::sqrt(average))
            << sigma << " " << average;
        EXPECT_NEAR(t->off / q, code - 20.0 - 0.5 / average,
                    0.02 + 0.02 * sigma / std::sqrt(average))
            << sigma << " " << average;
      }
    }
  }
}

// The hysteresis that is named keeps the trips as few as is asked, and a hundredth less does not.
TEST(Dynamics, HysteresisForTheTripsThatAreAllowed) {
  auto b = quiet("1.3 LSB rms");
  b.converters.front().max_rate = 1000.0;
  auto& channel = b.channels.front();
  channel.threshold = {.at = 1.0, .hysteresis = 0.0, .false_trip_every = 1e3};
  const auto needed = threshold(build(b, "x"))->needed;
  ASSERT_TRUE(needed);
  for (const auto& [part, holds] : {std::pair{1.002, true}, std::pair{0.9, false}}) {
    channel.threshold->hysteresis = *needed * part;
    EXPECT_EQ(*threshold(build(b, "x"))->false_trips <= 1e-3, holds) << part;
  }
}

// The code that the firmware compares with, and where it really changes.
TEST(Dynamics, Thresholds) {
  auto b = quiet();
  b.channels.front().threshold = {.at = 1.0, .hysteresis = 0.1};
  const auto chain = build(b, "x");
  const auto t = threshold(chain);
  ASSERT_TRUE(t);
  EXPECT_EQ(t->on_code, 1638.0);   // 1638.4
  EXPECT_EQ(t->off_code, 1475.0);  // 1474.56
  EXPECT_NEAR(t->on, 1637.5 * 2.5 / 4096.0, 1e-12);
  EXPECT_NEAR(t->off, 1474.5 * 2.5 / 4096.0, 1e-12);
  EXPECT_NEAR(time_between_steps(chain, 1.0, 1e-3), 0.6103515625, 1e-9);
}

// A tare takes away what is fixed; the noise of the tare itself comes in.
TEST(Dynamics, Tare) {
  auto b = quiet("2 LSB rms");
  b.converters.front().offset = value("±50 LSB", "V");
  b.converters.front().gain = value("±10 LSB", "V");
  auto tared = b;
  tared.channels.front().scaling.tare = 0.5;
  const auto plain = build(b, "x"), chain = build(tared, "x");
  EXPECT_NEAR(reading_noise(chain, 1.5), std::numbers::sqrt2 * reading_noise(plain, 1.5), 1e-9);
  const auto budget = budget::evaluate(chain, {.at = {1.5}});
  const auto& point = budget.points.front();
  EXPECT_NEAR(point.contributions.at(source(chain, "adc offset tolerance")).contribution, 0.0,
              1e-12);
  // 10 LSB at full scale grow by (1.5 - 0.5) V of 2.5 V since the tare.
  EXPECT_NEAR(point.contributions.at(source(chain, "adc gain tolerance")).contribution,
              10.0 / std::sqrt(3.0) * 2.5 / 4096.0 * 1.0 / 2.5, 1e-7);
  // Units with another offset read the same, one by one.
  math::RandomStream a(5, 1), c(5, 1);
  const auto off =
      simulate::with_deviations(chain, {{source(chain, "adc offset tolerance"), 40.0}});
  const auto none = simulate::with_deviations(chain, {});
  EXPECT_NEAR(testing::plain_reading(chain, off, 1.5, a),
              testing::plain_reading(chain, none, 1.5, c), 1e-9);
}

}  // namespace
}  // namespace tamlo::chain
