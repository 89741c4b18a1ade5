// SPDX-License-Identifier: Apache-2.0
// Records over time.
#include <fmt/format.h>

#include <algorithm>

#include "record_words.hpp"

namespace tamlo::report {

std::string plot_charts(const std::vector<Charted>& charts,
                        const std::optional<quantity::Range>& scale, Image image) {
  const auto count = std::min<std::size_t>(charts.size(), 8);
  std::string script;
  for (std::size_t i = 0; i < count; ++i) {
    const Canvas c{charts[i].verdict, charts[i].unit};
    script += fmt::format("$t{} << EOD\n", i);
    for (const auto& s : charts[i].chart.stretches()) {
      const double middle = static_cast<double>(s.first) + static_cast<double>(s.count - 1) / 2.0;
      script += fmt::format("{:.17g} {:.17g} {:.17g} {:.17g}\n", c.time(middle), c.value(s.low),
                            c.value(s.high), c.value(s.mean));
    }
    script += "EOD\n";
  }
  script += common_look;
  if (count > 1) script += fmt::format("set multiplot layout {},1\n", count);
  script +=
      "set style fill solid 0.35 noborder\nset lmargin 11\nset offsets 0, 0, graph 0.05, graph "
      "0.05\n";
  for (std::size_t i = 0; i < count; ++i) {
    const Canvas c{charts[i].verdict, charts[i].unit};
    const bool last = i + 1 == count;
    script += fmt::format(
        "set title {}\nset ylabel {}\nset xlabel {}\nset bmargin {}\n{}\n",
        literal(charts[i].verdict.channel), literal(c.codes() ? "code" : c.unit.symbol),
        literal(last ? c.time_label() : ""), last ? 5 : 2, last ? "set key below" : "unset key");
    if (scale) {
      script += fmt::format("set offsets\nset yrange [{:.17g}:{:.17g}]\n", c.value(scale->low),
                            c.value(scale->high));
    }
    const auto stretch = charts[i].chart.stretches().front().count;
    script += stretch > 1
                  ? fmt::format(
                        "plot $t{0} using 1:2:3 with filledcurves lc '{1}' title 'lowest to "
                        "highest', $t{0} using 1:4 with lines lw 1.5 lc '{1}' title {2}\n",
                        i, blue, literal(fmt::format("mean of {} samples", stretch)))
                  : fmt::format("plot $t{} using 1:4 with lines lw 1.2 lc '{}' title 'samples'\n",
                                i, blue);
  }
  if (count > 1) script += "unset multiplot\n";
  return draw(image, script);
}

std::string plot_strip(const Screen& screen, Image image) {
  std::string script = common_look;
  const auto count = std::min<std::size_t>(screen.strips.size(), 8);
  if (count > 1) script += fmt::format("set multiplot layout {},1\n", count);
  for (std::size_t i = 0; i < count; ++i) {
    const auto& unit = screen.channels[i].state.unit;
    const auto& strip = screen.strips[i];
    script += fmt::format("$t{} << EOD\n", i);
    for (std::size_t c = 0; c < strip.size(); ++c) {
      if (strip[c].count == 0) continue;
      const double ago =
          screen.window * (static_cast<double>(c) + 0.5) / static_cast<double>(strip.size()) -
          screen.window;
      script += fmt::format(
          "{:.17g} {:.17g} {:.17g} {:.17g}\n", ago, quantity::in_unit(strip[c].low, unit),
          quantity::in_unit(strip[c].high, unit), quantity::in_unit(strip[c].mean(), unit));
    }
    // Never empty: gnuplot would not draw it.
    script += fmt::format("{:.17g} NaN NaN NaN\nEOD\n", -screen.window);
    const auto& span = screen.channels[i].span;
    if (!screen.fits_values) {
      script += fmt::format("set yrange [{:.17g}:{:.17g}]\n", quantity::in_unit(span.low, unit),
                            quantity::in_unit(span.high, unit));
    }
    script += fmt::format(
        "set xrange [{:.17g}:0]\nset title {}\nset ylabel {}\nset xlabel {}\nset style fill solid "
        "0.35 noborder\nset key below\nplot $t{} using 1:2:3 with filledcurves lc '{}' title "
        "'lowest "
        "to highest', $t{} using 1:4 with lines lw 1.5 lc '{}' title 'mean'\n",
        -screen.window, literal(screen.channels[i].state.channel), literal(unit.symbol),
        literal("time, from now [s]"), i, blue, i, blue);
  }
  if (count > 1) script += "unset multiplot\n";
  return draw(image, script);
}

}  // namespace tamlo::report
