// SPDX-License-Identifier: Apache-2.0
#include "tamlo/simulate/sampler.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "boards.hpp"
#include "tamlo/error.hpp"
#include "tamlo/record/verdict.hpp"
#include "tamlo/signal/sine.hpp"
#include "tamlo/simulate/detail/stimulus.hpp"

namespace tamlo::simulate {
namespace {

using std::numbers::pi;

chain::Chain plain(int bits = 16, double rate = 10000.0) {
  auto board = testing::board({.bits = bits});
  board.channels.front().rate = rate;
  return chain::build(board, "x");
}

std::vector<double> all(const chain::Chain& chain, const Sampler::Settings& settings) {
  Sampler sampler(chain, chain, nominal(chain), settings);
  std::vector<double> result;
  for (auto b = sampler.next(1000); !b.empty(); b = sampler.next(1000)) {
    result.insert(result.end(), b.begin(), b.end());
  }
  return result;
}

TEST(Sampler, TheSameNumbersGiveTheSameSamples) {
  const auto chain = chain::build(
      [] {
        auto b = testing::pack_voltage();
        b.channels.front().rate = 1000.0;
        return b;
      }(),
      "x");
  Sampler::Settings s{.stimulus = {.from = 30.0}, .rate = 1000.0, .samples = 3000, .seed = 4};
  const auto first = all(chain, s);
  EXPECT_EQ(first.size(), 3000U);
  EXPECT_EQ(all(chain, s), first);
  s.run = 1;
  EXPECT_NE(all(chain, s), first);
}

// Ideal unit, known inputs: every code is the floor of the voltage.
TEST(Sampler, ShapesAreWhatTheySay) {
  const auto chain = plain();
  const double lsb = 2.5 / 65536.0;
  const auto code = [&](double volts) { return std::floor(volts / lsb + 0.5); };
  const Sampler::Settings base{.rate = 10000.0, .samples = 4000};
  auto ramp = base, sine = base, step = base, drift = base, hum = base;
  ramp.stimulus = {.input = signal::Input::ramp, .from = 0.5, .to = 2.0, .rounds = 2};
  sine.stimulus = {.input = signal::Input::sine, .from = 0.5, .to = 2.0, .frequency = 77.0};
  step.stimulus = {.input = signal::Input::step, .from = 0.5, .to = 2.0};
  drift.stimulus = {.from = 0.5, .drift = 0.3};
  hum.stimulus = {.from = 0.5, .hum = 0.2, .hum_frequency = 60.0};
  const auto ramps = all(chain, ramp), sines = all(chain, sine), steps = all(chain, step),
             drifts = all(chain, drift), hums = all(chain, hum);
  for (std::size_t i = 0; i < 4000; ++i) {
    const double t = static_cast<double>(i) / 10000.0;
    const double part = t / 0.4 * 2.0;
    EXPECT_NEAR(ramps[i], code(0.5 + 1.5 * (part - std::floor(part))), 1.0) << i;
    EXPECT_NEAR(sines[i], code(1.25 + 0.75 * std::sin(2 * pi * 77.0 * t)), 1.0) << i;
    EXPECT_EQ(steps[i], code(i < 1000 ? 0.5 : 2.0)) << i;
    EXPECT_NEAR(drifts[i], code(0.5 + 0.3 * t), 1.0) << i;
    EXPECT_NEAR(hums[i], code(0.5 + 0.2 * std::sin(2 * pi * 60.0 * t)), 1.0) << i;
  }
}

// A stimulus of a stand-in comes again after its period, and an input that is followed settles as
// the low-pass lets it: within 2 % of exp(-t/tau), as it is held over one conversion.
TEST(Sampler, AnEndlessInputRepeatsOrIsFollowed) {
  auto board = testing::pack_voltage();
  board.channels.front().frontend.push_back(
      model::Lowpass{.resistor = {.nominal = 10e3, .unit = quantity::unit("ohm")},
                     .capacitor = {.nominal = 1e-6, .unit = quantity::unit("F")}});
  const auto chain = chain::build(board, "x");
  simulate::Sampler ramp(chain, chain, simulate::nominal(chain),
                         {.stimulus = {.input = signal::Input::ramp, .from = 0.0, .to = 50.0},
                          .rate = 1000.0,
                          .samples = 1000,
                          .period = 200});
  const auto codes = ramp.next(1000);
  for (std::size_t i = 30; i + 200 < codes.size(); ++i) {
    // The jump back may come one conversion sooner or later.
    const bool jumps = i % 200 < 20 || i % 200 > 195;
    EXPECT_NEAR(codes[i], codes[i + 200], jumps ? 4096.0 : 8.0) << i;
  }
  EXPECT_GT(codes[190], codes[10] + 1000.0);

  ASSERT_FALSE(chain.path.time_constants.empty());
  const double tau = chain.path.time_constants.front(), rate = 20.0 / tau;
  simulate::Sampler followed(chain, chain, simulate::nominal(chain),
                             {.rate = rate, .samples = 1000, .number = 3});
  followed.follow(10.0);
  const auto before = followed.next(50);
  followed.follow(40.0);
  EXPECT_EQ(followed.quantity(), 40.0);
  const auto after = followed.next(200);
  const double low = before.back(), high = after.back();
  for (const std::size_t i : {9u, 19u, 39u, 59u}) {
    const double left = std::exp(-static_cast<double>(i + 1) / 20.0);
    EXPECT_NEAR((high - after[i]) / (high - low), left, 0.02) << i;
  }
  EXPECT_THROW(followed.follow(NAN), ArgumentError);
}

// Jitter makes noise of 2 pi f A sigma / sqrt 2 of a sine.
TEST(Sampler, JitterMovesTheMomentsOfSampling) {
  const auto chain = plain();
  Sampler::Settings s{.stimulus = {.input = signal::Input::sine, .from = 0.25, .to = 2.25},
                      .flaws = {.jitter = 2e-6},
                      .rate = 10000.0,
                      .samples = 65536};
  s.stimulus.frequency = coherent(1000.0, s.rate, s.samples);
  const auto fit = signal::fit_four(all(chain, s));
  EXPECT_NEAR(fit.residual * 2.5 / 65536.0, 2 * pi * s.stimulus.frequency * 2e-6 / std::sqrt(2.0),
              0.02 * 2 * pi * 1000.0 * 2e-6 / std::sqrt(2.0));
}

// Low-passes: a sine comes through as it should, in size and in time.
TEST(Sampler, LowPassesActOnSinesAndRamps) {
  auto board = testing::board({.bits = 20});
  board.channels.front().rate = 10000.0;
  board.channels.front().frontend.push_back(model::Lowpass{
      .resistor = testing::value("10 kohm", "ohm"), .capacitor = testing::value("100 nF", "F")});
  const auto chain = chain::build(board, "x");
  const double tau = 1e-3, f = 200.0, w = 2 * pi * f * tau;
  const Sampler::Settings sine{
      .stimulus = {.input = signal::Input::sine, .from = 0.5, .to = 2.0, .frequency = f},
      .rate = 10000.0,
      .samples = 10000};
  const auto fit = signal::fit_three(all(chain, sine), f / 10000.0);
  EXPECT_NEAR(fit.amplitude * 2.5 / 1048576.0, 0.75 / std::sqrt(1.0 + w * w), 1e-5);
  EXPECT_NEAR(fit.phase, -pi / 2 - std::atan(w), 1e-4);
  const Sampler::Settings ramp{.stimulus = {.input = signal::Input::ramp, .from = 0.0, .to = 2.5},
                               .rate = 10000.0,
                               .samples = 10000};
  EXPECT_NEAR(all(chain, ramp)[5000] / 1048576.0, 0.5 - tau, 1e-5);
}

TEST(Sampler, BendsAndMissingCodes) {
  for (const auto bend : {Bend::bow, Bend::s_curve, Bend::bit_weights}) {
    EXPECT_NEAR(bent(bend, 0.0), 0.0, 1e-12);
    EXPECT_NEAR(bent(bend, 1.0), 0.0, 1e-9);
    double most = 0.0;
    for (int i = 0; i <= 4000; ++i) most = std::max(most, std::abs(bent(bend, i / 4000.0)));
    EXPECT_NEAR(most, 1.0, 0.13);
  }
  const auto chain = plain(8);
  const Sampler::Settings s{.stimulus = {.input = signal::Input::ramp, .from = 0.0, .to = 2.49},
                            .flaws = {.missing = {100, 101, 255}},
                            .rate = 10000.0,
                            .samples = 25600};
  const auto codes = all(chain, s);
  EXPECT_EQ(std::ranges::count(codes, 100.0), 0);
  EXPECT_EQ(std::ranges::count(codes, 101.0), 0);
  EXPECT_GT(std::ranges::count(codes, 102.0), 290);
}

// White noise that a slow low-pass lets through goes over to the next conversion.
TEST(Sampler, NoiseBeforeALowPassCorrelates) {
  auto board = testing::board({.bits = 20});
  auto& channel = board.channels.front();
  channel.rate = 10000.0;
  channel.frontend.push_back(
      model::Amplifier{.gain = testing::value("1", ""), .noise_density = 1e-5});
  channel.frontend.push_back(model::Lowpass{.resistor = testing::value("10 kohm", "ohm"),
                                            .capacitor = testing::value("100 nF", "F")});
  const auto chain = chain::build(board, "x");
  signal::Moments m;
  m.add(all(chain, {.stimulus = {.from = 1.25}, .rate = 10000.0, .samples = 200000}));
  EXPECT_NEAR(m.lag_correlation(), std::exp(-1.0 / (1e-3 * 10000.0)), 0.01);
  EXPECT_NEAR(std::sqrt(m.variance()) * 2.5 / 1048576.0, 1e-5 * std::sqrt(1.0 / (4.0 * 1e-3)),
              6e-6);
}

TEST(BenchMeter, IsWithinItsAccuracyAndRounds) {
  model::Meter meter{.name = "m"};
  model::MeterRange range{.full_scale = {.nominal = 60.0}, .digits = 6000};
  range.accuracy = testing::value("±0.05 %", "V");
  meter.ranges.push_back(range);
  int outside = 0;
  for (std::uint64_t seed = 0; seed < 2000; ++seed) {
    const BenchMeter bench(meter, seed);
    const double shown = *bench.show(40.0);
    EXPECT_NEAR(shown / 0.01, std::round(shown / 0.01), 1e-6);
    outside += std::abs(shown - 40.0) > 2.0 * 0.0005 * 40.0 / std::sqrt(3.0) + 0.005 ? 1 : 0;
    EXPECT_EQ(shown, *BenchMeter(meter, seed).show(40.0));
  }
  EXPECT_LE(outside, 2000 * 0.06);
  EXPECT_FALSE(BenchMeter(meter, 1).show(100.0));
}

TEST(BenchMeter, AThermometerRoundsOnItsOwnScale) {
  const auto celsius = quantity::unit("degC");
  const model::Meter meter{
      .name = "probe",
      .ranges = {{.full_scale = {.nominal = 473.15, .unit = celsius}, .digits = 2000.0}}};
  const BenchMeter bench(meter, 1);
  for (const double x : {-16.63, 0.04, 20.16, 146.55001}) {
    const double shown = quantity::in_unit(bench.show(273.15 + x).value(), celsius);
    EXPECT_NEAR(shown, std::round(10.0 * x) / 10.0, 1e-9) << x;
  }
}

}  // namespace
}  // namespace tamlo::simulate
