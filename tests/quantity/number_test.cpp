// SPDX-License-Identifier: Apache-2.0
#include "tamlo/quantity/detail/number.hpp"

#include <gtest/gtest.h>

#include <bit>
#include <cmath>
#include <cstdint>
#include <random>
#include <string>

namespace tamlo::quantity {
namespace {

TEST(Whole, HasFourBases) {
  const std::pair<const char*, std::optional<std::uint64_t>> cases[] = {
      {"0", 0U},
      {"31", 31U},
      {"0x1F", 31U},
      {"0b11111", 31U},
      {"0o37", 31U},
      {"0x", {}},
      {"", {}},
      {"-1", {}},
      {"+1", {}},
      {"1.0", {}},
      {"0xG", {}},
      {"0X1F", {}},
      {"0b2", {}},
      {"1 ", {}},
      {"18446744073709551615", ~std::uint64_t{0}},
      {"18446744073709551616", {}},
  };
  for (const auto& [text, value] : cases) EXPECT_EQ(quantity::parse_whole(text), value) << text;
  EXPECT_EQ(quantity::parse_whole("0o37", "xb"), std::nullopt);
  EXPECT_EQ(quantity::parse_whole("0X1f", "xX"), 31U);
}

TEST(Number, PowersOfTenAreExact) {
  EXPECT_EQ(parse_number("2.5", unit("mV")), 2.5e-3);
  EXPECT_EQ(parse_number("0.1", unit("uV")), 1e-7);
  EXPECT_EQ(parse_number("4.7", unit("kohm")), 4700.0);
  EXPECT_EQ(parse_number("100", unit("nF")), 1e-7);
  EXPECT_EQ(parse_number("0.05", unit("%")), 5e-4);
  EXPECT_EQ(parse_number("25", unit("ppm")), 25e-6);
  EXPECT_EQ(parse_number("+1e-3", unit("MHz")), 1000.0);
  EXPECT_EQ(parse_number("23", unit("degC")), 296.15);
  EXPECT_EQ(parse_number("1.5", unit("min")), 90.0);
  EXPECT_EQ(parse_number(".5"), 0.5);
  EXPECT_EQ(parse_number("5."), 5.0);
}

TEST(Number, ReadsWholeOrFails) {
  for (const char* bad : {"", "x", "1,5", "1 5", "0x10", "inf", "nan", "1e", "--1", "1.2.3",
                          "1e999", "1e-999", "1e999999999999"}) {
    EXPECT_THROW(parse_number(bad), NotationError) << bad;
  }
  try {
    parse_number("1,5", {}, 7);
    FAIL();
  } catch (const NotationError& error) {
    EXPECT_EQ(error.column, 7U);
    EXPECT_EQ(error.problem, "\"1,5\"");
    EXPECT_NE(error.hint.find("with a point"), std::string::npos);
  }
}

TEST(Number, PrintsAsAPersonWould) {
  EXPECT_EQ(format_number(2.4e5, unit("kohm")), "240");
  EXPECT_EQ(format_number(6.103515625e-4, unit("uV")), "610.3515625");
  EXPECT_EQ(format_number(1e-9, unit("V")), "1e-9");
  EXPECT_EQ(format_number(0.00025), "0.00025");
  EXPECT_EQ(format_number(-0.3), "-0.3");
  EXPECT_EQ(format_number(1e22), "1e22");
  EXPECT_EQ(format_number(0.0), "0");
  EXPECT_EQ(format_number(-0.0), "-0");
  for (const char* celsius : {"23", "-20", "150", "0", "0.05", "100.1"}) {
    EXPECT_EQ(format_number(parse_number(celsius, unit("degC")), unit("degC")), celsius);
  }
}

// Any finite double, in any unit that is a power of ten of SI, comes back with the same bits.
TEST(Number, PrintThenParseGivesTheSameBits) {
  std::mt19937_64 bits(20261124);
  const Unit units[] = {unit("V"), unit("mV"), unit("uV"), unit("kohm"), unit("MHz"), unit("ppm")};
  for (int i = 0; i < 60000; ++i) {
    const double value = std::bit_cast<double>(bits());
    if (!std::isfinite(value) || std::abs(value) < 1e-290 || std::abs(value) > 1e290) continue;
    const auto& in = units[static_cast<std::size_t>(i) % std::size(units)];
    const auto text = format_number(value, in);
    ASSERT_EQ(std::bit_cast<std::uint64_t>(parse_number(text, in)),
              std::bit_cast<std::uint64_t>(value))
        << text << " " << in.symbol;
  }
}

// Units with another factor have a text for every value that was read in them.
TEST(Number, WhatWasReadInAUnitPrintsInIt) {
  for (const char* symbol : {"min", "h", "year", "degC", "degF", "days"}) {
    for (const char* text : {"1", "0.1", "23.7", "45", "1.05", "-40", "1e-3", "12345.678"}) {
      const double value = parse_number(text, unit(symbol));
      const auto printed = format_number(value, unit(symbol));
      ASSERT_FALSE(printed.empty()) << text << " " << symbol;
      EXPECT_EQ(parse_number(printed, unit(symbol)), value) << text << " " << symbol;
    }
  }
}

TEST(Number, UnitsAreCaseSensitiveAndComposed) {
  EXPECT_FALSE(find_unit("mv"));
  for (const char* text : {"d/year %", "% %", "mV/V ppm", "V/%"})
    EXPECT_FALSE(find_unit(text)) << text;
  EXPECT_TRUE(find_unit("ppm/K"));
  EXPECT_FALSE(find_unit("KHz"));
  EXPECT_FALSE(find_unit("Kohm"));
  EXPECT_FALSE(find_unit("cV"));
  EXPECT_EQ(similar_unit("KHZ"), "kHz");
  EXPECT_EQ(similar_unit("mv"), "mV");
  EXPECT_EQ(unit("mV").exponent, -3);
  EXPECT_EQ(unit("MV").exponent, 6);
  EXPECT_EQ(find_unit("k\u03a9"), unit("kohm"));
  EXPECT_EQ(find_unit("\u00b5V"), unit("uV"));
  EXPECT_EQ(find_unit("\u03bcV"), unit("uV"));
  EXPECT_EQ(unit("mV/V").dimension, Dimension{});
  EXPECT_EQ(unit("V/A").dimension, unit("ohm").dimension);
  EXPECT_EQ(unit("N m").dimension, unit("J").dimension);
  EXPECT_EQ(unit("A s").dimension, unit("C").dimension);
  EXPECT_EQ(unit("V^2/Hz").dimension, [] {
    auto d = unit("V/sqrt(Hz)").dimension;
    for (auto& half : d.halves) half = static_cast<std::int8_t>(2 * half);
    return d;
  }());
  EXPECT_NE(unit("Hz").dimension, unit("Sa/s").dimension);
  EXPECT_EQ(unit("mV/degC").offset, 0.0);
  EXPECT_EQ(difference_unit(unit("degC")).symbol, "K");
}

}  // namespace
}  // namespace tamlo::quantity
