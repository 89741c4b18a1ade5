// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "gnuplot.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/sampled.hpp"
#include "tamlo/report/plot.hpp"
#include "words.hpp"

namespace tamlo::report {

std::string plot_sampled(const chain::Chain& chain, double frequency, Image image) {
  const auto& span = chain.channel.span;
  const auto sine = chain::sampled_sine(chain, frequency);
  const auto stretch = chain::sample_sine(chain, frequency);
  const bool fast = stretch.duration < 0.5;
  const double per = fast ? 1e3 : 1.0;  // ms, or s
  const auto row = [&](double time, double value) {
    return fmt::format("{:.9g} {:.9g}\n", time * per, quantity::in_unit(value, span.unit));
  };
  // A curve needs some forty points a period, and a picture has no room for more periods than some
  // hundred: beyond that the quantity is the band that it fills, or its points would fold too.
  constexpr double most_periods = 200.0;
  const double periods = frequency * stretch.duration;
  const bool band = periods > most_periods;
  const auto points = static_cast<int>(40.0 * std::clamp(periods, 10.0, most_periods));
  std::string input = "$x << EOD\n", alias = "$a << EOD\n";
  for (int i = 0; i <= points; ++i) {
    const double time = stretch.duration * i / points;
    if (!band) {
      input += row(time, span.middle() + stretch.amplitude *
                                             std::sin(2.0 * std::numbers::pi * frequency * time));
    }
    if (sine.alias) alias += row(time, stretch.shown_at(time, *sine.alias));
  }
  std::string conversions = "$c << EOD\n", readings = "$r << EOD\n";
  for (std::size_t i = 0; i < stretch.times.size(); ++i) {
    conversions += row(stretch.times[i], stretch.conversions[i]);
  }
  for (std::size_t i = 0; i < stretch.readings.size(); ++i) {
    readings += row(stretch.reading_times[i], stretch.readings[i]);
  }
  const auto hertz = [](double f) { return quantity::engineering(f, quantity::unit("Hz"), 4); };
  auto script =
      input + "EOD\n" + alias + "EOD\n" + conversions + "EOD\n" + readings + "EOD\n" + common_look;
  script += fmt::format(
      "set title {}\nset xlabel {}\nset ylabel {}\nset xrange [0:{:.9g}]\n"
      "set offsets 0, 0, graph 0.05, graph 0.05\nset key outside bottom center horizontal\n",
      literal(fmt::format("{}: a sine of {}, {:.3g} conversions and {:.3g} readings a period",
                          chain.channel.name, hertz(frequency), sine.conversions_per_period,
                          sine.readings_per_period)),
      literal(fast ? "time [ms]" : "time [s]"), literal(heading(chain.channel.measures, span.unit)),
      stretch.duration * per);
  if (band) {
    script += fmt::format(
        "plot [0:{:.9g}] '+' using 1:({:.9g}):({:.9g}) with filledcurves fillcolor '#ececec' title "
        "{}",
        stretch.duration * per, quantity::in_unit(span.middle() - stretch.amplitude, span.unit),
        quantity::in_unit(span.middle() + stretch.amplitude, span.unit),
        literal(fmt::format("the quantity, {:.4g} periods", periods)));
  } else {
    script += fmt::format("plot $x using 1:2 with lines linecolor '#9a9a9a' title {}",
                          literal("the quantity"));
  }
  if (stretch.times.size() <= 1000) {
    script += fmt::format(
        ", $c using 1:2 with points pointtype 7 pointsize 0.5 linecolor '#7a7a7a' title {}",
        literal("conversions"));
  }
  const auto size = stretch.readings.size() <= 200 ? 0.8 : 0.0;
  script += fmt::format(
      ", $r using 1:2 with steps linewidth 2 linecolor '#1f5fa8' notitle"
      ", $r using 1:2 with points pointtype 7 pointsize {} linecolor '#1f5fa8' "
      "title {}",
      size, literal(fmt::format("readings, {:.3g} % of the sine", 100.0 * sine.shown)));
  if (sine.alias) {
    script +=
        fmt::format(", $a using 1:2 with lines dashtype 2 linewidth 2 linecolor '#b3261e' title {}",
                    literal(fmt::format("what they show: {}", hertz(*sine.alias))));
  }
  return draw(image, script + "\n");
}

}  // namespace tamlo::report
