// SPDX-License-Identifier: Apache-2.0
#include "tamlo/record/histogram.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "tamlo/math/random.hpp"

namespace tamlo::record {
namespace {

using Values = std::vector<double>;

Values alternating(double about) {
  Values result{about + 0.2};
  for (int i = 0; i < 500; ++i) result.insert(result.end(), {about + 0.1, about + 0.3});
  return result;
}

// Michelson, 1882: a hundred measurements of the speed of light (NIST StRD), in the file's order.
const Values michelson{
    299.85, 299.74, 299.90, 300.07, 299.93, 299.85, 299.95, 299.98, 299.98, 299.88, 300.00, 299.98,
    299.93, 299.65, 299.76, 299.81, 300.00, 300.00, 299.96, 299.96, 299.96, 299.94, 299.96, 299.94,
    299.88, 299.80, 299.85, 299.88, 299.90, 299.84, 299.83, 299.79, 299.81, 299.88, 299.88, 299.83,
    299.80, 299.79, 299.76, 299.80, 299.88, 299.88, 299.88, 299.86, 299.72, 299.72, 299.62, 299.86,
    299.97, 299.95, 299.88, 299.91, 299.85, 299.87, 299.84, 299.84, 299.85, 299.84, 299.84, 299.84,
    299.89, 299.81, 299.81, 299.82, 299.80, 299.77, 299.76, 299.74, 299.75, 299.76, 299.91, 299.92,
    299.89, 299.86, 299.88, 299.72, 299.84, 299.85, 299.85, 299.78, 299.89, 299.84, 299.78, 299.81,
    299.76, 299.81, 299.79, 299.81, 299.82, 299.85, 299.87, 299.87, 299.81, 299.74, 299.81, 299.94,
    299.95, 299.80, 299.81, 299.87};

// Numbers of a lottery and of a filter's transmittance (NIST StRD, Lottery and Mavro).
const Values lottery{
    162, 671, 933, 414, 788, 730, 817, 33,  536, 875, 670, 236, 473, 167, 877, 980, 316, 950, 456,
    92,  517, 557, 956, 954, 104, 178, 794, 278, 147, 773, 437, 435, 502, 610, 582, 780, 689, 562,
    964, 791, 28,  97,  848, 281, 858, 538, 660, 972, 671, 613, 867, 448, 738, 966, 139, 636, 847,
    659, 754, 243, 122, 455, 195, 968, 793, 59,  730, 361, 574, 522, 97,  762, 431, 158, 429, 414,
    22,  629, 788, 999, 187, 215, 810, 782, 47,  34,  108, 986, 25,  644, 829, 630, 315, 567, 919,
    331, 207, 412, 242, 607, 668, 944, 749, 168, 864, 442, 533, 805, 372, 63,  458, 777, 416, 340,
    436, 140, 919, 350, 510, 572, 905, 900, 85,  389, 473, 758, 444, 169, 625, 692, 140, 897, 672,
    288, 312, 860, 724, 226, 884, 508, 976, 741, 476, 417, 831, 15,  318, 432, 241, 114, 799, 955,
    833, 358, 935, 146, 630, 830, 440, 642, 356, 373, 271, 715, 367, 393, 190, 669, 8,   861, 108,
    795, 269, 590, 326, 866, 64,  523, 862, 840, 219, 382, 998, 4,   628, 305, 747, 247, 34,  747,
    729, 645, 856, 974, 24,  568, 24,  694, 608, 480, 410, 729, 947, 293, 53,  930, 223, 203, 677,
    227, 62,  455, 387, 318, 562, 242, 428, 968};
const Values mavro = [] {
  Values result;
  for (const int last :
       {180, 170, 180, 190, 180, 170, 150, 140, 150, 150, 170, 180, 180, 190, 190, 210, 200,
        160, 140, 130, 130, 150, 150, 160, 150, 140, 130, 140, 150, 140, 150, 160, 150, 160,
        190, 200, 200, 210, 220, 230, 240, 250, 270, 260, 260, 260, 270, 260, 250, 240}) {
    result.push_back((200000 + last) / 1e5);
  }
  return result;
}();

// Univariate sets of NIST StRD, certified mean, standard deviation and lag-1 correlation; digits
// that the data have in double precision.
TEST(Moments, CertifiedSets) {
  struct Set {
    Values values;
    double mean, deviation, correlation;
    double digits;
  };
  for (const auto& set :
       {Set{{10000001, 10000003, 10000002}, 10000002, 1.0, -0.5, 15},
        Set{alternating(1.0), 1.2, 0.1, -0.999, 14},
        Set{alternating(1000000.0), 1000000.2, 0.1, -0.999, 9.1},
        Set{alternating(10000000.0), 10000000.2, 0.1, -0.999, 7.9},
        Set{michelson, 299.852400000000, 0.0790105478190518, 0.535199668621283, 12},
        Set{lottery, 518.958715596330, 291.699727470969, -0.120948622967393, 14},
        Set{mavro, 2.00185600000000, 0.000429123454003053, 0.937989183438248, 11.5}}) {
    // Whole, and in parts that merge.
    Moments whole, merged;
    whole.add(set.values);
    const std::span<const double> all(set.values);
    for (std::size_t from = 0; from < all.size(); from += 37) {
      Moments part;
      part.add(all.subspan(from, std::min<std::size_t>(37, all.size() - from)));
      merged.merge(part);
    }
    for (const auto* found : {&whole, &merged}) {
      const double within = 0.5 * std::pow(10.0, -set.digits);
      EXPECT_NEAR(found->mean() / set.mean, 1.0, 1e-15);
      EXPECT_NEAR(std::sqrt(found->variance()) / set.deviation, 1.0, within);
      EXPECT_NEAR(found->lag_correlation() / set.correlation, 1.0, within * 2.0);
      EXPECT_EQ(found->count(), set.values.size());
    }
  }
}

// Long blocks, of few codes or of many, about zero and far from it, of odd and even length.
TEST(Histogram, LongBlocksAreExactToo) {
  math::Stream stream(31, 0);
  for (const int middle : {0, -3, 5, 40, -100000, 2000000000, -2000000000}) {
    for (const double noise : {0.0, 1.0, 7.0, 15.0, 500.0}) {
      for (const int n : {4096, 4097, 9001}) {
        Histogram histogram;
        std::map<std::int32_t, std::uint64_t> counts;
        for (int block = 0; block < 3; ++block) {
          std::vector<std::int32_t> codes;
          for (int i = 0; i < n; ++i) {
            codes.push_back(middle + 20 * block +
                            static_cast<int>(std::lround(noise * stream.normal())));
            ++counts[codes.back()];
          }
          histogram.add(codes);
        }
        ASSERT_EQ(histogram.count(), 3U * static_cast<unsigned>(n));
        ASSERT_EQ(histogram.least(), counts.begin()->first);
        ASSERT_EQ(histogram.most(), counts.rbegin()->first);
        for (const auto& [code, times] : counts) ASSERT_EQ(histogram.at(code), times) << code;
      }
    }
  }
}

TEST(Histogram, IsExactInAnyOrderAndPart) {
  math::Stream stream(1, 1);
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
    EXPECT_EQ(of->least(), -30000);
    EXPECT_EQ(of->most(), 30000);
    EXPECT_NEAR(of->mean(), sum / n, 1e-11);
    EXPECT_NEAR(of->variance(), squares / (n - 1.0), 1e-8);
    for (const auto code : {-30000, -8, -7, 0, 29999}) {
      EXPECT_EQ(of->at(code), static_cast<std::uint64_t>(std::ranges::count(codes, code)));
    }
  }
  Histogram wide;
  wide.add(std::int64_t{-9'000'000'000'000'000'000});
  EXPECT_THROW(wide.add(std::int64_t{9'000'000'000'000'000'000}), std::length_error);
  EXPECT_EQ(wide.count(), 1U);
  Histogram gap;
  for (const int code : {1, 2, 4, 5}) gap.add(code);
  EXPECT_EQ(gap.missing(), std::vector<std::int64_t>{3});
}

}  // namespace
}  // namespace tamlo::record
