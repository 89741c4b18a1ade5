// SPDX-License-Identifier: Apache-2.0
#include "tamlo/signal/code_density.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "tamlo/error.hpp"
#include "tamlo/math/random.hpp"

namespace tamlo::signal {
namespace {

using Values = std::vector<double>;
using std::numbers::pi;

// Where the part `u` of a sweep from `beyond` below 0 to as much above `span` is.
double swept(Input input, double u, double span, double beyond) {
  return input == Input::ramp ? -beyond + u * (span + 2.0 * beyond)
                              : span / 2.0 - (span / 2.0 + beyond) * std::cos(pi * u);
}

// A converter of known widths, ramped and swept by a sine: found within what is said, as often as
// it is said.
TEST(Density, KnownLinearityIsRecovered) {
  const int codes = 64;
  Values edges{-1.0};  // transitions, in LSB, below codes 1 to 63
  math::RandomStream widths(8, 0);
  for (int k = 1; k < codes; ++k) {
    const double width = k == 1 ? 1.0 : k == 20 ? 0.0 : 1.0 + 0.4 * (widths.uniform() - 0.5);
    edges.push_back(k == 1 ? 0.0 : edges.back() + width);
  }
  edges.erase(edges.begin());
  const double span = edges.back();
  const double lsb = span / (codes - 2);
  for (const auto input : {Input::ramp, Input::sine}) {
    int dnl = 0, inl = 0, count = 0;
    constexpr int n = 100000;
    for (std::uint64_t record = 0; record < 40; ++record) {
      Histogram histogram;
      math::RandomStream stream(9, record);
      for (int i = 0; i < n; ++i) {
        const double beyond = input == Input::ramp ? 1.0 : 1.5;
        const double v = swept(input, stream.uniform(), span, beyond);
        histogram.add(std::ranges::upper_bound(edges, v) - edges.begin());
      }
      const auto found = linearity(histogram, 0, codes - 1, input);
      EXPECT_TRUE(found.reaches_both_ends);
      EXPECT_EQ(found.missing, std::vector<std::int64_t>{19});
      EXPECT_EQ(found.unseen, 0U);
      ASSERT_EQ(found.dnl.size(), static_cast<std::size_t>(codes - 2));
      for (std::size_t j = 0; j + 1 < found.dnl.size(); ++j) {
        if (j == 18) continue;  // the missing one, whose width is known without doubt
        const double width = (edges[j + 1] - edges[j]) / lsb - 1.0;
        const double bent = (edges[j + 1] - edges[0]) / lsb - static_cast<double>(j + 1);
        dnl += std::abs(found.dnl[j] - width) <= 1.96 * found.dnl_standard[j] ? 1 : 0;
        inl += std::abs(found.inl_end_point[j] - bent) <= 1.96 * found.inl_standard[j] ? 1 : 0;
        ++count;
      }
      const auto needed = static_cast<double>(samples_needed(input, codes, found.inl_standard[31]));
      EXPECT_NEAR(needed / n, 1.0, 0.25) << static_cast<int>(input);
    }
    EXPECT_NEAR(dnl / static_cast<double>(count), 0.95, 0.02) << static_cast<int>(input);
    EXPECT_NEAR(inl / static_cast<double>(count), 0.95, 0.05) << static_cast<int>(input);
  }
  Histogram nothing;
  nothing.add(0, 10);
  EXPECT_THROW(linearity(nothing, 0, 63, Input::ramp), DataError);
}

// A ramp or coherent sine with noise alone: transitions of an even converter, as sure as is said.
TEST(Density, EvenSamplesAreSurer) {
  const int codes = 64;
  for (const auto input : {Input::ramp, Input::sine}) {
    for (const double noise : {0.1, 0.7, 2.0}) {
      double dnl = 0.0, inl = 0.0, count = 0.0;
      constexpr int n = 20011;
      for (std::uint64_t record = 0; record < 60; ++record) {
        Histogram histogram;
        math::RandomStream stream(10, record);
        for (int i = 0; i < n; ++i) {
          const double v = swept(input, (i + 0.5) / n, codes, 9.0);
          const double noisy = std::floor(v + noise * stream.normal());
          histogram.add(static_cast<std::int64_t>(std::clamp(noisy, 0.0, codes - 1.0)));
        }
        const auto found = linearity(histogram, 0, codes - 1, input, noise);
        for (std::size_t j = 2; j + 2 < found.dnl.size(); ++j) {
          dnl += std::pow(found.dnl[j] / found.dnl_standard[j], 2);
          inl += std::pow(found.inl_end_point[j] / found.inl_standard[j], 2);
          count += 1.0;
        }
        const auto needed = samples_needed(input, codes, found.inl_standard[31], noise);
        EXPECT_NEAR(static_cast<double>(needed) / n, 0.9, 0.3);
      }
      // Root mean square of the errors in their stated uncertainty: 1.
      EXPECT_NEAR(std::sqrt(dnl / count), 1.0, 0.12) << static_cast<int>(input) << " " << noise;
      EXPECT_NEAR(std::sqrt(inl / count), 1.0, 0.25) << static_cast<int>(input) << " " << noise;
    }
  }
}

}  // namespace
}  // namespace tamlo::signal
