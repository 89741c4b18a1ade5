// SPDX-License-Identifier: Apache-2.0
// The lines of a screen of what is watched, and the strip that its chart is drawn from.
#include "tamlo/report/detail/screen.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "tamlo/error.hpp"

namespace tamlo::testing {
namespace {

using signal::Strip;

// Against a plain loop over all values: every column has the extremes, the mean and the count of
// the steps of a tenth of a second that begin in it.
TEST(Strip, LosesNoExtreme) {
  Strip strip;
  std::map<int, signal::StripColumn> steps;
  constexpr double rate = 50.0, whole = 900.0;
  for (int i = 0; i < static_cast<int>(rate * whole); ++i) {
    const double t = i / rate, value = std::sin(0.37 * i) * (i % 1009 == 0 ? 9.0 : 1.0);
    strip.add(t, value);
    steps[static_cast<int>(t / 0.1)].add(value);
  }
  for (const double window : {10.0, 60.0, 777.0}) {
    for (const std::size_t count : {7u, 80u, 300u}) {
      const auto columns = strip.columns(whole - window, whole, count);
      std::vector<signal::StripColumn> expected(count);
      for (const auto& [step, of] : steps) {
        const double place = (step * 0.1 - (whole - window)) / window * static_cast<double>(count);
        const bool inside =
            (step + 1) * 0.1 > whole - window + 1e-9 && place < static_cast<double>(count);
        if (inside) expected[static_cast<std::size_t>(std::max(0.0, place))].merge(of);
      }
      double low = 0.0, high = 0.0, low_expected = 0.0, high_expected = 0.0;
      std::uint64_t seen = 0, seen_expected = 0;
      for (std::size_t i = 0; i < count; ++i) {
        low = std::min(low, columns[i].low), high = std::max(high, columns[i].high);
        seen += columns[i].count, seen_expected += expected[i].count;
        low_expected = std::min(low_expected, expected[i].low);
        high_expected = std::max(high_expected, expected[i].high);
      }
      EXPECT_EQ(low, low_expected) << window << " " << count;
      EXPECT_EQ(high, high_expected);
      EXPECT_NEAR(static_cast<double>(seen), static_cast<double>(seen_expected), 5.0);
    }
  }
  // Older than the fine steps reach back: the coarse ones have every extreme of it.
  const auto all = strip.columns(0.0, whole, 10);
  double high = 0.0;
  std::uint64_t seen = 0;
  for (const auto& column : all) high = std::max(high, column.high), seen += column.count;
  EXPECT_EQ(seen, static_cast<std::uint64_t>(rate * whole));
  EXPECT_GT(high, 8.5);
  EXPECT_THROW(strip.add(901.0, NAN), ArgumentError);
  // A pause leaves a gap, and what is old is forgotten.
  strip.add(5000.0, 7.0);
  const auto later = strip.columns(4400.0, 5000.1, 6);
  EXPECT_EQ(later[0].count, 0u);
  EXPECT_EQ(later[5].count, 1u);
  strip.add(2.0 * Strip::longest, 7.0);
  for (const auto& column : strip.columns(0.0, 1000.0, 4)) EXPECT_EQ(column.count, 0u);
}

report::Screen screen_of(double value) {
  const auto volt = quantity::unit("V");
  report::Screen screen{.title = "a board", .seconds = 83.0};
  meter::LiveView view{.state = {.channel = "pack_voltage",
                                 .unit = volt,
                                 .readings = 200,
                                 .elapsed = 4.0,
                                 .last = value,
                                 .code = 3154.0,
                                 .min = 11.0,
                                 .max = 49.0,
                                 .noise = 0.012,
                                 .predicted_noise = 0.011,
                                 .settled = meter::Settled{.value = value}},
                       .span = {.low = 0.0, .high = 60.0, .unit = volt},
                       .allowed = 0.3,
                       .edges = {20.0, 40.0},
                       .zone = "charged"};
  view.shown = value - 0.02;
  view.row = meter::Row{.meter = value - 0.02,
                        .reading = value,
                        .difference = 0.02,
                        .normalised_error = 0.15,
                        .limit = 0.3,
                        .guard_band = 0.04,
                        .verdict = meter::Verdict::pass};
  screen.channels = {view};
  std::vector<signal::StripColumn> strip(66);
  for (std::size_t i = 30; i < strip.size(); ++i) strip[i].add(static_cast<double>(i % 50));
  screen.strips = {strip};
  screen.links = {{.name = "board", .lines = 200, .malformed = 3, .lost = 1, .problem = ""}};
  screen.aim = 50.0;
  return screen;
}

std::string text_of(const std::vector<report::ScreenLine>& lines) {
  std::string text;
  for (const auto& line : lines) {
    for (const auto& stretch : line) text += stretch.text;
    text += "\n";
  }
  return text;
}

// Columns of a terminal; bytes that continue a character take none.
std::size_t width_of(const report::ScreenLine& line) {
  std::size_t width = 0;
  for (const auto& stretch : line) {
    width += static_cast<std::size_t>(
        std::ranges::count_if(stretch.text, [](unsigned char c) { return (c & 0xC0U) != 0x80U; }));
  }
  return width;
}

TEST(Screen, SaysWhatIsThere) {
  const auto text = text_of(report::lines_of(screen_of(48.07), 100, 34));
  for (const char* const says :
       {"pack_voltage", "a board", "0:01:23", "code 3154  0xC52", "at rest", "zone charged", "0 V ",
        "60.0 V", "meter 48.050 V, reading 48.070 V, difference +0.02", "E_n 0.15: pass",
        "aim: up by 1.9 V to 50.000 V >", "noise 0.012 V, predicted 0.011 V", "lowest 11.00 V",
        "49.8 readings a second", "3 malformed lines, 1 times lost", "-60 s  scaled to the span",
        "now", "m mark   p pause", "█"}) {
    EXPECT_NE(text.find(says), std::string::npos) << says << "\n" << text;
  }
  auto end = screen_of(61.0);
  end.channels.front().state.at_end = true;
  const auto at_end = text_of(report::lines_of(end, 140, 34));
  EXPECT_NE(at_end.find("at an end of the codes: the value may lie beyond"), std::string::npos)
      << at_end;
  EXPECT_EQ(at_end.find("at rest"), std::string::npos) << at_end;

  auto screen = screen_of(61.0);
  screen.ascii = screen.paused = screen.fits_values = true;
  screen.aim = 61.0;
  const auto plain = text_of(report::lines_of(screen, 100, 34));
  EXPECT_TRUE(std::ranges::all_of(plain, [](unsigned char c) { return c < 128; })) << plain;
  for (const char* const says :
       {"outside of the span", "aim: at 61.000 V", "PAUSED", "scaled to the values"}) {
    EXPECT_NE(plain.find(says), std::string::npos) << says << "\n" << plain;
  }
}

// No line is longer than the terminal is wide, and there are not more of them than it is high.
TEST(Screen, FitsEveryTerminal) {
  for (const double value : {48.07, -3.0, 1e6}) {
    auto screen = screen_of(value);
    for (int channels = 1; channels < 4; ++channels) {
      for (std::size_t width = 1; width < 200; width += 13) {
        for (std::size_t height = 1; height < 60; height += 7) {
          const auto lines = report::lines_of(screen, width, height);
          EXPECT_LE(lines.size(), height);
          if (width < 80) continue;
          for (const auto& line : lines) EXPECT_LE(width_of(line), width) << text_of({line});
        }
      }
      screen.channels.push_back(screen.channels.front());
      screen.strips.push_back(screen.strips.front());
    }
  }
  report::Screen empty;
  EXPECT_TRUE(report::lines_of(empty, 80, 24).empty());
  empty.channels.emplace_back();
  EXPECT_NE(text_of(report::lines_of(empty, 80, 24)).find("no reading yet"), std::string::npos);
}

}  // namespace
}  // namespace tamlo::testing
