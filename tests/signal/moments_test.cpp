// SPDX-License-Identifier: Apache-2.0
#include "tamlo/signal/moments.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <vector>

#include "math/instructions.hpp"
#include "tamlo/math/random.hpp"

namespace tamlo::signal {
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

// Against sums in whole numbers, one by one: of every length about that of a register and of what
// is summed before it overflows, with the codes that are farthest from zero.
TEST(CodeMoments, AreExact) {
  using math::Instructions;
  math::RandomStream stream(5, 5);
  std::vector<std::int16_t> noise;
  for (int i = 0; i < 3'000'000; ++i) {
    noise.push_back(static_cast<std::int16_t>(std::lround(9000.0 * stream.normal())));
  }
  using Codes = std::vector<std::int16_t>;
  const Codes inputs[] = {noise, Codes(noise.size(), -32768), Codes(noise.size(), 32767)};
  for (const auto with : {Instructions::base, Instructions::avx2, Instructions::avx512}) {
    math::hold_instructions(with);
    for (const auto& of : inputs) {
      for (const std::size_t n : {1U, 2U, 7U, 8U, 33U, 95U, 524'288U, 524'321U, 3'000'000U}) {
        const auto codes = std::span(of).first(n);
        std::int64_t sum = 0, squares = 0;
        for (const std::int64_t x : codes) {
          sum += x;
          squares += x * x;
        }
        CodeMoments whole, merged;
        whole.add(codes);
        for (std::size_t from = 0; from < n; from += 100'003) {
          CodeMoments part;
          part.add(codes.subspan(from, std::min<std::size_t>(100'003, n - from)));
          merged.merge(part);
        }
        const auto m = static_cast<long double>(n);
        const auto mean = static_cast<long double>(sum) / m;
        const auto off = static_cast<long double>(squares) - mean * static_cast<long double>(sum);
        for (const auto* found : {&whole, &merged}) {
          ASSERT_EQ(found->count(), n);
          ASSERT_EQ(found->mean(), static_cast<double>(mean));
          ASSERT_NEAR(found->variance(), static_cast<double>(n > 1 ? off / (m - 1.0L) : 0.0L),
                      1e-12 * found->variance());
          ASSERT_EQ(found->min(), *std::ranges::min_element(codes));
          ASSERT_EQ(found->max(), *std::ranges::max_element(codes));
        }
      }
    }
  }
}

}  // namespace
}  // namespace tamlo::signal
