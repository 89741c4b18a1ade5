// SPDX-License-Identifier: Apache-2.0
#include "tamlo/math/draws.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>
#include <vector>

namespace tamlo::math {
namespace {

using Row = void (*)(std::uint64_t, std::uint64_t, std::uint64_t, std::span<double>, Instructions);
const Row rows[] = {uniform_row, normal_row, arcsine_row};

bool machine_has(Instructions of) {
  return static_cast<int>(of) <= static_cast<int>(widest_instructions());
}

TEST(Draws, TheSameBitsOnEverySetOfInstructions) {
  for (const auto row : rows) {
    for (const std::uint64_t first : {std::uint64_t{0}, std::uint64_t{1} << 40}) {
      std::vector<double> narrow(1024), wide(1024), part(100);
      row(42, 7, first, narrow, Instructions::sse2);
      for (const auto of : {Instructions::avx2, Instructions::avx512}) {
        if (!machine_has(of)) continue;
        row(42, 7, first, wide, of);
        EXPECT_EQ(narrow, wide) << static_cast<int>(of);
      }
      row(42, 7, first, part, widest_instructions());
      EXPECT_TRUE(std::equal(part.begin(), part.end(), narrow.begin()));
    }
  }
}

// The transforms against the library's own functions of the same uniform numbers.
TEST(Draws, TransformsAreExact) {
  std::vector<double> u(1024), normal(1024), arcsine(1024);
  double worst = 0.0, worst_arcsine = 0.0;
  for (std::uint64_t first = 0; first < 100 * 1024; first += 1024) {
    uniform_row(1, 2, first, u);
    normal_row(1, 2, first, normal);
    arcsine_row(1, 2, first, arcsine);
    for (std::size_t i = 0; i < 512; ++i) {
      const double radius = std::sqrt(-2.0 * std::log(u[i]));
      const double angle = 2.0 * std::numbers::pi * u[512 + i];
      worst = std::max({worst, std::abs(normal[i] - radius * std::cos(angle)),
                        std::abs(normal[512 + i] - radius * std::sin(angle))});
    }
    for (std::size_t i = 0; i < 1024; ++i) {
      worst_arcsine =
          std::max(worst_arcsine, std::abs(arcsine[i] - std::sin(std::numbers::pi * (u[i] - 0.5))));
    }
  }
  EXPECT_LT(worst, 4e-15);
  EXPECT_LT(worst_arcsine, 1e-15);
}

// Moments of a million, and independence of rows and trials: within five standard deviations.
TEST(Draws, AreWhatTheySay) {
  constexpr int blocks = 1000;
  const double n = 1024.0 * blocks;
  double sum = 0.0, squares = 0.0, fourth = 0.0, lag = 0.0, across = 0.0;
  std::vector<double> row(1024), other(1024);
  for (int i = 0; i < blocks; ++i) {
    const auto first = static_cast<std::uint64_t>(i) * 1024;
    normal_row(3, 0, first, row);
    normal_row(3, 1, first, other);
    for (std::size_t t = 0; t < 1024; ++t) {
      sum += row[t];
      squares += row[t] * row[t];
      fourth += std::pow(row[t], 4);
      lag += row[t] * row[(t + 1) % 1024];
      across += row[t] * other[t];
      ASSERT_TRUE(std::isfinite(row[t]));
    }
  }
  EXPECT_NEAR(sum / n, 0.0, 5.0 / std::sqrt(n));
  EXPECT_NEAR(squares / n, 1.0, 5.0 * std::sqrt(2.0 / n));
  EXPECT_NEAR(fourth / n, 3.0, 5.0 * std::sqrt(96.0 / n));
  EXPECT_NEAR(lag / n, 0.0, 5.0 / std::sqrt(n));
  EXPECT_NEAR(across / n, 0.0, 5.0 / std::sqrt(n));
}

}  // namespace
}  // namespace tamlo::math
