// SPDX-License-Identifier: Apache-2.0
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

#include "tamlo/math/random.hpp"
#include "tamlo/record/density.hpp"
#include "tamlo/record/histogram.hpp"
#include "tamlo/record/sine.hpp"
#include "tamlo/record/spectrum.hpp"
#include "tamlo/record/stability.hpp"

namespace tamlo::record {
namespace {

using Values = std::vector<double>;
using std::numbers::pi;

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

// NIST SP 1065, section 12.4: 1000 numbers of n -> 16807 n mod 2147483647 from 1234567890, divided
// by 2147483647, and the deviations of its table, all printed digits.
TEST(Stability, TheTestSuiteOfSp1065) {
  Values values;
  std::int64_t n = 1234567890;
  for (int i = 0; i < 1000; ++i) {
    values.push_back(static_cast<double>(n) / 2147483647.0);
    n = 16807 * n % 2147483647;
  }
  const std::uint64_t at[] = {1, 10, 100};
  const double plain[] = {2.922319e-1, 9.965736e-2, 3.897804e-2};
  const double overlapping[] = {2.922319e-1, 9.159953e-2, 3.241343e-2};
  const auto found = stability(values, at);
  for (std::size_t i = 0; i < 3; ++i) {
    EXPECT_NEAR(plain_allan_deviation(values, at[i]), plain[i], 5.1e-8 * std::pow(10, i == 0));
    EXPECT_NEAR(found.deviations[i].deviation, overlapping[i], 5.1e-8 * std::pow(10, i == 0));
  }
  EXPECT_EQ(found.best, 100U);
}

// White noise falls, its interval holds the truth as often as it says; a drift ends it.
TEST(Stability, SlopesIntervalsAndWhereItIsLowest) {
  int held = 0, count = 0;
  for (std::uint64_t record = 0; record < 300; ++record) {
    math::Stream stream(2, record);
    Values values;
    for (int i = 0; i < 512; ++i) values.push_back(stream.normal());
    const auto found = stability(values);
    for (const auto& d : found.deviations) {
      if (d.averaged > 64) continue;
      const double truth = 1.0 / std::sqrt(static_cast<double>(d.averaged));
      held += d.low <= truth && truth <= d.high ? 1 : 0;
      ++count;
    }
  }
  EXPECT_NEAR(held / static_cast<double>(count), 0.95, 0.03);
  math::Stream stream(3, 0);
  Values drifting;
  for (int i = 0; i < 4096; ++i) drifting.push_back(stream.normal() + 1e-3 * i);
  const auto found = stability(drifting);
  // sigma^2 / m and (drift m)^2 / 2 are least together where m^3 = sigma^2 / drift^2: 100.
  EXPECT_GE(found.best, 64U);
  EXPECT_LE(found.best, 128U);
  EXPECT_EQ(found.deviations[1].kind, NoiseKind::white);
  EXPECT_EQ(found.deviations.back().kind, NoiseKind::drift);
}

Values wave(std::size_t n, double amplitude, double frequency, double phase, double offset) {
  Values result;
  for (std::size_t i = 0; i < n; ++i) {
    result.push_back(offset +
                     amplitude * std::cos(2.0 * pi * frequency * static_cast<double>(i) + phase));
  }
  return result;
}

TEST(Sine, FitsWithoutNoiseAreExact) {
  for (const std::size_t n : {32U, 1000U, 5000U}) {
    for (const double cycles : {3.3, 7.0, 0.31 * static_cast<double>(n)}) {
      const double frequency = cycles / static_cast<double>(n);
      const auto fit = fit_four(wave(n, 2.5, frequency, 0.7, -1.2));
      EXPECT_TRUE(fit.converged);
      EXPECT_NEAR(fit.frequency, frequency, 1e-10 / static_cast<double>(n)) << n << " " << cycles;
      EXPECT_NEAR(fit.amplitude, 2.5, 1e-9);
      EXPECT_NEAR(fit.phase, 0.7, 1e-8);
      EXPECT_NEAR(fit.offset, -1.2, 1e-9);
    }
  }
}

// An ideal converter of N bits: SINAD 6.02 N + 1.76 dB, by fit and by spectrum.
TEST(Sine, IdealConverters) {
  for (int bits = 6; bits <= 20; ++bits) {
    const std::size_t n = 1 << 15;
    const double frequency = nearest_coherent(0.0917, n);
    // A quarter of a code off the middle, and so much short of both ends: no code is clipped, and
    // the errors are spread as the formula takes them to be.
    const double full = std::pow(2.0, bits - 1), amplitude = full - 0.27;
    auto samples = wave(n, amplitude, frequency, 0.3, 0.25);
    for (double& x : samples) x = std::floor(x) + 0.5;
    const double ideal = 20.0 * bits * std::log10(2.0) + 10.0 * std::log10(1.5) +
                         20.0 * std::log10(amplitude / full);
    const auto fit = fit_four(samples);
    EXPECT_NEAR(fit.sinad(), ideal, 0.05) << bits;
    EXPECT_NEAR(fit.enob(), bits + std::log2(amplitude / full), 0.01) << bits;
    EXPECT_TRUE(is_coherent(fit, n));
    const auto coherent = sine_figures(spectrum(samples, Window::rectangular));
    EXPECT_NEAR(coherent.sinad, ideal, 0.05) << bits;
    const auto windowed = sine_figures(spectrum(samples, Window::blackman_harris));
    EXPECT_NEAR(windowed.sinad, ideal, 0.1) << bits;
  }
}

// Over 1000 records of noise: as good as any estimate can be (Cramer and Rao), and as it says.
TEST(Sine, ReachesTheBound) {
  const std::size_t n = 256;
  const double sigma = 0.1;
  double of_amplitude = 0.0, of_frequency = 0.0, of_phase = 0.0, said = 0.0;
  constexpr int records = 1000;
  for (std::uint64_t record = 0; record < records; ++record) {
    math::Stream stream(4, record);
    auto samples = wave(n, 1.0, 0.1234, 0.5, 0.2);
    for (double& x : samples) x += sigma * stream.normal();
    const auto fit = fit_four(samples);
    of_amplitude += std::pow(fit.amplitude - 1.0, 2) / records;
    of_frequency += std::pow(fit.frequency - 0.1234, 2) / records;
    of_phase += std::pow(fit.phase - 0.5, 2) / records;
    said += fit.frequency_standard / records;
  }
  // Rife and Boorstyn, 1974, for real samples.
  const auto of = static_cast<double>(n);
  const double amplitude = sigma * std::sqrt(2.0 / of);
  const double frequency = sigma * std::sqrt(24.0 / (of * (of * of - 1.0))) / (2.0 * pi);
  const double phase = sigma * std::sqrt(4.0 * (2.0 * of - 1.0) / (of * (of + 1.0)));
  // Efficiency 0.95 and better; the variance of 1000 records is known to 4.5 %.
  EXPECT_LT(of_amplitude / std::pow(amplitude, 2), 1.0 / 0.95 + 0.1);
  EXPECT_LT(of_frequency / std::pow(frequency, 2), 1.0 / 0.95 + 0.1);
  EXPECT_LT(of_phase / std::pow(phase, 2), 1.0 / 0.95 + 0.1);
  EXPECT_NEAR(said / frequency, 1.0, 0.02);
}

TEST(Sine, CoherentFrequencies) {
  EXPECT_EQ(nearest_coherent(0.1, 1000), 101.0 / 1000.0);
  EXPECT_EQ(nearest_coherent(0.1, 1024), 103.0 / 1024.0);
  EXPECT_EQ(nearest_coherent(0.1, 1021), 102.0 / 1021.0);
  EXPECT_FALSE(is_coherent(fit_four(wave(1000, 1.0, 0.1004, 0.0, 0.0)), 1000));
}

// Windows: gain and noise bandwidth against their own samples, and a line between bins.
TEST(Spectrum, WindowsAndTheirCorrections) {
  math::Stream stream(5, 0);
  Values noise;
  for (int i = 0; i < 1 << 16; ++i) noise.push_back(0.3 * stream.normal());
  for (const auto window :
       {Window::rectangular, Window::hann, Window::blackman_harris, Window::flat_top}) {
    const std::size_t n = 4096;
    double sum = 0.0, squares = 0.0;
    for (std::size_t i = 0; i < n; ++i) {
      sum += window_at(window, i, n);
      squares += std::pow(window_at(window, i, n), 2);
    }
    const auto of = figures(window);
    EXPECT_NEAR(of.coherent_gain, sum / n, 1e-12);
    EXPECT_NEAR(of.noise_bandwidth, n * squares / (sum * sum), 1e-12);
    // A sine in a bin has half its amplitude squared there.
    const auto line = spectrum(wave(n, 3.0, 500.0 / n, 0.4, 5.0), window);
    EXPECT_NEAR(line.power[500], 4.5, 1e-9) << name(window);
    // White noise: the mean square over all bins.
    const auto white = spectrum(noise, window, 1024);
    double total = 0.0;
    for (const double power : white.power) total += power / of.noise_bandwidth;
    EXPECT_NEAR(total, 0.09, 0.004) << name(window);
  }
  EXPECT_NEAR(largest_line(wave(1000, 1.0, 0.12345, 0.0, 0.0)), 0.12345, 2e-5);
}

TEST(Spectrum, HarmonicsFoldedOnesTooAndTones) {
  const std::size_t n = 1 << 14;
  const double frequency = nearest_coherent(0.21, n);
  auto samples = wave(n, 1.0, frequency, 0.0, 0.0);
  math::Stream stream(6, 0);
  for (std::size_t i = 0; i < n; ++i) {
    const double angle = 2.0 * pi * frequency * static_cast<double>(i);
    // Second and third harmonic of 1e-3 and 3e-4; the third lies at 1 - 0.63 = 0.37.
    samples[i] +=
        1e-3 * std::cos(2.0 * angle) + 3e-4 * std::cos(3.0 * angle) + 1e-5 * stream.normal();
  }
  const auto found = sine_figures(spectrum(samples, Window::blackman_harris));
  EXPECT_NEAR(found.thd, 10.0 * std::log10(1e-6 + 9e-8), 0.02);
  EXPECT_NEAR(found.sfdr, 60.0, 0.1);
  EXPECT_NEAR(found.snr, 10.0 * std::log10(0.5 / 1e-10), 0.3);
  EXPECT_NEAR(found.harmonics[1].frequency, 1.0 - 3.0 * frequency, 1e-6);
  EXPECT_NEAR(found.harmonics[1].power, 0.5 * 9e-8, 1e-9);
  // Tones in noise: found where they are, and in white noise one spectrum in a hundred has any.
  int wrong = 0;
  for (std::uint64_t record = 0; record < 200; ++record) {
    math::Stream noise(7, record);
    Values values;
    for (int i = 0; i < 4096; ++i) values.push_back(noise.normal());
    wrong += tones(spectrum(values, Window::hann, record % 2 == 0 ? 4096 : 512)).empty() ? 0 : 1;
    if (record > 0) continue;
    const auto mains = wave(4096, 0.5, 0.05, 0.0, 0.0);
    for (std::size_t i = 0; i < 4096; ++i) values[i] += mains[i];
    const auto lines = tones(spectrum(values, Window::hann, 1024));
    ASSERT_EQ(lines.size(), 1U);
    EXPECT_NEAR(lines[0].frequency, 0.05, 5e-4);
    EXPECT_NEAR(std::sqrt(2.0 * lines[0].power), 0.5, 0.05);
  }
  EXPECT_LE(wrong, 8);
}

// A converter of known widths, ramped and swept by a sine: found within what is said, as often as
// it is said.
TEST(Density, KnownLinearityIsRecovered) {
  const int codes = 64;
  Values edges{-1.0};  // transitions, in LSB, below codes 1 to 63
  math::Stream widths(8, 0);
  for (int k = 1; k < codes; ++k) {
    const double width = k == 1 ? 1.0 : k == 20 ? 0.0 : 1.0 + 0.4 * (widths.uniform() - 0.5);
    edges.push_back(k == 1 ? 0.0 : edges.back() + width);
  }
  edges.erase(edges.begin());
  const double span = edges.back();
  const double lsb = span / (codes - 2);
  for (const auto stimulus : {Stimulus::ramp, Stimulus::sine}) {
    int dnl = 0, inl = 0, count = 0;
    constexpr int n = 100000;
    for (std::uint64_t record = 0; record < 40; ++record) {
      Histogram histogram;
      math::Stream stream(9, record);
      for (int i = 0; i < n; ++i) {
        const double u = stream.uniform();
        const double v = stimulus == Stimulus::ramp
                             ? -1.0 + u * (span + 2.0)
                             : span / 2.0 - (span / 2.0 + 1.5) * std::cos(pi * u);
        histogram.add(std::ranges::upper_bound(edges, v) - edges.begin());
      }
      const auto found = linearity(histogram, 0, codes - 1, stimulus);
      EXPECT_TRUE(found.reaches_both_ends);
      EXPECT_EQ(found.missing, std::vector<std::int64_t>{19});
      ASSERT_EQ(found.dnl.size(), static_cast<std::size_t>(codes - 2));
      for (std::size_t j = 0; j + 1 < found.dnl.size(); ++j) {
        if (j == 18) continue;  // the missing one, whose width is known without doubt
        const double width = (edges[j + 1] - edges[j]) / lsb - 1.0;
        const double bent = (edges[j + 1] - edges[0]) / lsb - static_cast<double>(j + 1);
        dnl += std::abs(found.dnl[j] - width) <= 1.96 * found.dnl_standard[j] ? 1 : 0;
        inl += std::abs(found.inl_ends[j] - bent) <= 1.96 * found.inl_standard[j] ? 1 : 0;
        ++count;
      }
      const auto needed =
          static_cast<double>(samples_needed(stimulus, codes, found.inl_standard[31]));
      EXPECT_NEAR(needed / n, 1.0, 0.25) << static_cast<int>(stimulus);
    }
    EXPECT_NEAR(dnl / static_cast<double>(count), 0.95, 0.02) << static_cast<int>(stimulus);
    EXPECT_NEAR(inl / static_cast<double>(count), 0.95, 0.05) << static_cast<int>(stimulus);
  }
  Histogram nothing;
  nothing.add(0, 10);
  EXPECT_THROW(linearity(nothing, 0, 63, Stimulus::ramp), std::domain_error);
}

// A ramp or coherent sine with noise alone: transitions of an even converter, as sure as is said.
TEST(Density, EvenSamplesAreSurer) {
  const int codes = 64;
  for (const auto stimulus : {Stimulus::ramp, Stimulus::sine}) {
    for (const double noise : {0.1, 0.7, 2.0}) {
      double dnl = 0.0, inl = 0.0, count = 0.0;
      constexpr int n = 20011;
      for (std::uint64_t record = 0; record < 60; ++record) {
        Histogram histogram;
        math::Stream stream(10, record);
        for (int i = 0; i < n; ++i) {
          const double u = (i + 0.5) / n;
          const double v = stimulus == Stimulus::ramp
                               ? -9.0 + u * (codes + 18.0)
                               : codes / 2.0 - (codes / 2.0 + 9.0) * std::cos(pi * u);
          const double noisy = std::floor(v + noise * stream.normal());
          histogram.add(static_cast<std::int64_t>(std::clamp(noisy, 0.0, codes - 1.0)));
        }
        const auto found = linearity(histogram, 0, codes - 1, stimulus, noise);
        for (std::size_t j = 2; j + 2 < found.dnl.size(); ++j) {
          dnl += std::pow(found.dnl[j] / found.dnl_standard[j], 2);
          inl += std::pow(found.inl_ends[j] / found.inl_standard[j], 2);
          count += 1.0;
        }
        const auto needed = samples_needed(stimulus, codes, found.inl_standard[31], noise);
        EXPECT_NEAR(static_cast<double>(needed) / n, 0.9, 0.3);
      }
      // Root mean square of the errors in their stated uncertainty: 1.
      EXPECT_NEAR(std::sqrt(dnl / count), 1.0, 0.12) << static_cast<int>(stimulus) << " " << noise;
      EXPECT_NEAR(std::sqrt(inl / count), 1.0, 0.25) << static_cast<int>(stimulus) << " " << noise;
    }
  }
}

}  // namespace
}  // namespace tamlo::record
