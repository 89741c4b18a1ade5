// SPDX-License-Identifier: Apache-2.0
// Pictures of the bench beside plot_compare.cpp: normalised errors, units, and what a calibration
// does.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "gnuplot.hpp"
#include "tamlo/report/plot.hpp"
#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

using meter::Comparison;
using meter::Row;

std::vector<Row> by_meter(std::vector<Row> rows) {
  std::ranges::stable_sort(rows, {}, &Row::meter);
  return rows;
}

// Labels of the axes, and a range that leaves room at both sides.
std::string frame(const std::string& title, const std::string& x_label, const std::string& y_label,
                  double left, double right) {
  const double margin = right > left ? 0.04 * (right - left) : 1.0;
  return fmt::format("set title {}\nset xlabel {}\nset ylabel {}\nset xrange [{:.17g}:{:.17g}]\n{}",
                     literal(title), literal(x_label), literal(y_label), left - margin,
                     right + margin, common_look);
}

}  // namespace

std::string plot_normalised(const Comparison& c, Image image) {
  const auto rows = by_meter(c.rows);
  std::string script = "$rows << EOD\n";
  double most = 1.5;
  for (const auto& row : rows) {
    script += fmt::format("{:.17g} {:.17g}\n", quantity::in_unit(row.meter, c.unit),
                          row.normalised_error);
    most = std::max(most, 1.15 * std::abs(row.normalised_error));
  }
  script += "EOD\n";
  script += frame(headline(c).text, heading("meter " + c.meter, c.unit), "normalised error E_n",
                  quantity::in_unit(rows.front().meter, c.unit),
                  quantity::in_unit(rows.back().meter, c.unit));
  script += fmt::format("set yrange [{:.17g}:{:.17g}]\n", -most, most);
  script +=
      "plot 1 with filledcurves y1=-1 fillcolor '#e3edf5' title "
      "'channel and meter can both be right', "
      "0 with lines linewidth 1.5 linecolor '#000000' notitle, "
      "$rows using 1:(abs($2) <= 1 ? $2 : 1/0) with impulses linewidth 3 linecolor '#1b7a3d' "
      "notitle, "
      "$rows using 1:(abs($2) > 1 ? $2 : 1/0) with impulses linewidth 3 linecolor '#b3261e' "
      "notitle, "
      "$rows using 1:(abs($2) <= 1 ? $2 : 1/0) with points pointtype 7 pointsize 1.6 linecolor "
      "'#1b7a3d' title 'within', "
      "$rows using 1:(abs($2) > 1 ? $2 : 1/0) with points pointtype 13 pointsize 1.8 linecolor "
      "'#b3261e' title 'beyond: one side is off'\n";
  return draw(image, script);
}

std::string plot_units(const meter::Units& u, const std::string& channel,
                       const quantity::Unit& unit, Image image) {
  const auto difference = quantity::difference_unit(unit);
  const auto offset = [&](double si) { return quantity::in_unit(si, difference); };
  std::string script = "$units << EOD\n";
  double left = offset(u.offset.tolerance_low), right = offset(u.offset.tolerance_high);
  double low = 100.0 * u.gain.tolerance_low, high = 100.0 * u.gain.tolerance_high;
  for (const auto& seen : u.units) {
    std::string label;
    for (const char letter : seen.unit) label += letter == '"' || letter == '\\' ? '\'' : letter;
    script +=
        fmt::format("{:.17g} {:.17g} \"{}\"\n", offset(seen.offset), 100.0 * seen.gain, label);
    left = std::min(left, offset(seen.offset));
    right = std::max(right, offset(seen.offset));
    low = std::min(low, 100.0 * seen.gain);
    high = std::max(high, 100.0 * seen.gain);
  }
  script += "EOD\n";
  script += frame(fmt::format("{}: offset and gain of {} units", channel, u.units.size()),
                  heading("offset", difference), "gain [%]", left, right);
  const double room = 0.12 * (high - low);
  script += fmt::format("set yrange [{:.17g}:{:.17g}]\n", low - room, high + room);
  // The corners of the region, round and back to the first.
  script += "$region << EOD\n";
  for (const auto& [right_end, upper_end] :
       {std::pair{false, false}, std::pair{true, false}, std::pair{true, true},
        std::pair{false, true}, std::pair{false, false}}) {
    script += fmt::format("{:.17g} {:.17g}\n",
                          offset(right_end ? u.offset.tolerance_high : u.offset.tolerance_low),
                          100.0 * (upper_end ? u.gain.tolerance_high : u.gain.tolerance_low));
  }
  script += fmt::format(
      "EOD\nplot $region using 1:2 with filledcurves closed fillcolor '#e3edf5' title {}, "
      "$region using 1:2 with lines linecolor '#7d9cb8' notitle, "
      "$units using 1:2 with points pointtype 7 pointsize 1.4 linecolor '#24527a' title 'a unit', "
      "$units using 1:2:3 with labels left offset 0.9,0 textcolor '#444444' notitle\n",
      literal(fmt::format("where {:.0f} % of all units are, {:.0f} % sure", 100.0 * u.coverage,
                          100.0 * u.coverage)));
  return draw(image, script);
}

std::string plot_before_after(const Comparison& before, const Comparison& after,
                              const meter::Calibration& calibration, Image image) {
  const auto difference = quantity::difference_unit(before.unit);
  const auto was = by_meter(before.rows), is = by_meter(after.rows);
  std::string script = "$was << EOD\n";
  const auto add = [&](const std::vector<Row>& rows) {
    for (const auto& row : rows) {
      script += fmt::format("{:.17g} {:.17g} {:.17g} {:.17g} {:.17g}\n",
                            quantity::in_unit(row.meter, before.unit),
                            quantity::in_unit(row.difference, difference),
                            quantity::in_unit(row.guard_band, difference),
                            quantity::in_unit(row.expanded_channel, difference),
                            quantity::in_unit(row.limit, difference));
    }
    script += "EOD\n";
  };
  add(was);
  script += "$is << EOD\n";
  add(is);
  script += frame(headline(calibration).text, heading("meter " + before.meter, before.unit),
                  heading("reading - meter", difference),
                  quantity::in_unit(was.front().meter, before.unit),
                  quantity::in_unit(was.back().meter, before.unit));
  script += "set offsets 0, 0, graph 0.06, graph 0.06\nplot ";
  if (before.has_target) {
    script +=
        "$was using 1:(-$5):5 with filledcurves fillcolor '#e3edf5' title 'allowed by the "
        "target', ";
  }
  script +=
      "0 with lines linewidth 1.5 linecolor '#000000' notitle, "
      "$was using 1:2:3 with yerrorbars linewidth 2 pointtype 5 pointsize 1.3 linecolor '#b07a00' "
      "title 'before, with guard band', "
      "$is using 1:4 with lines dashtype 2 linewidth 2 linecolor '#24527a' title "
      "'what the channel may be off after', "
      "$is using 1:(-$4) with lines dashtype 2 linewidth 2 linecolor '#24527a' notitle, "
      "$is using 1:2:3 with yerrorbars linewidth 2 pointtype 7 pointsize 1.3 linecolor '#1b7a3d' "
      "title 'after, with guard band'\n";
  return draw(image, script);
}

std::string plot_residuals(const meter::Calibration& calibration, const Comparison& after,
                           Image image) {
  const auto difference = quantity::difference_unit(after.unit);
  const auto rows = by_meter(after.rows);
  const double k = calibration.coverage_factor;
  std::string script = "$rows << EOD\n";
  // With the meter's own limits, which are the same for all rows, in the band and not in the bars.
  for (std::size_t i = 0; i < after.rows.size(); ++i) {
    script +=
        fmt::format("{:.17g} {:.17g} {:.17g}\n", quantity::in_unit(after.rows[i].meter, after.unit),
                    -quantity::in_unit(calibration.residuals[i], difference),
                    quantity::in_unit(k * std::sqrt(calibration.random[i]), difference));
  }
  script += "EOD\n$band << EOD\n";
  const double left = rows.front().meter, right = rows.back().meter;
  for (int i = 0; i <= 100; ++i) {
    const double x = std::lerp(left, right, i / 100.0);
    script += fmt::format("{:.17g} {:.17g}\n", quantity::in_unit(x, after.unit),
                          quantity::in_unit(k * calibration.standard_at(x), difference));
  }
  script += "EOD\n";
  script += frame(fmt::format("{}: what the {} correction leaves of each row", after.channel,
                              name(calibration.model)),
                  heading("meter " + after.meter, after.unit),
                  heading("corrected reading - meter", difference),
                  quantity::in_unit(left, after.unit), quantity::in_unit(right, after.unit));
  script +=
      "set offsets 0, 0, graph 0.06, graph 0.06\n"
      "plot $band using 1:(-$2):2 with filledcurves fillcolor '#e3edf5' title "
      "'uncertainty of the correction: meter and fit', "
      "0 with lines linewidth 1.5 linecolor '#000000' notitle, "
      "$rows using 1:2:3 with yerrorbars linewidth 2 pointtype 7 pointsize 1.3 linecolor '#24527a' "
      "title 'rows, with what each is worth'\n";
  return draw(image, script);
}

}  // namespace tamlo::report
