// SPDX-License-Identifier: Apache-2.0
// Records of virtual units against the descriptions that they were drawn from.
#include "tamlo/record/verdict.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "boards.hpp"
#include "tamlo/error.hpp"
#include "tamlo/simulate/sampler.hpp"

namespace tamlo::record {
namespace {

using simulate::Sampler;

chain::Chain pack(double rate = 1000.0) {
  auto board = testing::pack_voltage();
  board.channels.front().rate = rate;
  return chain::build(board, "x");
}

signal::Capture captured(const chain::Chain& chain, const Sampler::Settings& settings,
                         Input input) {
  signal::Capture capture(capture_options(chain, settings.shows, input));
  Sampler sampler(chain, chain, simulate::draw(chain, settings.seed, settings.number), settings);
  for (auto block = sampler.next(4096); !block.empty(); block = sampler.next(4096)) {
    capture.add(block);
  }
  return capture;
}

// 95 of 100 records, of codes and of readings, are as predicted; ten times the noise, or half of
// it, is told.
TEST(Verdict, NoiseIsJudgedAsOftenAsIsSaid) {
  auto chain = pack();
  const auto quiet = [&] {
    auto of = chain;
    for (auto& s : of.sources) {
      if (s.kind() == chain::Kind::noise) s.standard_uncertainty *= 0.5, s.limit *= 0.5;
    }
    return of;
  }();
  for (const auto shows : {Shows::codes, Shows::readings}) {
    int meets_prediction = 0;
    constexpr int units = 300 / testing::fewer;
    for (std::uint64_t number = 1; number <= units; ++number) {
      const Sampler::Settings settings{
          .stimulus = {.from = 20.0 + 0.1 * static_cast<double>(number)},
          .shows = shows,
          .rate = 1000.0,
          .samples = 2000,
          .seed = 5,
          .number = number};
      const auto verdict = judge(chain, shows, {}, captured(chain, settings, Input::steady), 0.0);
      meets_prediction += verdict.steady->differs == 0 ? 1 : 0;
      EXPECT_NEAR(verdict.at, settings.stimulus.from, 0.3);
      if (number > 20) continue;
      const auto less = judge(chain, shows, {}, captured(quiet, settings, Input::steady), 0.0);
      EXPECT_EQ(less.steady->differs, -1);
      const auto more = judge(quiet, shows, {}, captured(chain, settings, Input::steady), 0.0);
      EXPECT_EQ(more.steady->differs, 1);
      EXPECT_FALSE(more.meets_prediction());
    }
    EXPECT_NEAR(meets_prediction / static_cast<double>(units), 0.95,
                0.035 + testing::scatter(units) / units)
        << name(shows);
  }
}

// The mains are found, named beside what was predicted, and do not count as noise.
TEST(Verdict, TonesAreNotNoise) {
  auto board = testing::pack_voltage();
  board.channels.front().rate = 1000.0;
  board.channels.front().interference.push_back({.frequency = {50.0}, .amplitude = 5e-3});
  const auto chain = chain::build(board, "x");
  int meets_prediction = 0;
  for (std::uint64_t number = 1; number <= 100; ++number) {
    const Sampler::Settings settings{
        .stimulus = {.from = 48.0}, .rate = 1000.0, .samples = 20000, .number = number};
    const auto v = judge(chain, Shows::codes, {}, captured(chain, settings, Input::steady), 1000.0);
    ASSERT_EQ(v.steady->tones.size(), 1U);
    EXPECT_NEAR(v.steady->tones[0].frequency, 0.05, 1e-6);
    const double amplitude = 5e-3 / (2.5 / 4096);
    EXPECT_NEAR(std::sqrt(2.0 * v.steady->tones[0].power), amplitude, 0.05);
    EXPECT_NEAR(v.steady->tones_predicted[0], amplitude, 1e-9);
    meets_prediction += v.steady->differs == 0 ? 1 : 0;
    EXPECT_TRUE(v.steady->normal);
    EXPECT_TRUE(v.steady->missing.empty());
  }
  EXPECT_GE(meets_prediction, 88);
  // Two wild samples among them are told; the codes on the way to them are not missing.
  const Sampler::Settings settings{.stimulus = {.from = 48.0}, .rate = 1000.0, .samples = 5000};
  auto wild = captured(chain, settings, Input::steady);
  wild.add(std::vector<double>{3.0, 4090.0});
  const auto v = judge(chain, Shows::codes, {}, wild, 1000.0);
  EXPECT_FALSE(v.steady->normal);
  EXPECT_TRUE(v.steady->missing.empty());
}

// 1/f noise of a known corner, made as a sum of slow parts.
TEST(Verdict, TheCornerIsFound) {
  auto board = testing::board();
  board.channels.front().rate = 1000.0;
  board.channels.front().frontend.push_back(model::Amplifier{.gain = testing::value("1", ""),
                                                             .noise_density = 40e-6,
                                                             .noise_corner = 20.0,
                                                             .bandwidth = 400.0});
  const auto chain = chain::build(board, "x");
  signal::Capture capture(capture_options(chain, Shows::codes, Input::steady));
  Sampler sampler(chain, chain, simulate::nominal(chain),
                  {.stimulus = {.from = 1.2}, .rate = 1000.0, .samples = 1 << 20});
  for (auto b = sampler.next(4096); !b.empty(); b = sampler.next(4096)) capture.add(b);
  const auto v = judge(chain, Shows::codes, {}, capture, 1000.0);
  const auto& floor = v.steady->floor;
  ASSERT_GT(floor.corner, 5.0 * floor.corner_standard);
  // The white part passes 628 Hz and folds into 500 Hz; the 1/f part passes about as it is.
  EXPECT_NEAR(floor.corner * 1000.0, 20.0 * 500.0 / 628.0, 5.0);
  EXPECT_EQ(v.steady->differs, 0);
}

// Of a sound unit so few samples that codes stay out by chance: none of them is called missing, and
// no verdict is given that they cannot carry.
TEST(Verdict, FewSamplesOfASineDecideNothing) {
  const auto chain = pack();
  for (const std::uint64_t samples : {8000U, 400000U}) {
    const Sampler::Settings settings{.stimulus = {.input = signal::Input::sine,
                                                  .from = -1.0,
                                                  .to = 63.6,
                                                  .frequency = 7.1234567},
                                     .rate = 1000.0,
                                     .samples = samples};
    const Feed feed{.input = Input::sine, .low = -1.0, .high = 63.6};
    const auto v = judge(chain, Shows::codes, feed, captured(chain, settings, Input::sine), 1000.0);
    ASSERT_TRUE(v.linearity_assessment);
    const auto& s = *v.linearity_assessment;
    const bool few = samples < 10000;
    EXPECT_EQ(s.linearity.unseen > 100, few);
    EXPECT_TRUE(s.linearity.missing.empty()) << s.linearity.missing.size();
    EXPECT_FALSE(s.dnl_beyond || s.inl_beyond);
    EXPECT_TRUE(s.undecided);  // even the many leave an INL of random phases to some LSB
  }
  // Two samples a code of a ramp, with noise: they come in any order.
  const Feed ramp{.input = Input::ramp, .low = -1.0, .high = 63.6};
  for (std::uint64_t number = 1; number <= 5; ++number) {
    const Sampler::Settings two_each{
        .stimulus = {.input = signal::Input::ramp, .from = -1.0, .to = 63.6},
        .rate = 1000.0,
        .samples = 9000,
        .number = number};
    const auto v = judge(chain, Shows::codes, ramp, captured(chain, two_each, Input::ramp), 1000.0);
    EXPECT_TRUE(v.linearity_assessment->undecided);
    EXPECT_TRUE(v.linearity_assessment->non_monotonic_codes->empty());
    EXPECT_TRUE(v.meets_prediction());
  }
  const Sampler::Settings too_few{
      .stimulus = {.input = signal::Input::ramp, .from = -1.0, .to = 63.6},
      .rate = 1000.0,
      .samples = 4000};
  EXPECT_THROW(judge(chain, Shows::codes, ramp, captured(chain, too_few, Input::ramp), 1000.0),
               DataError);
}

// INL, DNL and missing codes of a bent unit: within what is said, as often as it is said; offset
// and gain within what is expected of the channel.
TEST(Verdict, RampsAndSinesShowTheBend) {
  const auto chain = pack();
  for (const auto input : {Input::ramp, Input::sine}) {
    int within = 0, all = 0;
    double worst = 0.0;
    for (std::uint64_t number = 1; number <= 6; ++number) {
      Sampler::Settings settings{
          .stimulus = {.input = signal::Input::ramp, .from = -1.0, .to = 63.6},
          .flaws = {.bend = simulate::Bend::s_curve, .inl = 1.2, .missing = {1000}},
          .rate = 1000.0,
          .samples = 400000,
          .number = number};
      if (input == Input::sine) {
        settings.stimulus.input = signal::Input::sine;
        settings.stimulus.frequency = simulate::coherent(7.0, 1000.0, settings.samples);
      }
      const Feed feed{.input = input, .low = -1.0, .high = 63.6};
      const auto capture = captured(chain, settings, input);
      const auto v = judge(chain, Shows::codes, feed, capture, 1000.0);
      ASSERT_TRUE(v.linearity_assessment);
      const auto& s = *v.linearity_assessment;
      EXPECT_EQ(s.linearity.missing, std::vector<std::int64_t>{1000});
      EXPECT_TRUE(s.dnl_beyond);
      EXPECT_FALSE(s.undecided);
      EXPECT_LT(std::abs(*s.offset), 2.0 * *s.offset_expected);
      EXPECT_LT(std::abs(*s.gain), 2.0 * *s.gain_expected);
      if (input == Input::ramp) {
        EXPECT_TRUE(s.non_monotonic_codes && s.non_monotonic_codes->empty());
      }
      const auto& l = s.linearity;
      for (std::size_t j = 0; j < l.inl_end_point.size(); ++j) {
        if (j > 990 && j < 1010) continue;
        // A transition comes late by as much as the code is bent down.
        const double part = (static_cast<double>(j) + 1.5) / 4096.0;
        const double bend = -1.2 * simulate::bent(simulate::Bend::s_curve, part);
        const double off = std::abs(l.inl_end_point[j] - bend);
        within += off < 1.96 * l.inl_standard[j] + 0.005 ? 1 : 0;
        worst = std::max(worst, off);
        ++all;
      }
    }
    EXPECT_NEAR(within / static_cast<double>(all), 0.95, 0.04) << name(input);
    EXPECT_LT(worst, 0.4) << name(input);
  }
}

TEST(Verdict, CodesThatFallAreNamed) {
  const auto chain = chain::build(testing::board({.bits = 8}), "x");
  signal::Capture up(capture_options(chain, Shows::codes, Input::ramp));
  std::vector<double> codes;
  for (int i = 0; i < 25600; ++i)
    codes.push_back(i / 100 == 77 ? 80 : i / 100 == 80 ? 77 : i / 100);
  up.add(codes);
  const auto v = judge(chain, Shows::codes, {.input = Input::ramp}, up, 0.0);
  EXPECT_EQ(*v.linearity_assessment->non_monotonic_codes, (std::vector<std::int64_t>{78, 80}));
  EXPECT_FALSE(v.meets_prediction());
}

// What was measured comes back as the converter's own noise, and as the table of the bend.
TEST(Measured, FindsWhatWasPutIn) {
  auto chain = pack();
  auto noisy = chain;
  for (auto& s : noisy.sources) {
    if (s.parameter == chain.conversion.noise) s.standard_uncertainty = s.limit = 1.7;
  }
  const Sampler::Settings settings{.stimulus = {.from = 31.0}, .rate = 1000.0, .samples = 100000};
  const auto v = judge(chain, Shows::codes, {}, captured(noisy, settings, Input::steady), 1000.0);
  const auto noise = measured(chain, v).noise;
  ASSERT_TRUE(noise);
  EXPECT_NEAR(noise->value, 1.7, 0.02);
  EXPECT_LT(noise->low, 1.7);
  EXPECT_GT(noise->high, 1.7);
  const Sampler::Settings bent{.stimulus = {.input = signal::Input::ramp, .from = -1.0, .to = 63.6},
                               .flaws = {.inl = 2.0},
                               .rate = 1000.0,
                               .samples = 400000};
  const auto ramp = judge(chain, Shows::codes, {.input = Input::ramp, .low = -1.0, .high = 63.6},
                          captured(chain, bent, Input::ramp), 1000.0);
  const auto m = measured(chain, ramp);
  ASSERT_GT(m.inl.size(), 800U);
  for (const auto& point : m.inl) {
    EXPECT_NEAR(point.inl, 2.0 * simulate::bent(simulate::Bend::bow, point.code / 4096.0), 0.4);
  }
  ASSERT_TRUE(m.correction);
  // Corrected, the codes of the unit read as the ramp was.
  const auto unit = simulate::draw(chain, 1, 1);
  for (const double x : {5.0, 30.0, 55.0}) {
    const double code = chain::code(chain, x, unit.parameters);
    const double reading = chain::exact_reading(chain, code);
    EXPECT_NEAR(chain::corrected(*m.correction, reading), x, 0.03) << reading - x;
  }
  Verdict nothing;
  EXPECT_FALSE(measured(chain, nothing).reason.empty());
}

// A sine: what is left is predicted; a tenth of the range in INL is not.
TEST(Verdict, SinesAreJudged) {
  const auto chain = pack();
  for (const double inl : {0.0, 8.0}) {
    Sampler::Settings settings{.stimulus = {.input = signal::Input::sine, .from = 2.0, .to = 58.0},
                               .flaws = {.inl = inl},
                               .rate = 1000.0,
                               .samples = 65536};
    settings.stimulus.frequency = simulate::coherent(97.0, 1000.0, settings.samples);
    const auto v = judge(chain, Shows::codes, {.input = Input::sine},
                         captured(chain, settings, Input::sine), 1000.0);
    ASSERT_TRUE(v.wave);
    EXPECT_EQ(v.wave->worse, inl > 0.0);
    EXPECT_TRUE(v.wave->coherent);
    EXPECT_NEAR(v.wave->fit.frequency * 1000.0, settings.stimulus.frequency, 1e-5);
    EXPECT_FALSE(v.linearity_assessment);  // it does not reach the ends
    if (inl == 0.0) {
      EXPECT_NEAR(v.wave->enob, 12.0 - std::log2(std::sqrt(12.0 * (0.36 + 1.0 / 12.0))), 0.05);
    }
    if (inl > 0.0) {
      EXPECT_EQ(v.wave->figures.harmonics[0].order, 2);
    }
  }
  signal::Capture still;
  still.add(std::vector<double>(100, 7.0));
  EXPECT_THROW(judge(chain, Shows::codes, {.input = Input::sine}, still, 0.0), DataError);
  EXPECT_THROW(judge(chain, Shows::codes, {.input = Input::ramp}, still, 0.0), DataError);
  EXPECT_THROW(judge(chain, Shows::readings, {.input = Input::ramp}, still, 0.0), DataError);
}

// Steps of readings through an average and a filter, and of codes through a low-pass, are as
// predicted.
TEST(Verdict, StepsAreAsPredicted) {
  auto board = testing::pack_voltage();
  auto& channel = board.channels.front();
  channel.rate = 1000.0;
  channel.filter.push_back(model::Exponential{.time_constant = 0.1});
  channel.frontend.push_back(model::Lowpass{.resistor = testing::value("1 kohm", "ohm"),
                                            .capacitor = testing::value("2 uF", "F")});
  const auto chain = chain::build(board, "x");
  for (const auto shows : {Shows::codes, Shows::readings}) {
    const Sampler::Settings settings{
        .stimulus = {.input = signal::Input::step, .from = 5.0, .to = 50.0},
        .shows = shows,
        .rate = 1000.0,
        .samples = 2000};
    signal::Capture capture(capture_options(chain, shows, Input::step));
    Sampler sampler(chain, chain, simulate::nominal(chain), settings);
    const double rate = sampler.rate();
    for (auto b = sampler.next(4096); !b.empty(); b = sampler.next(4096)) capture.add(b);
    const auto v =
        judge(chain, shows, {.input = Input::step, .step_at = sampler.step_at()}, capture, rate);
    ASSERT_TRUE(v.step && v.step_predicted);
    EXPECT_NEAR(v.step->delay, v.step_predicted->delay, 0.05) << name(shows);
    EXPECT_NEAR(v.step->rise, v.step_predicted->rise, 0.1) << name(shows);
    EXPECT_NEAR(*v.step->settling[0].time, *v.step_predicted->settling[0].time, 1.0) << name(shows);
    // By hand: of a low-pass (240||10 + 1 kohm) 2 uF ln 2 tau, of the exponential about its own.
    const double tau = shows == Shows::codes ? 2e-6 * (1000.0 + 240e3 / 25.0) : 0.1;
    EXPECT_NEAR(v.step->rise / rate, std::log(9.0) * tau, 0.12 * std::log(9.0) * tau)
        << name(shows);
  }
}

}  // namespace
}  // namespace tamlo::record
