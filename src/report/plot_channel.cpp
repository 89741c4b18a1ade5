// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "gnuplot.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/chain/sampled.hpp"
#include "tamlo/report/plot.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

using quantity::engineering;
using quantity::unit;

// The normal distribution's upper tail.
double tail(double distance, double sigma) {
  return sigma > 0.0 ? std::erfc(distance / sigma / std::sqrt(2.0)) / 2.0 : 0.0;
}

}  // namespace

Chart chart_of_response(const chain::Chain& chain) {
  const auto response = chain::response(chain, 600);
  const bool known = response.rate_known;
  // Decibels down to -120, where a picture ends.
  const auto decibels = [](double part) { return 20.0 * std::log10(std::max(part, 1e-6)); };
  ChartPanel passes{.x = {known ? "frequency [Hz]" : "frequency [of the rate]"},
                    .y = {"gain [dB]", -100.0, 5.0}};
  ChartSeries digital{.name = "average and filter"},
      whole{.name = "with what is before them", .look = ChartLook::faint};
  for (const auto& [f, own, all] : response.passed) {
    digital.points.push_back({f, decibels(own), 0.0});
    whole.points.push_back({f, decibels(all), 0.0});
  }
  passes.series.push_back(std::move(digital));
  if (known && (!chain.path.time_constants.empty() || chain.converter.data_rate))
    passes.series.push_back(std::move(whole));
  if (known && chain.conditions.mains)
    passes.marks.push_back({chain.conditions.mains->or_zero(), "mains"});
  ChartSeries readings{.name = "readings", .shape = ChartShape::steps, .points = {{0.0, 0.0, 0.0}}};
  for (std::size_t i = 0; i < response.answers.size(); ++i) {
    readings.points.push_back(
        {static_cast<double>(i + 1) * response.period, response.answers[i], 0.0});
  }
  ChartSeries marks{.shape = ChartShape::dots, .points = readings.points};
  std::string names;
  for (const auto& stage : chain.firmware.digital.stages)
    names += (names.empty() ? "" : ", ") + stage.name;
  return {
      .title = fmt::format("{}: {}", chain.channel.name, names),
      .panels = {
          std::move(passes),
          {.x = {known ? "time after a step [s]" : "conversions after a step, by readings", 0.0},
           .y = {"reading, of the step"},
           .series = {std::move(readings), std::move(marks)}}}};
}

std::string plot_zones(const budget::ChannelSettings& settings, Image image) {
  const auto& channel = settings.chain.channel;
  const auto difference = quantity::difference_unit(channel.span.unit);
  const auto& edge =
      *std::ranges::max_element(settings.zone_edges, {}, &budget::ZoneEdge::standard_uncertainty);
  const double reach = 6.0 * std::max(edge.standard_uncertainty, edge.figures.noise);
  std::string data = "$z << EOD\n";
  constexpr int points = 400;
  for (int i = -points; i <= points; ++i) {
    const double away = reach * i / points;
    data += fmt::format("{:.9g} {:.6g} {:.6g}\n", away / difference.scale(),
                        std::max(tail(std::abs(away), edge.standard_uncertainty), 1e-12),
                        std::max(tail(std::abs(away), edge.figures.noise), 1e-12));
  }
  data += "EOD\n";
  auto script = data + common_look;
  script += fmt::format(
      "set title {}\nset xlabel {}\nset ylabel {}\nset logscale y\nset yrange [1e-9:2]\n"
      "set format y '%.0e'\nset xrange [{:.9g}:{:.9g}]\n"
      "set key outside bottom center horizontal\n",
      literal(fmt::format("{}: probability of the wrong zone about its edge at {}", channel.name,
                          with_unit(exact(edge.at, channel.span.unit), channel.span.unit))),
      literal(heading(fmt::format("true {} less the edge", channel.measures), difference)),
      literal("probability"), -reach / difference.scale(), reach / difference.scale());
  for (const auto& [name, at] : {std::pair{edge.below, 0.25}, std::pair{edge.above, 0.75}}) {
    script += fmt::format("set label {} at graph {},0.97 center textcolor rgb '#444444'\n",
                          literal(name), at);
  }
  script += fmt::format(
      "plot $z using 1:2 with lines linewidth 2 linecolor '#1f5fa8' title {}, "
      "$z using 1:3 with lines linewidth 2 dashtype 2 linecolor '#b07a00' title {}\n",
      literal("a unit drawn at random"), literal("one reading of one unit, by noise alone"));
  return draw(image, script);
}

std::string plot_staircase(const chain::Chain& one, const chain::Chain& other, double slope,
                           Image image) {
  const auto& span = one.channel.span;
  const double step =
      std::max(chain::step_at(one, span.middle()), chain::step_at(other, span.middle()));
  const double half = std::min(6.0 * step, span.width() / 2.0);
  const double from = span.middle() - half;
  std::string data = "$r << EOD\n";
  constexpr int points = 4000;
  for (int i = 0; i <= points; ++i) {
    const double x = from + 2.0 * half * i / points;
    data += fmt::format("{:.12g} {:.12g}", (x - from) / std::abs(slope),
                        quantity::in_unit(x, span.unit));
    for (const auto* chain : {&one, &other}) {
      const auto found = chain::register_value(*chain, chain::code(*chain, x, chain->nominal));
      data += fmt::format(
          " {:.12g}",
          quantity::in_unit(chain::reading(*chain, static_cast<double>(found)), span.unit));
    }
    data += '\n';
  }
  data += "EOD\n";
  const auto name = [&](const chain::Chain& chain) {
    return literal(fmt::format(
        "{} bit: a step is {}, one every {}", chain.converter.resolution,
        amount(chain::step_at(chain, span.middle()), span.unit),
        engineering(chain::time_between_steps(chain, span.middle(), slope), unit("s"), 3)));
  };
  const auto script = fmt::format(
      "{}{}set title {}\nset xlabel {}\nset ylabel {}\nset xrange [0:{:.9g}]\n"
      "plot $r using 1:2 with lines linecolor '#7a7a7a' dashtype 2 title {}, "
      "$r using 1:4 with lines linewidth 2 linecolor '#b07a00' title {}, "
      "$r using 1:3 with lines linewidth 2 linecolor '#1f5fa8' title {}\n",
      data, common_look,
      literal(fmt::format("{}: a ramp of {} a second about the middle of the span",
                          one.channel.name, amount(slope, span.unit))),
      literal("time [s]"), literal(heading("reading", span.unit)), 2.0 * half / std::abs(slope),
      literal("the quantity"), name(other), name(one));
  return draw(image, script);
}

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
