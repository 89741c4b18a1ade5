// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "gnuplot.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/dynamics.hpp"
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

}  // namespace tamlo::report
