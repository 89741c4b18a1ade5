// SPDX-License-Identifier: Apache-2.0
// What stands in the result register, exhaustively over all codes.
#include "tamlo/chain/detail/register_format.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <set>
#include <string>

#include "boards.hpp"
#include "plain_readings.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/simulate/unit.hpp"

namespace tamlo::chain {
namespace {

using model::RegisterFormat;
using Format = model::RegisterFormat::Kind;

// The word of `to` bits, written out in noughts and ones.
std::int64_t by_letters(std::int64_t code, int from, int to) {
  std::string bits;
  for (int i = from; i-- > 0;) bits += ((code >> i) & 1) != 0 ? '1' : '0';
  std::string word;
  while (static_cast<int>(word.size()) < to) word += bits;
  return std::stoll(word.substr(0, static_cast<std::size_t>(to)), nullptr, 2);
}

TEST(RegisterFormat, EveryCodeOfEveryWidth) {
  for (const int bits : {8, 10, 12, 13, 16}) {
    const auto law = [&](RegisterFormat r) { return report_law(r, bits, 0, 0.0, 0.0); };
    const auto shifted = law({.kind = Format::shifted, .bits = 16});
    const auto widened = law({.kind = Format::replicated, .bits = 16});
    const auto dropped = law({.kind = Format::dropped, .bits = 2});
    const auto divided = law({.kind = Format::divided, .divisor = 10});
    std::set<std::int64_t> seen[4];
    for (std::int64_t code = 0; code < (std::int64_t{1} << bits); ++code) {
      const std::int64_t expected[] = {code << (16 - bits), by_letters(code, bits, 16), code >> 2,
                                       code / 10};
      const chain::RegisterFormat* laws[] = {&shifted, &widened, &dropped, &divided};
      for (int i = 0; i < 4; ++i) {
        const auto value = reported(*laws[i], code);
        ASSERT_EQ(value, expected[i]) << bits << " " << code << " " << i;
        seen[i].insert(value);
        const auto codes = codes_reported_as(*laws[i], value);
        ASSERT_LE(codes.first, code);
        ASSERT_GE(codes.last, code);
        ASSERT_EQ(reported(*laws[i], codes.first), value);
        ASSERT_EQ(reported(*laws[i], codes.last), value);
      }
    }
    EXPECT_EQ(shifted.occurring, static_cast<std::int64_t>(seen[0].size()));
    EXPECT_EQ(widened.occurring, static_cast<std::int64_t>(seen[1].size()));
    EXPECT_EQ(dropped.occurring, static_cast<std::int64_t>(seen[2].size()));
    EXPECT_EQ(divided.occurring, static_cast<std::int64_t>(seen[3].size()));
    EXPECT_EQ(widened.last_reported, 65535);
    // A whole number of codes is one quantiser of that width, which reads low by half of it.
    EXPECT_NEAR(dropped.width, 4.0, 1e-9);
    EXPECT_NEAR(dropped.offset, -1.5 / 4.0, 1e-9);
    EXPECT_NEAR(widened.width, 1.0, bits >= 16 ? 1e-9 : 0.02);
  }
  // A value that no code gives.
  const auto gaps = report_law({.kind = Format::shifted, .bits = 16}, 12, 0, 0.0, 0.0);
  const auto none = codes_reported_as(gaps, 17);
  EXPECT_GT(none.first, none.last);
}

TEST(RegisterFormat, SignedCodes) {
  const auto divided = report_law({.kind = Format::divided, .divisor = 16}, 13, -4096, 0.0, 0.0);
  const auto shifted = report_law({.kind = Format::shifted, .bits = 16}, 13, -4096, 0.0, 0.0);
  const auto widened = report_law({.kind = Format::replicated, .bits = 8}, 4, -8, 0.0, 0.0);
  for (int code = -4096; code < 4096; ++code) {
    ASSERT_EQ(reported(divided, code), code / 16);
    ASSERT_EQ(reported(shifted, code), code * 8);
  }
  EXPECT_EQ(divided.occurring, 512);       // 0 stands for 31 codes, both ends share the rest
  EXPECT_EQ(reported(widened, -8), -120);  // 1000 1000
  EXPECT_EQ(reported(widened, -1), -1);
  EXPECT_EQ(reported(widened, 7), 119);  // 0111 0111
}

model::Board module(RegisterFormat reporting, int bits = 16) {
  auto b = testing::board({.bits = bits, .span = "0..2 V"});
  b.converters.front().reporting = reporting;
  return b;
}

TEST(RegisterFormat, CountsOverTheSpanWithHeadRoom) {
  const RegisterFormat counts{
      .kind = Format::counts, .at_low = 4000, .at_high = 20000, .least = 3000, .most = 22000};
  const auto chain = build(module(counts), "x");
  for (std::int64_t code = 0; code < 65536; ++code) {
    // Codes of the ends of 0..2 V on 2.5 V: 0 and 52428.8.
    const double exact = 4000.0 + static_cast<double>(code) * 16000.0 / 52428.8;
    const auto expected =
        std::min<std::int64_t>(22000, static_cast<std::int64_t>(std::floor(exact + 0.5)));
    ASSERT_EQ(reported(chain.report, code), expected) << code;
  }
  EXPECT_DOUBLE_EQ(reading(chain, 4000.0), 0.0);
  EXPECT_DOUBLE_EQ(reading(chain, 12000.0), 1.0);
  EXPECT_DOUBLE_EQ(reading(chain, 20000.0), 2.0);
  EXPECT_NEAR(step_at(chain, 1.0), 2.0 / 16000.0, 1e-12);
  EXPECT_NEAR(bias(chain, 1.3), 0.0, 1e-7);
}

// Several in a row, each on what the one before gives; the firmware's line leads back to the volts.
TEST(RegisterFormat, SeveralInARow) {
  struct Row {
    std::vector<RegisterFormat> formats;
    std::int64_t (*plain)(std::int64_t code);
    double step;  // codes
  };
  const RegisterFormat left{.kind = Format::shifted, .bits = 16},
      high{.kind = Format::dropped, .bits = 8};
  const RegisterFormat wide{.kind = Format::replicated, .bits = 16};
  const RegisterFormat third{.kind = Format::divided, .divisor = 3};
  for (const auto& [formats, plain, step] : {
           Row{{left, high}, [](std::int64_t c) { return (c << 4) >> 8; }, 16.0},
           Row{{high, left}, [](std::int64_t c) { return (c >> 8) << 12; }, 256.0},
           Row{{wide, high, third},
               [](std::int64_t c) { return (((c << 4) | (c >> 8)) >> 8) / 3; },
               48.0},
       }) {
    const std::vector<RegisterFormat> before(formats.begin(), formats.end() - 1);
    const auto law = report_law(formats.back(), 12, 0, 0.0, 4096.0, before);
    std::set<std::int64_t> seen;
    double squares = 0.0;
    for (std::int64_t code = 0; code < 4096; ++code) {
      ASSERT_EQ(reported(law, code), plain(code)) << code;
      seen.insert(plain(code));
      const double error =
          static_cast<double>(plain(code)) - law.offset - law.gain * static_cast<double>(code);
      squares += error * error / law.gain / law.gain / 4096.0;
    }
    EXPECT_EQ(law.occurring, static_cast<std::int64_t>(seen.size()));
    EXPECT_NEAR(law.step, step, 0.02 * step);
    EXPECT_NEAR(law.width, std::sqrt(1.0 + 12.0 * squares), 1e-6 * law.width);
    EXPECT_NEAR(law.width, step, 0.02 * step);
  }
  // Counts of the span behind the high half of a word: 0.5 V and 2.0 V are 0 and 1000.
  auto b = testing::board({.span = "0.5..2 V"});
  b.converters.front().formats_before = {left, high};
  b.converters.front().reporting = {
      .kind = Format::counts, .at_low = 0, .at_high = 1000, .least = -10'000, .most = 10'000};
  const auto chain = build(b, "x");
  for (const double x : {0.5, 1.0, 1.9}) {
    const auto converted = convert(chain, code(chain, x, chain.nominal));
    const auto found = reported(chain.report, converted.code);
    EXPECT_NEAR(static_cast<double>(found), (x - 0.5) / 1.5 * 1000.0, 8.0) << x;
    EXPECT_NEAR(reading(chain, static_cast<double>(found)), x, 0.012) << x;
  }
}

// Budgets through each report against virtual units that convert, report and scale one by one.
TEST(RegisterFormat, TheBudgetIsThatOfSimulatedConversions) {
  const RegisterFormat reports[] = {
      {.kind = Format::shifted, .bits = 16},
      {.kind = Format::dropped, .bits = 2},
      {.kind = Format::divided, .divisor = 10},
      {.kind = Format::counts, .at_low = 0, .at_high = 300, .least = -10, .most = 320}};
  for (const auto& reporting : reports) {
    for (const double noise : {0.05, 2.0}) {
      auto b = module(reporting, 10);
      b.converters.front().noise.limits = {{.size = noise,
                                            .unit = quantity::unit("LSB"),
                                            .basis = quantity::Basis::code,
                                            .distribution = quantity::Distribution::normal,
                                            .noise = true}};
      b.channels.front().average.count = 8;
      const auto chain = build(b, "x");
      const auto unit = simulate::with_deviations(chain, {});
      double sum = 0.0, squares = 0.0;
      constexpr int trials = 60000;
      math::RandomStream place(7, 1);
      for (int i = 0; i < trials; ++i) {
        math::RandomStream stream(8, static_cast<std::uint64_t>(i));
        const double x = 0.5 + place.uniform();  // anywhere within a step
        const double error = testing::plain_reading(chain, unit, x, stream) - x;
        sum += error;
        squares += error * error;
      }
      const double mean = sum / trials;
      const double deviation = std::sqrt(squares / trials - mean * mean);
      EXPECT_NEAR(deviation / reading_noise(chain, 1.0), 1.0, 0.02)
          << static_cast<int>(reporting.kind) << " " << noise;
      EXPECT_NEAR(mean, bias(chain, 1.0), 0.02 * step_at(chain, 1.0));
    }
  }
}

// What can be found in the register, each kind of report at and beyond its ends.
TEST(RegisterFormat, WhatOccurs) {
  const auto law = report_law({}, 12, 0, 0.0, 4095.0);
  for (const double code : {0.0, 1.0, 4095.0}) EXPECT_TRUE(occurs(law, code)) << code;
  for (const double code : {-1.0, 0.5, 4096.0, 1e300, -1e300})
    EXPECT_FALSE(occurs(law, code)) << code;
}

}  // namespace
}  // namespace tamlo::chain
