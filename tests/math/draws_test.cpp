// SPDX-License-Identifier: Apache-2.0
#include "math/draws.hpp"

#include <gtest/gtest.h>

#include <Random123/philox.h>

#include <cmath>
#include <fstream>
#include <numbers>
#include <string>
#include <vector>

#include "tamlo/math/detail/exponential.hpp"
#include "tamlo/math/detail/instruction_sets.hpp"

namespace tamlo::math {
namespace {

constexpr std::size_t n = draws_block;

std::vector<double> row(Deviate of, std::uint64_t seed, std::uint64_t number, std::uint64_t first,
                        std::size_t count = n, Instructions with = widest_instructions()) {
  std::vector<double> result(count);
  add_deviates(of, seed, number, first, 1.0, result, result, with);
  return result;
}

// A build without them gives the same figures, and only slower: nothing else would tell.
TEST(InstructionSets, AreTheWidestThatTheMachineHas) {
#if defined(__x86_64__) && defined(__linux__)
  std::ifstream file("/proc/cpuinfo");
  std::string line;
  while (std::getline(file, line) && !line.starts_with("flags")) {
  }
  const auto has = [&](const char* flag) {
    return (line + " ").find(std::string(" ") + flag + " ") != std::string::npos;
  };
  ASSERT_TRUE(has("sse2"));
  const bool widest = has("avx512f") && has("avx512dq") && has("avx512bw");
  EXPECT_EQ(instruction_sets().in_use, widest ? "AVX-512" : has("avx2") ? "AVX2" : "SSE2");
  EXPECT_EQ(instruction_sets().compiled, "SSE2, AVX2, AVX-512");
#else
  GTEST_SKIP() << "an x86-64 machine with Linux is needed";
#endif
}

TEST(Draws, TheSameBitsOnEverySetOfInstructions) {
  for (const auto of : {Deviate::uniform, Deviate::normal, Deviate::arcsine}) {
    for (const std::uint64_t first : {std::uint64_t{0}, std::uint64_t{1} << 40}) {
      const auto narrow = row(of, 42, 7, first, n, Instructions::base);
      for (const auto set : {Instructions::avx2, Instructions::avx512}) {
        if (set > widest_instructions()) continue;
        EXPECT_EQ(narrow, row(of, 42, 7, first, n, set));
      }
      const auto part = row(of, 42, 7, first, 50);
      EXPECT_TRUE(std::equal(part.begin(), part.end(), narrow.begin()));
    }
  }
}

// The generator against the library of its authors, and the transforms against the standard
// library's functions of the same numbers.
TEST(Draws, AreWhatTheySay) {
  double worst_normal = 0.0, worst_arcsine = 0.0;
  const auto quarter = n / 4;
  for (std::uint64_t first = 0; first < 400 * n; first += n) {
    const auto uniform = row(Deviate::uniform, (5ULL << 32) | 1, (9ULL << 32) | 2, first);
    const auto normal = row(Deviate::normal, (5ULL << 32) | 1, (9ULL << 32) | 2, first);
    const auto arcsine = row(Deviate::arcsine, (5ULL << 32) | 1, (9ULL << 32) | 2, first);
    for (std::size_t i = 0; i < quarter; ++i) {
      const auto counter = static_cast<std::uint32_t>(first / 4 + i);
      const auto words = r123::Philox4x32_R<7>()({{counter, 0, 2, 9}}, {{1, 5}});
      for (std::size_t k = 0; k < 4; ++k) {
        const double u = (words[k] + 0.5) / 4294967296.0;
        EXPECT_EQ(uniform[quarter * k + i], 2.0 * u - 1.0);
        const double exact = std::sin(std::numbers::pi * (u - 0.5));
        worst_arcsine = std::max(worst_arcsine, std::abs(arcsine[quarter * k + i] - exact));
        if (k % 2 == 1) continue;
        const double radius = std::sqrt(-2.0 * std::log(u));
        const double angle = 2.0 * std::numbers::pi * (words[k + 1] + 0.5) / 4294967296.0;
        worst_normal =
            std::max({worst_normal, std::abs(normal[quarter * k + i] - radius * std::cos(angle)),
                      std::abs(normal[quarter * (k + 1) + i] - radius * std::sin(angle))});
      }
    }
  }
  EXPECT_LT(worst_normal, 4e-15);
  EXPECT_LT(worst_arcsine, 1e-15);
}

TEST(Draws, AreAddedInTheirUnit) {
  std::vector<double> from(n, 3.0), out(n);
  add_deviates(Deviate::uniform, 1, 2, 0, 0.25, from, out);
  const auto plain = row(Deviate::uniform, 1, 2, 0);
  for (std::size_t t = 0; t < n; ++t) EXPECT_DOUBLE_EQ(out[t], 3.0 + 0.25 * plain[t]);
}

// Moments of half a million, and independence of rows and trials: within five standard deviations.
TEST(Draws, AreNormalAndIndependent) {
  constexpr std::uint64_t blocks = 4000;
  const double count = static_cast<double>(n) * blocks;
  double sum = 0.0, squares = 0.0, fourth = 0.0, lag = 0.0, across = 0.0;
  for (std::uint64_t i = 0; i < blocks; ++i) {
    const auto one = row(Deviate::normal, 3, 0, i * n), other = row(Deviate::normal, 3, 1, i * n);
    for (std::size_t t = 0; t < n; ++t) {
      sum += one[t];
      squares += one[t] * one[t];
      fourth += std::pow(one[t], 4);
      lag += one[t] * one[(t + 1) % n];
      across += one[t] * other[t];
      ASSERT_TRUE(std::isfinite(one[t]));
    }
  }
  EXPECT_NEAR(sum / count, 0.0, 5.0 / std::sqrt(count));
  EXPECT_NEAR(squares / count, 1.0, 5.0 * std::sqrt(2.0 / count));
  EXPECT_NEAR(fourth / count, 3.0, 5.0 * std::sqrt(96.0 / count));
  EXPECT_NEAR(lag / count, 0.0, 5.0 / std::sqrt(count));
  EXPECT_NEAR(across / count, 0.0, 5.0 / std::sqrt(count));
}

TEST(Exponential, IsExact) {
  for (double x = -699.0; x < 700.0; x += 0.0371) {
    EXPECT_NEAR(exponential<void>(x) / std::exp(x), 1.0, 4e-16) << x;
  }
  EXPECT_EQ(exponential<void>(0.0), 1.0);
  EXPECT_EQ(exponential<void>(-1e300), 0.0);
}

}  // namespace
}  // namespace tamlo::math
