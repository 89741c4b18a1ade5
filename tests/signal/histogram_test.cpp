// SPDX-License-Identifier: Apache-2.0
#include "tamlo/signal/histogram.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>

#include "math/instructions.hpp"
#include "tamlo/error.hpp"
#include "tamlo/math/random.hpp"

namespace tamlo::signal {
namespace {

// Long blocks, of few codes or of many, about zero and far from it, of odd and even length, of
// every width of codes and with every set of instructions.
template <class Code>
void expect_exact(const std::vector<std::int64_t>& middles) {
  math::RandomStream stream(31, 0);
  for (const auto middle : middles) {
    for (const double noise : {0.0, 1.0, 7.0, 15.0, 500.0}) {
      for (const int n : {4096, 4097, 9001, 20001}) {
        Histogram histogram;
        std::map<std::int64_t, std::uint64_t> counts;
        for (int block = 0; block < 3; ++block) {
          std::vector<Code> codes;
          for (int i = 0; i < n; ++i) {
            const auto code = middle + 20 * block + std::lround(noise * stream.normal());
            codes.push_back(static_cast<Code>(code));
            ++counts[codes.back()];
          }
          histogram.add(codes);
        }
        ASSERT_EQ(histogram.count(), 3U * static_cast<unsigned>(n));
        ASSERT_EQ(histogram.min(), counts.begin()->first);
        ASSERT_EQ(histogram.max(), counts.rbegin()->first);
        for (const auto& [code, times] : counts) ASSERT_EQ(histogram.at(code), times) << code;
      }
    }
  }
}

TEST(Histogram, LongBlocksAreExactToo) {
  using math::Instructions;
  for (const auto with : {Instructions::base, Instructions::avx2, Instructions::avx512}) {
    math::hold_instructions(with);
    expect_exact<std::int32_t>({0, -3, 5, 40, -100000, 2000000000, -2000000000});
    expect_exact<std::int16_t>({0, 5, 32767, -32768});  // beyond either end they begin anew
    expect_exact<std::uint16_t>({0, 32768, 65535});
  }
}

// A single code among many near to one another, wherever it hides.
TEST(Histogram, OneThatIsFarIsSeenAnywhere) {
  for (const std::size_t n : {5000, 5001}) {
    for (std::size_t place = 0; place < n; place += 61) {
      std::vector<std::int16_t> codes(n, 7);
      for (const int far : {-32768, -40, 60, 32767}) {
        codes[place] = static_cast<std::int16_t>(far);
        Histogram histogram;
        histogram.add(codes);
        ASSERT_EQ(histogram.at(far), 1U) << place;
        ASSERT_EQ(histogram.at(7), n - 1);
        ASSERT_EQ(histogram.count(), n);
      }
    }
  }
}

TEST(Histogram, CountsBeyond32Bits) {
  constexpr std::uint64_t most = std::numeric_limits<std::uint32_t>::max();
  const std::vector<std::int32_t> block(5000, 3);
  Histogram histogram;
  histogram.add(3, most - 100);
  histogram.add(block);
  histogram.add(4, 10 * most);
  histogram.add(block);
  histogram.add(-1000000);  // with what stands in both widths moved
  Histogram twice = histogram;
  twice.merge(histogram);
  EXPECT_EQ(histogram.at(3), most - 100 + 10000);
  EXPECT_EQ(histogram.at(4), 10 * most);
  EXPECT_EQ(histogram.count(), 11 * most - 100 + 10001);
  EXPECT_EQ(twice.at(3), 2 * histogram.at(3));
  EXPECT_EQ(twice.at(4), 20 * most);
  EXPECT_EQ(twice.at(-1000000), 2U);
  EXPECT_EQ(twice.count(), 2 * histogram.count());
  EXPECT_EQ(twice.min(), -1000000);
  EXPECT_EQ(twice.max(), 4);
}

TEST(Histogram, IsExactInAnyOrderAndPart) {
  math::RandomStream stream(1, 1);
  std::vector<std::int32_t> codes;
  for (int i = 0; i < 5000; ++i)
    codes.push_back(static_cast<std::int32_t>(20.0 * stream.normal()) - 7);
  codes.push_back(-30000);
  codes.push_back(30000);
  Histogram whole, backwards;
  whole.add(codes);
  for (auto part = codes.rbegin(); part != codes.rend(); ++part) {
    Histogram one;
    one.add(*part);
    backwards.merge(one);
  }
  double sum = 0.0, squares = 0.0;
  for (const auto code : codes) sum += code;
  const auto n = static_cast<double>(codes.size());
  for (const auto code : codes) squares += std::pow(code - sum / n, 2);
  for (const auto* of : {&whole, &backwards}) {
    EXPECT_EQ(of->count(), codes.size());
    EXPECT_EQ(of->min(), -30000);
    EXPECT_EQ(of->max(), 30000);
    EXPECT_NEAR(of->mean(), sum / n, 1e-11);
    EXPECT_NEAR(of->variance(), squares / (n - 1.0), 1e-8);
    for (const auto code : {-30000, -8, -7, 0, 29999}) {
      EXPECT_EQ(of->at(code), static_cast<std::uint64_t>(std::ranges::count(codes, code)));
    }
  }
  Histogram wide;
  wide.add(std::int64_t{-9'000'000'000'000'000'000});
  EXPECT_THROW(wide.add(std::int64_t{9'000'000'000'000'000'000}), DataError);
  EXPECT_EQ(wide.count(), 1U);
}

// Of heaps of codes far from one another and at every place, which come in any order so that the
// histogram grows to both sides, each figure is that of all codes in a list.
TEST(Histogram, HeapsFarApartAreFoundAgain) {
  for (const std::int64_t apart : {300, 5000, 100'000}) {
    math::RandomStream stream(77, static_cast<std::uint64_t>(apart));
    Histogram histogram;
    std::map<std::int64_t, std::uint64_t> counts;
    for (const std::int64_t heap : {3, 0, 7, -9, 12, 4, -2}) {
      for (const int n : {1, 40, 5000}) {  // the last in pairs
        std::vector<std::int32_t> codes;
        for (int i = 0; i < n; ++i) {
          const auto from = std::llround(3.0 * stream.normal());
          codes.push_back(static_cast<std::int32_t>(heap * apart + 37 * heap + from));
          ++counts[codes.back()];
        }
        histogram.add(codes);
      }
      long double sum = 0.0L, squares = 0.0L, n = 0.0L;
      for (const auto& [code, times] : counts) {
        EXPECT_EQ(histogram.at(code), times);
        sum += static_cast<long double>(code) * static_cast<long double>(times);
        n += static_cast<long double>(times);
      }
      for (const auto& [code, times] : counts) {
        const auto from = static_cast<long double>(code) - sum / n;
        squares += from * from * static_cast<long double>(times);
      }
      EXPECT_EQ(histogram.min(), counts.begin()->first);
      EXPECT_EQ(histogram.max(), counts.rbegin()->first);
      EXPECT_EQ(histogram.count(), static_cast<std::uint64_t>(n));
      EXPECT_NEAR(histogram.mean(), static_cast<double>(sum / n),
                  1e-9 * static_cast<double>(apart));
      EXPECT_NEAR(histogram.variance() / static_cast<double>(squares / (n - 1.0L)), 1.0, 1e-12);
    }
    Histogram merged;
    merged.add(-10 * apart);
    merged.merge(histogram);
    for (const auto& [code, times] : counts) EXPECT_EQ(merged.at(code), times);
    EXPECT_EQ(merged.max(), histogram.max());
  }
}

// A code that stays out of noise about it is missing; of few samples, or far out, it is chance.
TEST(Histogram, MissingCodes) {
  const auto of = [](int samples, int left_out) {
    Histogram histogram;
    math::RandomStream noise(5, 0);
    for (int i = 0; i < samples; ++i) {
      const auto code = std::llround(100.3 + 2.0 * noise.normal());
      if (code != left_out) histogram.add(code);
    }
    return histogram.missing();
  };
  EXPECT_EQ(of(1000, 99), std::vector<std::int64_t>{99});
  EXPECT_EQ(of(1000, 103), std::vector<std::int64_t>{103});
  EXPECT_TRUE(of(1000, 93).empty());  // less than one of them expected
  EXPECT_TRUE(of(1000, 0).empty());
  EXPECT_TRUE(of(60, 99).empty());  // a dozen expected
  EXPECT_TRUE(of(0, 0).empty());
  // Two wild ones make the variance a thousand times as large, and no other code a missing one.
  Histogram wild;
  math::RandomStream noise(5, 1);
  for (int i = 0; i < 5000; ++i) wild.add(std::llround(2000.0 + noise.normal()));
  wild.add(3);
  wild.add(4090);
  EXPECT_GT(wild.variance(), 1000.0);
  EXPECT_TRUE(wild.missing().empty());
  Histogram apart;
  for (const int code : {1, 2, 16'000'000, 16'000'001}) apart.add(code);
  EXPECT_TRUE(apart.missing().empty());
}

}  // namespace
}  // namespace tamlo::signal
