// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "gnuplot.hpp"
#include "tamlo/report/plot.hpp"
#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

using budget::Budget;

}  // namespace

std::string plot_contributions(const Budget& budget, Image image) {
  const auto difference = quantity::difference_unit(budget.unit);
  const auto& point = budget.worst();
  auto order = by_share(point);
  // What is under a thousandth of the largest would be a bar of no length.
  std::erase_if(order, [&](std::size_t i) {
    return point.contributions[i].share < 1e-4 * point.contributions[order.front()].share;
  });
  if (order.size() > 20) order.resize(20);
  const int count = static_cast<int>(order.size());
  std::string data = "$c << EOD\n", tics;
  double most = 0.0;
  for (int row = 0; row < count; ++row) {
    const auto i = order[static_cast<std::size_t>(row)];
    const double size =
        quantity::in_unit(std::abs(point.contributions[i].contribution), difference);
    most = std::max(most, size);
    data += fmt::format("{} {:.9g} \"{:.1f} %\"\n", count - row, size,
                        100.0 * point.contributions[i].share);
    tics +=
        fmt::format("{}{} {}", row > 0 ? ", " : "", literal(budget.sources[i].name), count - row);
  }
  data += "EOD\n";
  return draw(
      image,
      fmt::format(
          "{}{}set title {}\nset xlabel {}\nset ytics ({})\nset yrange [0.3:{}]\n"
          "set xrange [0:{:.9g}]\nset style fill solid 0.9\nunset key\nset bmargin 4\n"
          "set lmargin 34\n"
          "plot $c using ($2/2):1:($2/2):(0.36) with boxxyerror linecolor '#1f5fa8', "
          "$c using 2:1:3 with labels left offset 1,0\n",
          data, common_look, literal(headline(budget).text),
          literal(heading("standard uncertainty from each source, with its share of the variance;",
                          difference)),
          tics, count + 0.7, 1.18 * most));
}

Chart chart_of_span(const Budget& budget) {
  const auto difference = quantity::difference_unit(budget.unit);
  ChartSeries limit{.name = "allowed by the target", .look = ChartLook::limit};
  ChartSeries worst{.name = "worst case", .look = ChartLook::faint}, built{.name = "as built"};
  ChartSeries zeroed{.name = "after a zero adjustment", .look = ChartLook::second};
  ChartSeries adjusted{.name = "after a two-point adjustment", .look = ChartLook::third};
  for (const auto& p : budget::along_span(budget)) {
    const double x = quantity::in_unit(p.at, budget.unit);
    const auto add = [&](ChartSeries& to, double si) {
      to.points.push_back({x, quantity::in_unit(si, difference), 0.0});
    };
    if (p.limit) add(limit, *p.limit);
    add(worst, p.worst_case);
    add(built, p.error);
    add(zeroed, p.zeroed);
    add(adjusted, p.two_point);
    built.texts.push_back(
        fmt::format("at {}: {}{}", with_unit(aligned(p.at, budget.unit, p.at, 3), budget.unit),
                    amount(p.error, budget.unit),
                    p.limit ? " of " + amount(*p.limit, budget.unit) + " allowed" : ""));
  }
  ChartPanel panel{.x = {heading(budget.channel, budget.unit)},
                   .y = {heading("error, plus or minus", difference), 0.0}};
  if (!limit.points.empty()) panel.series.push_back(std::move(limit));
  for (auto* series : {&worst, &zeroed, &adjusted, &built})
    panel.series.push_back(std::move(*series));
  return {.title = headline(budget).text, .panels = {std::move(panel)}};
}

Chart chart_of_condition(const std::vector<budget::UnderCondition>& rows, const Budget& budget,
                         const std::string& name, const quantity::Unit& unit) {
  const auto difference = quantity::difference_unit(budget.unit);
  ChartSeries allowed{.name = "allowed by the target there", .look = ChartLook::limit};
  ChartSeries built{.name = "as built"}, marks{.shape = ChartShape::dots};
  for (const auto& row : rows) {
    const double at = quantity::in_unit(row.condition, unit),
                 error = std::abs(row.bias) + row.expanded;
    built.points.push_back({at, quantity::in_unit(error, difference), 0.0});
    allowed.points.push_back({at, quantity::in_unit(error + row.margin, difference), 0.0});
  }
  marks.points = built.points;
  if (!budget.worst_place.limit) allowed.points.clear();
  return {.title = fmt::format("{}: the worst place of the span over {}", budget.channel, name),
          .panels = {{.x = {heading(name, unit)},
                      .y = {heading("error, plus or minus", difference), 0.0},
                      .series = {std::move(allowed), std::move(built), std::move(marks)}}}};
}

std::string plot_trials(const std::vector<double>& errors, const Budget& budget,
                        const budget::Point& point, Image image) {
  const auto difference = quantity::difference_unit(budget.unit);
  const auto [low, high] = std::ranges::minmax(errors);
  constexpr int bins = 120;
  std::vector<double> counts(bins, 0.0);
  const double width = high > low ? (high - low) / bins : 1.0;
  for (const double e : errors) {
    const auto bin = std::min(bins - 1, static_cast<int>((e - low) / width));
    counts[static_cast<std::size_t>(bin)] += 1.0;
  }
  const double scale =
      1.0 / (static_cast<double>(errors.size()) * quantity::in_unit(width, difference));
  std::string data = "$d << EOD\n";
  double top = 0.0;
  for (int i = 0; i < bins; ++i) {
    const double density = counts[static_cast<std::size_t>(i)] * scale;
    top = std::max(top, density);
    data += fmt::format("{:.9g} {:.9g}\n", quantity::in_unit(low + (i + 0.5) * width, difference),
                        density);
  }
  data += "EOD\n";
  auto script = data + common_look;
  // Each interval as a bar of its own below the axis, so that none hides another.
  const auto bar = [&](const budget::Interval& interval, int row, const char* colour,
                       const std::string& name) {
    const double y = -0.06 * top * row;
    return fmt::format("$b{0} << EOD\n{1:.9g} {3:.9g}\n{2:.9g} {3:.9g}\nEOD\n", row,
                       quantity::in_unit(interval.low, difference),
                       quantity::in_unit(interval.high, difference), y) +
           fmt::format("bar{} = {}\ncolour{} = '{}'\n", row, literal(name), row, colour);
  };
  const auto& trials = point.trials->of;
  const auto percent_of = fmt::format("{:g} %", 100.0 * point.coverage);
  script += bar(trials.symmetric, 1, "#1b7a3d", percent_of + ", as much below as above");
  script += bar(trials.shortest, 2, "#b07a00", percent_of + ", shortest");
  script += bar({point.bias - point.expanded, point.bias + point.expanded}, 3, "#b3261e",
                point.trials->closed_form_valid ? percent_of + ", closed form: agrees"
                                                : percent_of + ", closed form: differs");
  script += fmt::format(
      "set title {}\nset xlabel {}\nset ylabel {}\nset style fill solid 0.6 noborder\n"
      "set yrange [{:.9g}:{:.9g}]\nset format y ''\nset boxwidth 1 relative\n"
      "plot $d using 1:2 with boxes linecolor '#9bb8d6' title {}, ",
      literal(fmt::format(
          "{}: error at {} by {} trials", budget.channel,
          with_unit(aligned(point.at, budget.unit, budget.span.width(), 4), budget.unit),
          errors.size())),
      literal(heading("reading - quantity", difference)), literal("density"), -0.25 * top,
      1.08 * top, literal("trials"));
  script +=
      "$b1 using 1:2 with lines linewidth 6 linecolor rgb colour1 title bar1, "
      "$b2 using 1:2 with lines linewidth 6 linecolor rgb colour2 title bar2, "
      "$b3 using 1:2 with lines linewidth 6 linecolor rgb colour3 title bar3\n";
  return draw(image, script);
}

}  // namespace tamlo::report
