// SPDX-License-Identifier: Apache-2.0
// Charts of a channel beside a meter: differences, normalised errors, units, and what a calibration
// does.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

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

// Room at both sides of the rows, and a thin line at zero.
ChartAxis meter_axis(const Comparison& c, const std::vector<Row>& rows) {
  const double left = quantity::in_unit(rows.front().meter, c.unit),
               right = quantity::in_unit(rows.back().meter, c.unit);
  const double margin = right > left ? 0.04 * (right - left) : 1.0;
  return {
      .label = heading("meter " + c.meter, c.unit), .low = left - margin, .high = right + margin};
}

ChartSeries zero_line(const ChartAxis& x) {
  return {.look = ChartLook::plain, .points = {{*x.low, 0.0, 0.0}, {*x.high, 0.0, 0.0}}};
}

// A figure of each row over the meter's value, up and down.
template <class HalfOf>
ChartSeries band_of(const Comparison& c, const std::vector<Row>& rows, std::string name,
                    HalfOf half_of) {
  ChartSeries band{.name = std::move(name), .look = ChartLook::area, .shape = ChartShape::band};
  for (const auto& row : rows) {
    const double half = quantity::in_unit(half_of(row), quantity::difference_unit(c.unit));
    band.points.push_back({quantity::in_unit(row.meter, c.unit), -half, half});
  }
  // Of one row as wide as the axis.
  if (rows.size() == 1) {
    auto& at = band.points;
    at.push_back(at.front());
    at.front()[0] -= 0.5, at.back()[0] += 0.5;
  }
  return band;
}

// Both edges of a band as lines, the second without a name.
void add_edges(ChartPanel& to, const ChartSeries& band, ChartLook look, std::string name) {
  for (const std::size_t edge : {2, 1}) {
    ChartSeries line{.name = edge == 2 ? name : std::string(), .look = look};
    for (const auto& p : band.points) line.points.push_back({p[0], p[edge], 0.0});
    to.series.push_back(std::move(line));
  }
}

// The rows with their guard bands; of one verdict where one is given.
ChartSeries rows_of(const Comparison& c, const std::vector<Row>& rows, std::string name,
                    ChartLook look, std::optional<meter::Verdict> verdict = {}) {
  const auto difference = quantity::difference_unit(c.unit);
  ChartSeries series{.name = std::move(name), .look = look, .shape = ChartShape::errors};
  for (const auto& row : rows) {
    if (verdict && row.verdict != *verdict) continue;
    series.points.push_back({quantity::in_unit(row.meter, c.unit),
                             quantity::in_unit(row.difference, difference),
                             quantity::in_unit(row.guard_band, difference)});
    series.texts.push_back(fmt::format("at {}: {} from the meter, E_n {:.2f}, {}",
                                       with_unit(aligned(row.meter, c.unit, row.meter, 4), c.unit),
                                       amount(row.difference, c.unit), row.normalised_error,
                                       meter::name(row.verdict)));
  }
  return series;
}

}  // namespace

Chart chart_of(const Comparison& c) {
  const auto rows = by_meter(c.rows);
  ChartPanel panel{.x = meter_axis(c, rows),
                   .y = {heading("reading - meter", quantity::difference_unit(c.unit))}};
  panel.series.push_back(
      band_of(c, rows, c.has_target ? "allowed by the target" : "allowed: the budget itself",
              [](const Row& row) { return row.limit; }));
  add_edges(panel, band_of(c, rows, "", [](const Row& row) { return row.expanded_channel; }),
            ChartLook::faint, "budget of the channel");
  panel.series.push_back(zero_line(panel.x));
  // One mark for each verdict, so that none depends on colour alone.
  for (const auto& [verdict, look] : {std::pair{meter::Verdict::pass, ChartLook::good},
                                      std::pair{meter::Verdict::undecided, ChartLook::doubtful},
                                      std::pair{meter::Verdict::fail, ChartLook::bad}}) {
    auto series =
        rows_of(c, rows, fmt::format("{}, with guard band", name(verdict)), look, verdict);
    if (!series.points.empty()) panel.series.push_back(std::move(series));
  }
  return {.title = headline(c).text, .panels = {std::move(panel)}};
}

Chart chart_of_normalised(const Comparison& c) {
  const auto rows = by_meter(c.rows);
  ChartPanel panel{.x = meter_axis(c, rows), .y = {"normalised error E_n"}};
  panel.series.push_back({.name = "channel and meter can both be right",
                          .look = ChartLook::area,
                          .shape = ChartShape::band,
                          .points = {{*panel.x.low, -1.0, 1.0}, {*panel.x.high, -1.0, 1.0}}});
  panel.series.push_back(zero_line(panel.x));
  ChartSeries within{.name = "within", .look = ChartLook::good, .shape = ChartShape::dots};
  ChartSeries beyond{
      .name = "beyond: one side is off", .look = ChartLook::bad, .shape = ChartShape::dots};
  double most = 1.5;
  for (const auto& row : rows) {
    const double e_n = row.normalised_error, size = std::abs(e_n);
    (size <= 1.0 ? within : beyond)
        .points.push_back({quantity::in_unit(row.meter, c.unit), e_n, 0.0});
    most = std::max(most, 1.15 * size);
  }
  panel.y.low = -most, panel.y.high = most;
  panel.series.push_back(std::move(within));
  panel.series.push_back(std::move(beyond));
  return {.title = headline(c).text, .panels = {std::move(panel)}};
}

Chart chart_of_units(const meter::Units& u, const std::string& channel,
                     const quantity::Unit& unit) {
  const auto difference = quantity::difference_unit(unit);
  const auto offset = [&](double si) { return quantity::in_unit(si, difference); };
  double left = offset(u.offset.tolerance_low), right = offset(u.offset.tolerance_high);
  ChartSeries region{
      .name = fmt::format("where {0:.0f} % of all units are, {0:.0f} % sure", 100.0 * u.coverage),
      .look = ChartLook::area,
      .shape = ChartShape::band};
  for (const double x : {left, right})
    region.points.push_back({x, 100.0 * u.gain.tolerance_low, 100.0 * u.gain.tolerance_high});
  ChartSeries units{.name = "a unit", .shape = ChartShape::dots, .labelled = true};
  for (const auto& each : u.units) {
    units.points.push_back({offset(each.offset), 100.0 * each.gain, 0.0});
    units.texts.push_back(each.unit);
    left = std::min(left, units.points.back()[0]);
    right = std::max(right, units.points.back()[0]);
  }
  const double margin = right > left ? 0.04 * (right - left) : 1.0;
  return {.title = fmt::format("{}: offset and gain of {} units", channel, u.units.size()),
          .panels = {{.x = {heading("offset", difference), left - margin, right + margin},
                      .y = {"gain [%]"},
                      .series = {std::move(region), std::move(units)}}}};
}

Chart chart_of_before_after(const Comparison& before, const Comparison& after,
                            const meter::Calibration& calibration) {
  const auto was = by_meter(before.rows), is = by_meter(after.rows);
  ChartPanel panel{.x = meter_axis(before, was),
                   .y = {heading("reading - meter", quantity::difference_unit(before.unit))}};
  if (before.has_target) {
    panel.series.push_back(
        band_of(before, was, "allowed by the target", [](const Row& row) { return row.limit; }));
  }
  panel.series.push_back(zero_line(panel.x));
  panel.series.push_back(rows_of(before, was, "before, with guard band", ChartLook::doubtful));
  add_edges(panel, band_of(after, is, "", [](const Row& row) { return row.expanded_channel; }),
            ChartLook::faint, "what the channel may be off after");
  panel.series.push_back(rows_of(after, is, "after, with guard band", ChartLook::good));
  return {.title = headline(calibration).text, .panels = {std::move(panel)}};
}

Chart chart_of_residuals(const meter::Calibration& calibration, const Comparison& after) {
  const auto difference = quantity::difference_unit(after.unit);
  const auto rows = by_meter(after.rows);
  const double k = calibration.coverage_factor;
  ChartPanel panel{.x = meter_axis(after, rows),
                   .y = {heading("corrected reading - meter", difference)}};
  // With the meter's own limits, which are the same for all rows, in the band and not in the bars.
  ChartSeries band{.name = "uncertainty of the correction: meter and fit",
                   .look = ChartLook::area,
                   .shape = ChartShape::band};
  for (int i = 0; i <= 100; ++i) {
    const double x = std::lerp(rows.front().meter, rows.back().meter, i / 100.0);
    const double half = quantity::in_unit(k * calibration.standard_at(x), difference);
    band.points.push_back({quantity::in_unit(x, after.unit), -half, half});
  }
  ChartSeries left{.name = "rows, with what each is worth", .shape = ChartShape::errors};
  for (std::size_t i = 0; i < after.rows.size(); ++i) {
    left.points.push_back({quantity::in_unit(after.rows[i].meter, after.unit),
                           -quantity::in_unit(calibration.residuals[i], difference),
                           quantity::in_unit(k * std::sqrt(calibration.random[i]), difference)});
  }
  panel.series = {std::move(band), zero_line(panel.x), std::move(left)};
  return {.title = fmt::format("{}: what the {} correction leaves of each row", after.channel,
                               name(calibration.model)),
          .panels = {std::move(panel)}};
}

}  // namespace tamlo::report
