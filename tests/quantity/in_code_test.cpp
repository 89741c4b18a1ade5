// SPDX-License-Identifier: Apache-2.0
#include "tamlo/quantity/in_code.hpp"

#include <gtest/gtest.h>

#include <cstdint>

#include "tamlo/budget/budget.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/signal/capture.hpp"

namespace tamlo {
namespace {

using namespace quantity;

// Each reads its own unit, with a prefix and limits, and refuses another.
TEST(InCode, ValuesAreOfTheirUnit) {
  const struct {
    Value (*read)(std::string_view);
    const char* text;
    double nominal;
    const char* refused;
  } cases[] = {{volts, "2500 mV ±0.1 %", 2.5, "2.5 A"},    {amperes, "4 mA ±1 %", 4e-3, "4 V"},
               {ohms, "240 kohm ±25 ppm/K", 240e3, "1 V"}, {farads, "100 nF ±10 %", 1e-7, "1 H"},
               {kelvins, "3950 K ±1 %", 3950.0, "1 ohm"},  {ratio, "100 ±0.5 %", 100.0, "1 V"}};
  for (const auto& [read, text, nominal, refused] : cases) {
    const auto value = read(text);
    EXPECT_DOUBLE_EQ(value.or_zero(), nominal) << text;
    EXPECT_EQ(value.limits.size(), 1u) << text;
    EXPECT_THROW(read(refused), NotationError) << refused;
  }
  EXPECT_EQ(converter_limits("±2 LSB ±2 ppm/K").limits.size(), 2u);
  EXPECT_EQ(target_limit("degC", "±0.5 K").size, 0.5);
  for (const char* text : {"1 V ±1 %", "±1 % ±2 %"}) {
    EXPECT_THROW(target_limit("V", text), NotationError) << text;
  }
  EXPECT_DOUBLE_EQ(range("-10..10 mV").high, 0.01);
}

// The board of the README, built in code: its figures are those of the file (tamlo budget: U at
// 12 V, by the tool's run on that file).
TEST(InCode, ABoardInTenLines) {
  model::Board board;
  board.references.push_back({.name = "supply", .voltage = volts("3.3 V ±2 %")});
  board.converters.push_back({.name = "main", .resolution = 10, .reference = "supply"});
  board.converters.front().offset = converter_limits("±2 LSB");
  model::Channel battery{.name = "battery", .span = range("0..14 V"), .converter = "main"};
  battery.frontend = {model::Divider{.top = ohms("47 kohm ±1 %"), .bottom = ohms("10 kohm ±1 %")}};
  battery.target.accuracy = target_limit("V", "±2 % of span");
  board.channels.push_back(battery);
  const auto budget = budget::evaluate(chain::build(board, "battery"), {.at = {12.0}});
  EXPECT_NEAR(budget.points.front().expanded, 0.311, 0.02);
}

// Codes as a driver has them are the doubles that they are.
TEST(InCode, ACaptureTakesCodesOfAnyWidth) {
  std::vector<std::int16_t> narrow;
  std::vector<std::uint16_t> positive;
  std::vector<std::int32_t> wide;
  std::vector<std::uint32_t> wide_positive;
  std::vector<double> values;
  for (int i = 0; i < 10'000; ++i) {
    const int code = (i * 7919) % 4096;
    narrow.push_back(static_cast<std::int16_t>(code));
    positive.push_back(static_cast<std::uint16_t>(code));
    wide.push_back(code);
    wide_positive.push_back(static_cast<std::uint32_t>(code));
    values.push_back(code);
  }
  signal::Capture of_values;
  of_values.add(values);
  const auto same = [&](const auto& codes) {
    signal::Capture capture;
    capture.add(codes);
    EXPECT_EQ(capture.count(), of_values.count());
    EXPECT_EQ(capture.moments().mean(), of_values.moments().mean());
    EXPECT_EQ(capture.histogram().variance(), of_values.histogram().variance());
    EXPECT_TRUE(std::ranges::equal(capture.head(), of_values.head()));
  };
  same(std::span<const std::int16_t>(narrow));
  same(std::span<const std::uint16_t>(positive));
  same(std::span<const std::int32_t>(wide));
  same(std::span<const std::uint32_t>(wide_positive));
  signal::Capture top;
  const std::uint32_t largest[] = {4294967295u};
  top.add(std::span<const std::uint32_t>(largest));
  EXPECT_EQ(top.histogram().max(), 4294967295);
}

}  // namespace
}  // namespace tamlo
