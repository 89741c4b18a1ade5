// SPDX-License-Identifier: Apache-2.0
// Integers that follow a formula, against every integer that could.
#include "tamlo/firmware/arithmetic.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <limits>

namespace tamlo::testing {
namespace {

using firmware::Arithmetic, firmware::Wanted;

Wanted wanted(std::int64_t first, std::int64_t last, const std::function<double(double)>& counts) {
  Wanted result{.first = first, .last = last};
  for (auto k = first; k <= last; ++k) result.counts.push_back(counts(static_cast<double>(k)));
  return result;
}

double worst(const Wanted& of, const std::function<std::int64_t(std::int64_t)>& reading) {
  double result = 0.0;
  for (std::size_t i = 0; i < of.counts.size(); ++i) {
    const auto k = of.first + static_cast<std::int64_t>(i);
    result = std::max(result, std::abs(static_cast<double>(reading(k)) - of.counts[i]));
  }
  return result;
}

// The least error that any multiplier, offset and shift has whose products stay below 2^16: all of
// them are tried about the slope.
double least_error(const Wanted& of, double slope) {
  double least = std::numeric_limits<double>::infinity();
  for (int shift = 0; shift <= 14; ++shift) {
    const auto near = std::llround(std::ldexp(slope, shift));
    for (auto m = std::max<std::int64_t>(0, near - 2); m <= near + 2; ++m) {
      if (m * of.last >= 65536) continue;
      for (std::int64_t c = 0; c < (std::int64_t{4} << shift) && m * of.last + c < 65536; ++c) {
        least = std::min(least, worst(of, [&](std::int64_t k) { return (m * k + c) >> shift; }));
      }
    }
  }
  return least;
}

TEST(Straight, NoOtherMultiplierIsBetter) {
  for (const double slope : {0.07, 0.3141, 0.5, 0.9, 1.7321}) {
    const auto of = wanted(0, 255, [&](double k) { return slope * k + 0.3; });
    const double least = least_error(of, slope);
    const auto made = firmware::straight(of, least + 1e-9);
    EXPECT_EQ(made.bits, 16) << slope;
    const double error = worst(of, [&](std::int64_t k) { return made.evaluate(k); });
    EXPECT_NEAR(error, least, 1e-9) << slope;
    EXPECT_DOUBLE_EQ(firmware::worst(made, of).error, error);
  }
}

TEST(Straight, TakesTheNarrowestWordThatKeepsTheBound) {
  struct Case {
    double slope, start, allowed;
    int bits;
  };
  for (const auto& [slope, start, allowed, bits] :
       {Case{1.25, 0.0, 0.55, 16}, Case{14.648, 3.0, 2.0, 32}, Case{-0.8, 4000.0, 0.55, 32},
        Case{1000.0 / 4095.0, -250.0, 0.6, 32}, Case{123456.789, 0.0, 0.51, 64}}) {
    const auto of =
        wanted(0, 4095, [slope = slope, start = start](double k) { return slope * k + start; });
    const auto made = firmware::straight(of, allowed);
    EXPECT_EQ(made.bits, bits) << slope;
    EXPECT_LE(worst(of, [&](std::int64_t k) { return made.evaluate(k); }), allowed) << slope;
    // Nothing that is held is negative, or beyond the word.
    for (const auto k : {0L, 1L, 2047L, 4095L}) {
      const auto& line = made.lines.front();
      const auto held = line.multiply * k + line.add;
      EXPECT_GE(held, 0);
      EXPECT_LT(static_cast<double>(held), std::ldexp(1.0, bits));
    }
  }
}

TEST(Straight, OffersWhatIsPossible) {
  const auto of = wanted(0, 4095, [](double k) { return 0.7 * k; });
  try {
    firmware::straight(of, 0.1);
    FAIL() << "half a count is the least that whole counts can be off";
  } catch (const firmware::FirmwareError& error) {
    EXPECT_NE(std::string(error.what()).find("the best that a word of 64 bits can do is 0.5"),
              std::string::npos)
        << error.what();
  }
}

// The fewest pieces by trying every line at every stretch, and every way to part the numbers.
int fewest_pieces(const Wanted& of, double allowed, int shift) {
  const auto n = of.counts.size();
  const auto follows = [&](std::size_t from, std::size_t to) {
    // Whoever passes both ends has about the slope between them.
    const auto steps = std::max<double>(1.0, static_cast<double>(to - from - 1));
    const double slope = (of.counts[to - 1] - of.counts[from]) / steps;
    const double spread = 2.0 * (allowed + 1.0) / steps;
    const auto least_m = static_cast<std::int64_t>(std::floor(std::ldexp(slope - spread, shift)));
    const auto most_m = static_cast<std::int64_t>(std::ceil(std::ldexp(slope + spread, shift)));
    for (std::int64_t m = least_m; m <= most_m; ++m) {
      std::int64_t low = std::numeric_limits<std::int64_t>::min();
      std::int64_t high = std::numeric_limits<std::int64_t>::max();
      for (auto i = from; i < to; ++i) {
        const auto product = m * static_cast<std::int64_t>(i - from);
        const auto least = static_cast<std::int64_t>(std::ceil(of.counts[i] - allowed));
        const auto greatest = static_cast<std::int64_t>(std::floor(of.counts[i] + allowed));
        low = std::max(low, least * (std::int64_t{1} << shift) - product);
        high = std::min(high, (greatest + 1) * (std::int64_t{1} << shift) - 1 - product);
      }
      if (low <= high) return true;
    }
    return false;
  };
  std::vector<int> fewest(n + 1, 1000);
  fewest[0] = 0;
  for (std::size_t to = 1; to <= n; ++to) {
    for (std::size_t from = 0; from < to; ++from) {
      if (fewest[from] + 1 < fewest[to] && follows(from, to)) fewest[to] = fewest[from] + 1;
    }
  }
  return fewest[n];
}

// Of a curve that rises or falls throughout every reading is held against the one before; and no
// number of so many bits is shifted by as many.
TEST(Pieces, NeverStepAgainstTheCurve) {
  const std::function<double(double)> curves[] = {
      [](double k) { return 0.05 * k * k; },
      [](double k) { return -60.0 * std::sqrt(k + 1.0); },
      [](double k) { return 4000.0 / (k + 20.0); },
      [](double k) { return 3000.0 * std::tanh(k / 60.0) - 20.0; },
      [](double k) { return 0.7 * k + 1e-4 * k * k; },
  };
  int back = 0;
  for (const auto& curve : curves) {
    for (const int bits : {6, 8, 10}) {
      for (const double allowed : {0.51, 0.7, 1.0, 2.5, 20.0, 400.0}) {
        const auto last = (std::int64_t{1} << bits) - 1;
        const auto of = wanted(0, last, curve);
        const auto made = firmware::pieces(of, allowed);
        EXPECT_LE(worst(of, [&](std::int64_t k) { return made.evaluate(k); }), allowed + 1e-9);
        EXPECT_LT(made.even_shift, bits);
        const bool rises = of.counts.back() > of.counts.front();
        for (std::int64_t k = 1; k <= last; ++k) {
          const auto step = made.evaluate(k) - made.evaluate(k - 1);
          back += rises ? step < 0 : step > 0;
        }
        EXPECT_EQ(firmware::wrong_step(made), 0);
      }
    }
  }
  EXPECT_EQ(back, 0);
  // A curve that turns does step back, and by how much is known.
  const auto turning = wanted(0, 255, [](double k) { return 100.0 * std::sin(k / 40.0); });
  const auto made = firmware::pieces(turning, 0.6);
  EXPECT_GT(firmware::wrong_step(made), 0);
}

TEST(Pieces, AreTheFewestThatKeepTheBound) {
  const std::function<double(double)> curves[] = {
      [](double k) { return 0.05 * k * k; },
      [](double k) { return 60.0 * std::sqrt(k + 1.0); },
      [](double k) { return 100.0 * std::sin(k / 9.0) + 120.0; },
      [](double k) { return 4000.0 / (k + 20.0); },
  };
  for (const auto& curve : curves) {
    for (const double allowed : {0.6, 1.0, 2.5}) {
      const auto of = wanted(0, 59, curve);
      const auto made = firmware::pieces(of, allowed);
      EXPECT_LE(worst(of, [&](std::int64_t k) { return made.evaluate(k); }), allowed + 1e-9);
      if (made.form != firmware::Form::lines) continue;  // even ones cost less and may be more
      EXPECT_EQ(static_cast<int>(made.lines.size()), fewest_pieces(of, allowed, made.shift))
          << allowed;
    }
  }
}

// Entries of an evenly spaced table of whole counts whose straight lines stay within the bound.
int even_entries(const Wanted& of, double allowed) {
  const auto range = static_cast<double>(of.last - of.first);
  for (int entries = 2;; ++entries) {
    const double spacing = range / (entries - 1);
    const auto entry = [&](int i) {
      const double at = std::min(range, i * spacing);
      const auto below = static_cast<std::size_t>(at);
      const auto above = std::min(below + 1, of.counts.size() - 1);
      return std::round(
          std::lerp(of.counts[below], of.counts[above], at - static_cast<double>(below)));
    };
    bool keeps = true;
    for (std::size_t i = 0; i < of.counts.size() && keeps; ++i) {
      const double place = static_cast<double>(i) / spacing;
      const int at = std::min(entries - 2, static_cast<int>(place));
      const double read = std::floor(std::lerp(entry(at), entry(at + 1), place - at) + 0.5);
      keeps = std::abs(read - of.counts[i]) <= allowed;
    }
    if (keeps) return entries;
  }
}

// A thermistor of 10 kohm and beta 3950 K below 10 kohm, from -20 to 120 degC on 12 bits, within
// 0.05 K by counts of 10 mK.
TEST(Pieces, AThermistorTakesAThirdOfAnEvenTable) {
  const auto celsius = [](double k) {
    const double part = k / 4096.0, resistance = part / (1.0 - part);
    return 1.0 / (1.0 / 298.15 + std::log(resistance) / 3950.0) - 273.15;
  };
  std::int64_t first = 1, last = 4094;
  while (celsius(static_cast<double>(first)) > 120.0) ++first;
  while (celsius(static_cast<double>(last)) < -20.0) --last;
  const auto of = wanted(first, last, [&](double k) { return 100.0 * celsius(k); });
  const auto made = firmware::pieces(of, 5.0);
  EXPECT_LE(worst(of, [&](std::int64_t k) { return made.evaluate(k); }), 5.0);
  const int even = even_entries(of, 5.0);
  EXPECT_GT(even, 200);
  EXPECT_LE(made.table_bytes(), 2 * even / 3) << made.lines.size() << " pieces, " << even;
}

// A slight curve takes a polynomial in place of a table, and it keeps the bound at every number;
// not one that would step against the curve.
TEST(Polynomial, KeepsTheBoundInAWordOf32Bits) {
  struct Case {
    std::int64_t first, last;
    std::function<double(double)> counts;
    double allowed;
    int degree;  // the lowest that does
  };
  const Case cases[] = {
      {0, 4095, [](double k) { return 1e-4 * k * k + 0.5 * k - 300.0; }, 1.0, 2},
      {1000, 3000, [](double k) { return 6000.0 - 8e-5 * (k - 500.0) * (k - 500.0); }, 1.0, 2},
      {0, 1023, [](double k) { return 300.0 * std::sin(k / 400.0); }, 5.0, 3},
      {0, 1023, [](double k) { return 300.0 * std::sin(k / 300.0); }, 2.0, 4},
      {0, 1023, [](double k) { return 2000.0 * std::exp(k / 500.0); }, 20.0, 4},
  };
  for (const auto& [first, last, counts, allowed, degree] : cases) {
    const auto of = wanted(first, last, counts);
    const auto made = firmware::polynomial(of, allowed);
    ASSERT_TRUE(made.has_value()) << degree;
    EXPECT_EQ(static_cast<int>(made->coefficients.size()) - 1, degree);
    EXPECT_LT(made->widest(), std::int64_t{1} << 31);
    const double error = worst(of, [&](std::int64_t k) { return made->evaluate(k); });
    EXPECT_LE(error, allowed);
    EXPECT_GT(error, allowed / 50.0);
    const bool rises = std::ranges::is_sorted(of.counts);
    for (auto k = first; rises && k < last; ++k)
      EXPECT_LE(made->evaluate(k), made->evaluate(k + 1));
  }
  const auto rough = wanted(0, 4095, [](double k) { return 500.0 * std::sin(k / 20.0); });
  EXPECT_FALSE(firmware::polynomial(rough, 5.0).has_value());
}

TEST(Pieces, RefuseWhatNoTableReaches) {
  const auto of = wanted(0, 1023, [](double k) { return k * k; });
  EXPECT_THROW(firmware::pieces(of, 0.4), firmware::FirmwareError);
  EXPECT_THROW(firmware::pieces({}, 1.0), ArgumentError);
  const auto rough = wanted(0, 4095, [](double k) { return 500.0 * std::sin(k * 1.7); });
  EXPECT_THROW(firmware::pieces(rough, 0.5), firmware::FirmwareError);
}

}  // namespace
}  // namespace tamlo::testing
