// SPDX-License-Identifier: Apache-2.0
// What noise makes of a reading, value by value, against conversions that are made one by one: by
// the standard library's numbers, and roundings, ends and formats written out here.
#include "tamlo/chain/detail/reading_distribution.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <map>
#include <random>
#include <string>
#include <vector>

#include "boards.hpp"
#include "tamlo/chain/detail/reading_sampler.hpp"

namespace tamlo::chain {
namespace {

using Format = model::RegisterFormat::Kind;
using Value = std::function<std::int64_t(std::int64_t code)>;

// A converter of 8 bits, of which both ends are near, and what its register shows for a code.
struct Reported {
  const char* name;
  model::RegisterFormat format;
  Value value;
};
const Reported ways_to_report[] = {
    {"plain", {}, [](std::int64_t code) { return code; }},
    {"left-aligned", {.kind = Format::shifted, .bits = 12}, [](auto code) { return 16 * code; }},
    {"dropped",
     {.kind = Format::dropped, .bits = 2},
     [](auto code) { return (code - code % 4) / 4; }},
    {"divided", {.kind = Format::divided, .divisor = 3}, [](auto code) { return code / 3; }},
    {"widened",
     {.kind = Format::replicated, .bits = 10},
     [](auto code) { return 4 * code + code / 64; }},
};

model::Board board_of(const Reported& reported, double noise, int average) {
  auto result = testing::board({.bits = 8, .span = "0..2.49 V"});
  auto& converter = result.converters.front();
  converter.reporting = reported.format;
  converter.noise = testing::value((std::to_string(noise) + " LSB rms").c_str(), "V");
  result.channels.front().average.count = average;
  return result;
}

struct Moments {
  double mean = 0.0, variance = 0.0;
};
Moments moments_of(const std::map<double, double>& probabilities) {
  Moments result;
  double sum = 0.0;
  for (const auto& [value, p] : probabilities) sum += p, result.mean += p * value;
  result.mean /= sum;
  for (const auto& [value, p] : probabilities) {
    result.variance += p / sum * std::pow(value - result.mean, 2);
  }
  return result;
}

// Sums of as many register values, each of a conversion of its own.
std::map<double, double> converted(const Value& value, double unquantised, double noise,
                                   int average, int readings) {
  std::mt19937_64 random(4711);
  std::normal_distribution<double> normal(0.0, noise);
  std::map<double, double> result;
  for (int i = 0; i < readings; ++i) {
    std::int64_t sum = 0;
    for (int k = 0; k < average; ++k) {
      const auto code = std::lround(std::clamp(unquantised + normal(random), 0.0, 255.0));
      sum += value(code);
    }
    result[static_cast<double>(sum) / average] += 1.0 / readings;
  }
  return result;
}

// The largest distance of two distributions whose values are the same multiples.
double apart(const std::map<double, double>& a, const std::map<double, double>& b) {
  std::map<double, double> change;
  for (const auto& [value, p] : a) change[value] += p;
  for (const auto& [value, p] : b) change[value] -= p;
  double sum = 0.0, result = 0.0;
  for (const auto& [value, p] : change) result = std::max(result, std::abs(sum += p));
  return result;
}

// In the middle of the codes, on an edge between two, near an end, and beyond it.
TEST(ReadingDistribution, OutcomesAreThoseOfConversionsMadeOneByOne) {
  constexpr int readings = 20'000 / testing::fewer;
  // Kolmogorov: more comes by chance once in 3e5 distributions.
  const double chance = 2.6 / std::sqrt(readings);
  for (const auto& reported : ways_to_report) {
    for (const double noise : {0.02, 0.4, 2.5}) {
      for (const int average : {1, 3, 16}) {
        const auto chain = build(board_of(reported, noise, average), "x");
        const ReadingDistribution reading(chain, 1.2);
        for (const double unquantised : {120.0, 127.5, 1.1, 254.9, -0.6}) {
          SCOPED_TRACE(::testing::Message() << reported.name << ", noise " << noise << ", average "
                                            << average << ", at " << unquantised);
          std::map<double, double> outcomes;
          double all = 0.0;
          for (const auto& [value, probability] : reading.outcomes(unquantised)) {
            EXPECT_GE(probability, 0.0);
            all += probability;
            // What is a multiple of a fraction, as it is divided here too.
            outcomes[std::round(value * average) / average] += probability;
          }
          EXPECT_NEAR(all, 1.0, 1e-9);
          const auto found = converted(reported.value, unquantised, noise, average, readings);
          EXPECT_LT(apart(outcomes, found), chance);
          const auto told = moments_of(outcomes), seen = moments_of(found);
          const double scatter = std::sqrt(told.variance / readings);
          EXPECT_NEAR(told.mean, seen.mean, 5.0 * scatter + 1e-9);
          if (average > 1) continue;
          const auto moments = reported_moments(chain, unquantised, noise);
          EXPECT_NEAR(moments.mean, told.mean, 1e-9);
          EXPECT_NEAR(moments.variance, told.variance, 1e-9 + 1e-9 * told.variance);
        }
      }
    }
  }
}

// Readings that are drawn conversion by conversion have the distribution that is summed up.
TEST(ReadingDistribution, IsThatOfReadingsThatAreDrawn) {
  constexpr std::size_t readings = 20 * 1024 / testing::fewer;
  const double chance = 2.6 / std::sqrt(static_cast<double>(readings));
  for (const auto& reported : ways_to_report) {
    for (const double x : {0.004, 1.2, 1.2049, 2.48}) {
      for (const int average : {1, 5, 64}) {
        SCOPED_TRACE(::testing::Message() << reported.name << " " << x << " " << average);
        const auto chain = build(board_of(reported, 0.7, average), "x");
        const ReadingSampler sampler(chain, x);
        std::map<double, double> drawn, outcomes;
        std::vector<double> values(1024), codes(1024, sampler.code(chain.nominal));
        for (std::size_t first = 0; first < readings; first += 1024) {
          sampler.draw_reported(codes, 3, first, values);
          for (const double value : values)
            drawn[std::round(value * average) / average] += 1.0 / readings;
        }
        for (const auto& of : ReadingDistribution(chain, x).outcomes(codes[0]))
          outcomes[std::round(of.value * average) / average] += of.probability;
        // A sum of 64 that is taken as normal may be off by as much as its skewness makes it.
        EXPECT_LT(apart(outcomes, drawn), chance + (average == 64 ? 0.012 : 0.0));
      }
    }
  }
}

// Of wide noise, codes go together: their mean and spread stay, and nothing is lost.
TEST(ReadingDistribution, CodesThatGoTogetherKeepMeanAndSpread) {
  for (const int average : {1, 4, 64}) {
    auto board = board_of(ways_to_report[0], 300.0, average);
    board.converters.front().resolution = 14;
    const auto chain = build(board, "x");
    const ReadingDistribution reading(chain, 1.2);
    for (const double unquantised : {8000.0, 8000.4, 8123.0}) {
      std::map<double, double> outcomes;
      double all = 0.0;
      for (const auto& of : reading.outcomes(unquantised)) {
        outcomes[of.value] += of.probability;
        all += of.probability;
      }
      EXPECT_NEAR(all, 1.0, 1e-9);
      EXPECT_LT(outcomes.size(), 40'000u);
      const auto moments = moments_of(outcomes);
      EXPECT_NEAR(moments.mean, unquantised, 0.01 * 300.0 / std::sqrt(average));
      EXPECT_NEAR(moments.variance / (300.0 * 300.0 / average), 1.0, 0.003) << average;
    }
  }
}

}  // namespace
}  // namespace tamlo::chain
