// SPDX-License-Identifier: Apache-2.0
// Logs of two clocks, made here from one course of the quantity, and brought together again.
#include "tamlo/meter/detail/join.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <random>

#include "tamlo/error.hpp"

namespace tamlo::meter {
namespace {

using Course = std::function<double(double)>;

constexpr double lasts = 320.0;  // s

double steps(double t) {
  constexpr double levels[] = {8, 15, 24, 31, 38, 45, 52, 58};
  return levels[std::clamp(static_cast<int>(t / 40.0), 0, 7)];
}

struct Logs {
  std::vector<Logged> readings, meter;
};

// The meter's clock is `offset` ahead at the first reading, and runs faster by `drift`.
Logs logs(const Course& course, double offset, double drift, double noise = 0.004,
          double reading_every = 0.1, double meter_every = 0.37) {
  std::mt19937_64 random(20261201);
  std::normal_distribution<double> normal;
  Logs result;
  for (double t = 0.0; t < lasts; t += reading_every)
    result.readings.push_back({t, 1.0006 * course(t) + 0.02 + noise * normal(random)});
  for (double t = -20.0; t < lasts + 15.0; t += meter_every)
    result.meter.push_back({t + offset + drift * t, course(t) + noise / 2.0 * normal(random)});
  return result;
}

TEST(Join, FindsOffsetAndDriftWithinWhatItSays) {
  const struct {
    double offset, drift;
    bool drift_told;  // by steps of 40 s, more than half a second over the log
  } cases[] = {{37.4, 0.0, false}, {-1234.5, 0.0, false}, {0.0, 500e-6, false},
               {37.4, 8e-3, true}, {5.0, -12e-3, true},   {1.7e9, 0.0, false}};
  for (const auto& c : cases) {
    SCOPED_TRACE(c.offset);
    const auto [readings, meter] = logs(steps, c.offset, c.drift);
    const auto joined = join(readings, meter, {.place = 0.001});
    const auto off = [&](double t) {
      return joined.offset + joined.drift * t - c.offset - c.drift * t;
    };
    for (const double t : {0.0, lasts}) EXPECT_LE(std::abs(off(t)), joined.within) << t;
    EXPECT_LE(joined.within, 0.8);
    EXPECT_EQ(joined.drift != 0.0, c.drift_told);
    // No reading beside a value of another position, and most beside one.
    std::size_t count = 0;
    for (std::size_t i = 0; i < readings.size(); ++i) {
      if (!joined.values[i]) continue;
      ++count;
      ASSERT_NEAR(*joined.values[i], steps(readings[i].time), 0.02) << readings[i].time;
    }
    EXPECT_GE(count, readings.size() * 9 / 10);
    EXPECT_EQ(count + joined.outside + joined.in_gaps + joined.moving, readings.size());
  }
}

// Both programs write whole seconds, several values to one: the offset is no better known than
// that.
TEST(Join, TimesOfWholeSecondsTellTheOffsetToSeconds) {
  auto [readings, meter] = logs(steps, 100.0, 0.0);
  for (auto* log : {&readings, &meter}) {
    for (auto& value : *log) value.time = std::floor(value.time);
  }
  const auto joined = join(readings, meter, {.place = 0.01});
  EXPECT_GE(joined.within, 1.0);
  EXPECT_LE(std::abs(joined.offset - 100.0), joined.within);
  EXPECT_EQ(joined.drift, 0.0);
  std::size_t count = 0;
  for (std::size_t i = 0; i < readings.size(); ++i) {
    if (!joined.values[i]) continue;
    ++count;
    ASSERT_NEAR(*joined.values[i], readings[i].value, 0.1) << readings[i].time;
  }
  EXPECT_GE(count, readings.size() * 3 / 4);
}

TEST(Join, ATakenOffsetIsTakenAndGapsAndEndsAreLeftOut) {
  auto [readings, meter] = logs(steps, 10.0, 0.0);
  std::erase_if(meter, [](const Logged& m) { return m.time > 110.0 && m.time < 125.0; });
  std::erase_if(meter, [](const Logged& m) { return m.time < 30.0; });
  const auto joined =
      join(readings, meter, {.offset = 10.0, .place = 0.001, .rest = 0.05, .settling = 3.0});
  EXPECT_EQ(joined.offset, 10.0);
  EXPECT_EQ(joined.within, 0.0);
  EXPECT_NEAR(static_cast<double>(joined.outside), 200.0, 5.0);  // 20 s of 0.1 s
  EXPECT_NEAR(static_cast<double>(joined.in_gaps), 150.0, 8.0);
  // Seven steps and the beginning: 3 s after each, and a distance of the meter.
  EXPECT_NEAR(static_cast<double>(joined.moving), 8 * 32.0, 20.0);
}

TEST(Join, RefusesLogsThatDoNotTellTheirOffset) {
  const auto refused = [](const Logs& of, const JoinRequest& request = {}) -> std::string {
    try {
      join(of.readings, of.meter, request);
    } catch (const DataError& error) {
      return error.what();
    }
    return "";
  };
  const auto flat = logs([](double) { return 30.0; }, 3.0, 0.0);
  EXPECT_NE(refused(flat).find("do not tell how far"), std::string::npos);
  EXPECT_EQ(refused(flat, {.offset = 3.0}), "");
  const auto ramp = logs([](double t) { return 0.1 * t; }, 3.0, 0.0);
  EXPECT_NE(refused(ramp), "");
  const auto wave =
      logs([](double t) { return std::fmod(t, 40.0) < 20.0 ? 10.0 : 20.0; }, 3.0, 0.0);
  EXPECT_NE(refused(wave).find("fit as well"), std::string::npos);
  auto few = logs(steps, 3.0, 0.0);
  few.meter.resize(7);
  EXPECT_NE(refused(few).find("7 values"), std::string::npos);
  auto back = logs(steps, 3.0, 0.0);
  std::swap(back.readings[10], back.readings[20]);
  EXPECT_NE(refused(back).find("do not rise"), std::string::npos);
}

}  // namespace
}  // namespace tamlo::meter
