// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "tamlo/math/detail/power_of_ten.hpp"
#include "tamlo/report/reports.hpp"
#include "words.hpp"

namespace tamlo::report {
namespace {

using meter::Calibration;
using meter::ResidualUncertainty;

std::string called(meter::Model model, int order) {
  std::string text(name(model));
  return model == meter::Model::polynomial ? fmt::format("{} of order {}", text, order) : text;
}

// The place that comes nearest to its limit, or of most uncertainty where there is none.
const ResidualUncertainty& worst_of(const Calibration& c) {
  return *std::ranges::max_element(c.residual_uncertainty, {}, [](const ResidualUncertainty& r) {
    return r.limit ? r.after / *r.limit : r.after;
  });
}

Table parameters_table(const Calibration& c) {
  Table table{.title = fmt::format(
                  "{}: {}", c.channel,
                  c.model == meter::Model::piecewise ? "corrected readings, straight between these"
                  : c.model == meter::Model::polynomial
                      ? "corrected = c0 + c1 reading + c2 reading^2 ..., in " + c.unit.symbol
                      : "corrected = offset + gain * reading"),
              .columns = {{"parameter", false}, {"value"}, {"standard uncertainty"}}};
  const auto difference = quantity::difference_unit(c.unit);
  const double scale = difference.scale();
  for (std::size_t i = 0; i < c.parameters.size(); ++i) {
    const auto& p = c.parameters[i];
    const bool gain = p.name == "gain";
    const double power = gain                 ? 1.0
                         : p.name == "offset" ? scale
                                              : std::pow(scale, 1.0 - static_cast<double>(i));
    const double value = p.value / power, standard = p.standard_uncertainty / power;
    // Digits down to the second of the uncertainty.
    const int digits = standard > 0.0 && value != 0.0
                           ? std::clamp(static_cast<int>(math::decade_of(std::abs(value)) -
                                                         math::decade_of(standard)) +
                                            2,
                                        2, 15)
                           : 6;
    const auto unit = p.name == "offset" ? " " + difference.symbol : std::string();
    table.rows.push_back({p.name, fmt::format("{:.{}g}{}", value, digits, unit),
                          fmt::format("{:.2g}{}", standard, unit)});
  }
  if (c.model == meter::Model::piecewise) {
    table.columns = {{"reading"}, {"corrected"}};
    for (std::size_t i = 0; i < c.correction.readings.size(); ++i) {
      table.rows.push_back(
          {figure(c.correction.readings[i], c.unit, c.correction.standard_uncertainty, 2),
           figure(c.correction.corrected[i], c.unit, c.correction.standard_uncertainty, 2)});
    }
  }
  return table;
}

Table remaining_table(const Calibration& c) {
  const auto difference = quantity::difference_unit(c.unit);
  const double size =
      std::ranges::max_element(c.residual_uncertainty, {}, &ResidualUncertainty::after)->after;
  Table table{.title = fmt::format("{}: uncertainty after the calibration, ± in {} ({:.4g} %)",
                                   c.channel, difference.symbol, 100.0 * c.coverage),
              .columns = {{"at"},
                          {"before"},
                          {"meter"},
                          {"fit"},
                          {"channel"},
                          {"after"},
                          {"allowed"},
                          {"target", false}}};
  for (const auto& r : c.residual_uncertainty) {
    table.rows.push_back({figure(r.at, c.unit, size, 2), figure(r.before, difference, size, 2),
                          figure(r.meter, difference, size, 2), figure(r.fit, difference, size, 2),
                          figure(r.channel, difference, size, 2),
                          figure(r.after, difference, size, 2),
                          r.limit ? figure(*r.limit, difference, size, 2) : Cell("-"),
                          !r.limit              ? "-"
                          : r.after <= *r.limit ? "met"
                                                : "MISSED"});
  }
  return table;
}

Table rivals_table(const Calibration& c) {
  const auto difference = quantity::difference_unit(c.unit);
  double size = 0.0;
  for (const auto& r : c.candidates) {
    if (std::isfinite(r.leave_one_out)) size = std::max(size, r.leave_one_out);
  }
  Table table{
      .title = fmt::format("{}: models tried", c.channel),
      .columns = {{"model", false}, {"leave-one-out error"}, {"corrected AIC"}, {"", false}}};
  if (!difference.symbol.empty()) table.columns[1].heading += " [" + difference.symbol + "]";
  for (std::size_t i = 0; i < c.candidates.size(); ++i) {
    const auto& r = c.candidates[i];
    table.rows.push_back(
        {called(r.model, r.order),
         std::isfinite(r.leave_one_out) ? figure(r.leave_one_out, difference, size, 3) : Cell("-"),
         std::isfinite(r.corrected_aic) ? Cell(fmt::format("{:.1f}", r.corrected_aic)) : Cell("-"),
         i == 0 ? "chosen" : ""});
  }
  return table;
}

Line line_of(const meter::BeforeAfter& pair, const quantity::Unit& unit) {
  return {fmt::format("{}: largest difference {} before, {} after; {} of {} rows passed before, {} "
                      "after",
                      pair.readings, amount(pair.before, unit, 2), amount(pair.after, unit, 2),
                      pair.passed_before, pair.rows, pair.passed_after),
          pair.after < pair.before ? Tone::good : Tone::doubtful};
}

}  // namespace

Line headline(const Calibration& c) {
  const auto& worst = worst_of(c);
  const auto place = value_with_unit(worst.at, c.unit, 4);
  const auto text = fmt::format("{}: {} correction: ±{} remains at {}, ±{} before", c.channel,
                                called(c.model, c.order), amount(worst.after, c.unit), place,
                                amount(worst.before, c.unit));
  if (!worst.limit) return {text};
  const bool met = worst.after <= *worst.limit;
  return {fmt::format("{}; ±{} allowed: {}", text, amount(*worst.limit, c.unit),
                      met ? "MET" : "MISSED"),
          met ? Tone::good : Tone::bad};
}

Report of(const Calibration& c) {
  Report report;
  report.verdict.push_back(headline(c));
  const auto& worst = worst_of(c);
  const auto largest = std::max({worst.meter, worst.fit, worst.channel});
  say(report.verdict, "most of it is {}: meter ±{}, fit ±{}, channel ±{}",
      largest == worst.meter ? "the meter's uncertainty, which more readings cannot reduce"
      : largest == worst.fit ? "the uncertainty of the fit: more readings would help"
                             : "what a calibration cannot remove: drift, noise, shape",
      amount(worst.meter, c.unit, 2), amount(worst.fit, c.unit, 2),
      amount(worst.channel, c.unit, 2));
  if (c.overdispersed) {
    say(report.verdict, Tone::doubtful,
        "the rows spread more than their uncertainties: chi-squared {:.1f} for {} "
        "degrees of freedom; the uncertainties are widened accordingly",
        c.chi_squared, c.dof);
  }
  for (const auto& o : c.outliers) {
    say(report.verdict, Tone::doubtful,
        "row {} lies {:.1f} standard deviations from the other rows; it is still in the fit",
        o.row + 1, o.deviations);
  }
  report.tables = {parameters_table(c), remaining_table(c), rivals_table(c)};
  return report;
}

Report of(const result::ChannelCalibration& channel) {
  auto report = of(channel.calibration);
  for (const auto& file : channel.before_after) {
    report.remarks.push_back(line_of(file, channel.calibration.unit));
  }
  return report;
}

}  // namespace tamlo::report
