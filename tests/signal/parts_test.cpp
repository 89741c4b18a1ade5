// SPDX-License-Identifier: Apache-2.0
// Records that come in parts: asked at any time, merged, and the same as the whole.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "tamlo/error.hpp"
#include "tamlo/math/random.hpp"
#include "tamlo/signal/capture.hpp"
#include "tamlo/signal/step.hpp"

namespace tamlo::signal {
namespace {

using Values = std::vector<double>;
using std::numbers::pi;

Values noise(std::size_t n, std::uint64_t number, double about = 0.0) {
  math::RandomStream stream(21, number);
  Values result(n);
  for (auto& x : result) x = about + stream.normal();
  return result;
}

// In blocks of odd lengths the result is the same to the last bit, and asking changes nothing.
TEST(SpectrumParts, BlocksDoNotMatter) {
  const auto samples = noise(20000, 1);
  const auto whole = spectrum(samples, Window::hann, 1024);
  SpectrumParts parts(Window::hann, 1024);
  const std::span<const double> all(samples);
  for (std::size_t from = 0; from < all.size(); from += 777) {
    parts.add(all.subspan(from, std::min<std::size_t>(777, all.size() - from)));
    if (parts.segments() > 0) parts.result();
  }
  EXPECT_EQ(parts.result().power, whole.power);
  EXPECT_EQ(parts.segments(), 38U);
}

TEST(SpectrumParts, MergeAsStretches) {
  const auto one = noise(8192, 2), other = noise(8192, 3);
  SpectrumParts first(Window::blackman_harris, 512), second(Window::blackman_harris, 512);
  first.add(one);
  second.add(other);
  const auto a = first.result(), b = second.result();
  first.merge(second);
  const auto both = first.result();
  EXPECT_EQ(both.segments, 62U);
  for (std::size_t k = 0; k < both.power.size(); ++k) {
    EXPECT_NEAR(both.power[k], (a.power[k] + b.power[k]) / 2.0, 1e-14);
  }
}

// The same as every overlap of the whole array gives: of what can be held all of them. Of a longer
// record what overlaps in full, averages of up to 16 and those that were asked for; the others say
// that they do not, and lie within what leaving out overlaps may change.
TEST(StabilityParts, AgreeWithTheWholeArray) {
  const std::vector<std::uint64_t> asked{10, 100, 4096};
  for (const std::size_t count : {std::size_t{200'000}, StabilityParts::most_held + 50'000}) {
    auto values = noise(count, 4, 1234.5);
    double walk = 0.0;
    math::RandomStream stream(22, 0);
    for (auto& x : values) x += walk += 0.002 * stream.normal();
    StabilityParts parts(asked);
    const std::span<const double> all(values);
    for (std::size_t from = 0; from < all.size(); from += 1237) {
      parts.add(all.subspan(from, std::min<std::size_t>(1237, all.size() - from)));
    }
    const auto found = parts.result();
    std::vector<std::uint64_t> times;
    for (const auto& d : found.deviations) times.push_back(d.averaged);
    EXPECT_TRUE(std::ranges::includes(times, asked));
    EXPECT_TRUE(std::ranges::is_sorted(times));
    const auto whole = stability(values, times);
    ASSERT_EQ(found.deviations.size(), whole.deviations.size());
    const bool held = count <= StabilityParts::most_held;
    for (std::size_t i = 0; i < found.deviations.size(); ++i) {
      const auto &f = found.deviations[i], &w = whole.deviations[i];
      const bool full = held || f.averaged <= 16 || std::ranges::count(asked, f.averaged) > 0;
      EXPECT_EQ(f.stride, full ? 1 : f.averaged / 16) << f.averaged;
      const double within = full ? 1e-9 : 0.3 * (w.high - w.low) / w.deviation;
      EXPECT_NEAR(f.deviation / w.deviation, 1.0, within) << f.averaged;
      EXPECT_EQ(f.kind, w.kind) << f.averaged;
    }
    EXPECT_EQ(found.best, whole.best);
  }
  EXPECT_THROW(StabilityParts({0}), ArgumentError);
  EXPECT_THROW(StabilityParts({StabilityParts::most_held}), ArgumentError);
}

// Machines that each had a stretch: the squares and their numbers add up.
TEST(StabilityParts, MergeAsStretches) {
  const auto one = noise(50000, 5), other = noise(30000, 6);
  StabilityParts first, second;
  first.add(one);
  second.add(other);
  const auto a = first.result(), b = second.result();
  first.merge(second);
  const auto both = first.result();
  for (std::size_t i = 0; i < b.deviations.size(); ++i) {
    const auto m = static_cast<double>(b.deviations[i].averaged);
    const double terms_a = 50001.0 - 2.0 * m, terms_b = 30001.0 - 2.0 * m;
    const double squares = terms_a * std::pow(a.deviations[i].deviation, 2) +
                           terms_b * std::pow(b.deviations[i].deviation, 2);
    EXPECT_NEAR(both.deviations[i].deviation, std::sqrt(squares / (terms_a + terms_b)), 1e-12) << m;
  }
  // In the other order too.
  StabilityParts again;
  again.add(other);
  StabilityParts head;
  head.add(one);
  again.merge(head);
  for (std::size_t i = 0; i < both.deviations.size(); ++i) {
    EXPECT_NEAR(again.result().deviations[i].deviation / both.deviations[i].deviation, 1.0, 1e-15);
  }
}

TEST(Capture, MergesToTheHistogramAndMomentsOfBoth) {
  Capture one, other, whole;
  Values codes;
  math::RandomStream stream(23, 0);
  for (int i = 0; i < 5000; ++i) codes.push_back(std::round(700.0 + 3.0 * stream.normal()));
  const std::span<const double> all(codes);
  one.add(all.first(1800));
  other.add(all.subspan(1800));
  whole.add(all);
  one.merge(other);
  EXPECT_EQ(one.count(), 5000U);
  for (std::int64_t code = 680; code <= 720; ++code) {
    EXPECT_EQ(one.histogram().at(code), whole.histogram().at(code)) << code;
  }
  EXPECT_DOUBLE_EQ(one.moments().variance(), whole.moments().variance());
  EXPECT_EQ(whole.head().size(), 5000U);
  EXPECT_EQ(whole.spectrum().segment, 4096U);  // shorter than a segment of a long record
}

// However long: so many stretches, all of them together the whole, and no extreme lost.
TEST(Chart, LosesNoExtreme) {
  for (const std::size_t n : {1UL, 7UL, 64UL, 65UL, 1000UL, 100001UL}) {
    auto values = noise(n, n);
    values[n / 3] = 50.0;
    values[2 * n / 3] = -60.0;
    Chart chart(64);
    const std::span<const double> all(values);
    for (std::size_t from = 0; from < n; from += 331) {
      chart.add(all.subspan(from, std::min<std::size_t>(331, n - from)));
    }
    const auto stretches = chart.stretches();
    ASSERT_LE(stretches.size(), 64U);
    std::uint64_t next = 0;
    double low = 1e9, high = -1e9, sum = 0.0;
    for (const auto& s : stretches) {
      ASSERT_EQ(s.first, next);
      ASSERT_GE(s.count, 1U);
      next += s.count;
      low = std::min(low, s.low);
      high = std::max(high, s.high);
      sum += s.mean * static_cast<double>(s.count);
    }
    EXPECT_EQ(next, n);
    EXPECT_EQ(low, *std::ranges::min_element(values));
    EXPECT_EQ(high, *std::ranges::max_element(values));
    EXPECT_NEAR(sum,
                Moments{[&] {
                  Moments m;
                  m.add(values);
                  return m;
                }()}
                        .mean() *
                    static_cast<double>(n),
                1e-8);
  }
}

// Of steady records one in a hundred seems to move; of one that moves the slope is right.
TEST(Trend, IsSeenWhereItIsOne) {
  int false_alarms = 0, seen = 0, within = 0;
  constexpr int records = 400;
  constexpr double slope = 2e-5;
  for (std::uint64_t r = 0; r < records; ++r) {
    auto values = noise(20000, 100 + r);
    Chart still;
    still.add(values);
    false_alarms += trend(still).moves ? 1 : 0;
    for (std::size_t i = 0; i < values.size(); ++i) values[i] += slope * static_cast<double>(i);
    Chart moving;
    moving.add(values);
    const auto found = trend(moving);
    seen += found.moves ? 1 : 0;
    within += std::abs(found.slope - slope) < 1.96 * found.standard_uncertainty ? 1 : 0;
  }
  EXPECT_LE(false_alarms, 10);
  EXPECT_EQ(seen, records);  // 16 standard deviations
  EXPECT_NEAR(within / static_cast<double>(records), 0.95, 0.035);
  EXPECT_FALSE(trend(Chart{}).moves);
}

// Times of a low-pass: ln 2 tau, ln 9 tau, ln 100 tau; and of a pair of poles that rings, the
// overshoot exp(-pi zeta / sqrt(1 - zeta^2)).
TEST(Step, TimesOfKnownAnswers) {
  constexpr double tau = 40.0, step_at = 500.3;
  const double bands[] = {0.01, 0.001};
  for (const double sign : {1.0, -1.0}) {
    Values values;
    for (int i = 0; i < 2000; ++i) {
      values.push_back(10.0 +
                       sign * (i < step_at ? 0.0 : 5.0 * (1.0 - std::exp(-(i - step_at) / tau))));
    }
    for (const bool told : {true, false}) {
      const auto s = step(values, told ? std::optional(step_at) : std::nullopt, bands);
      EXPECT_NEAR(s.before, 10.0, 1e-12);
      EXPECT_NEAR(s.after, 10.0 + 5.0 * sign, 1e-9);
      EXPECT_NEAR(s.step_at, step_at, told ? 0.0 : 1.2);
      EXPECT_NEAR(s.delay, std::log(2.0) * tau, told ? 0.1 : 1.3);
      EXPECT_NEAR(s.rise, std::log(9.0) * tau, 0.2);
      EXPECT_EQ(s.overshoot, 0.0);
      EXPECT_NEAR(*s.settling[0].time, std::log(100.0) * tau, told ? 1.1 : 2.0);
      EXPECT_NEAR(*s.settling[1].time, std::log(1000.0) * tau, told ? 1.1 : 2.0);
    }
  }
  constexpr double zeta = 0.3, omega = 0.05;
  const double damped = omega * std::sqrt(1.0 - zeta * zeta);
  Values ringing(3000, 0.0);
  for (int i = 300; i < 3000; ++i) {
    const double t = i - 300;
    ringing[static_cast<std::size_t>(i)] =
        1.0 -
        std::exp(-zeta * omega * t) *
            (std::cos(damped * t) + zeta / std::sqrt(1.0 - zeta * zeta) * std::sin(damped * t));
  }
  EXPECT_NEAR(step(ringing, 300.0, bands).overshoot,
              std::exp(-pi * zeta / std::sqrt(1.0 - zeta * zeta)), 0.002);
}

TEST(Step, SaysWhatCannotBeTold) {
  const double bands[] = {0.01};
  EXPECT_THROW(step(Values(15, 1.0), {}, bands), DataError);
  EXPECT_THROW(step(Values(500, 1.0), {}, bands), DataError);
  EXPECT_THROW(step(noise(500, 7), {}, bands), DataError);
  auto values = noise(1000, 8);
  for (std::size_t i = 500; i < 1000; ++i) values[i] += 50.0;
  EXPECT_FALSE(step(values, {}, bands).settling.front().time);  // 1 % of 50 is below the noise
  Values slow;
  for (int i = 0; i < 1000; ++i)
    slow.push_back(i < 100 ? 0.0 : 1.0 - std::exp((100.0 - i) / 400.0));
  EXPECT_FALSE(step(slow, {}, bands).settling.front().time);  // still moving at the end
}

}  // namespace
}  // namespace tamlo::signal
