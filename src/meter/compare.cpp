// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/compare.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <utility>

#include "tamlo/budget/budget.hpp"
#include "tamlo/math/coverage.hpp"
#include "tamlo/math/least_squares.hpp"
#include "tamlo/meter/accuracy.hpp"

namespace tamlo::meter {
namespace {

using budget::Budget;
using math::SharedCovariance;

double squared(double x) { return x * x; }

// All that is uncertain about the differences of one set of readings. What is the same for all rows
// is a column; what is new in each row is a variance.
class Uncertainties {
 public:
  Uncertainties(const Budget& budget, const model::Meter& meter,
                const std::vector<Reading>& readings)
      : rows_(readings.size()) {
    channel_.variances.assign(rows_, 0.0);
    measured_.variances.assign(rows_, 0.0);
    meter_.assign(rows_, 0.0);
    for (std::size_t i = 0; i < rows_; ++i) add_meter(meter, readings[i], i);
    add_channel(budget, readings);
  }

  double meter(std::size_t row) const { return std::sqrt(meter_[row]); }
  /// Of the difference as a statement about this unit: the meter, and what repeats would show.
  double measured(std::size_t row) const {
    double variance = measured_.variances[row];
    for (const auto& column : measured_.columns) variance += squared(column[row]);
    return std::sqrt(variance);
  }
  const SharedCovariance& measured() const { return measured_; }
  const SharedCovariance& channel() const { return channel_; }

  /// Of the differences as the budget foretells them.
  SharedCovariance all() const {
    SharedCovariance result = measured_;
    for (std::size_t i = 0; i < rows_; ++i) result.variances[i] += channel_.variances[i];
    result.columns.insert(result.columns.end(), channel_.columns.begin(), channel_.columns.end());
    return result;
  }

 private:
  std::size_t rows_;
  SharedCovariance measured_;  // meter, noise, quantisation
  SharedCovariance channel_;   // what is fixed in this unit
  std::vector<double> meter_;  // variance of the meter alone
  std::map<std::pair<std::size_t, std::size_t>, std::size_t> meter_columns_;

  void add_meter(const model::Meter& meter, const Reading& reading, std::size_t row) {
    if (reading.u_meter) {
      meter_[row] = squared(*reading.u_meter);
      measured_.variances[row] += meter_[row];
      return;
    }
    const auto range = range_for(meter, reading.meter);
    if (!range) {
      throw CompareError(
          fmt::format("reading {}: above the highest range of meter {}", row + 1, meter.name));
    }
    const auto u = uncertainty(meter.ranges[*range], reading.meter);
    meter_[row] = squared(u.combined());
    measured_.variances[row] += squared(u.resolution);
    for (std::size_t i = 0; i < u.limits.size(); ++i) {
      const auto [at, added] = meter_columns_.try_emplace({*range, i}, measured_.columns.size());
      if (added) measured_.columns.emplace_back(rows_, 0.0);
      measured_.columns[at->second][row] = std::copysign(u.limits[i], reading.meter);
    }
  }

  void add_channel(const Budget& budget, const std::vector<Reading>& readings) {
    std::map<std::size_t, std::size_t>
        column_of;  // of the sources that are one unknown for all rows
    for (std::size_t s = 0; s < budget.sources.size(); ++s) {
      const auto kind = budget.sources[s].kind;
      std::vector<double> column(rows_);
      for (std::size_t i = 0; i < rows_; ++i) {
        column[i] = budget.points[i].contributions[s].contribution;
      }
      if (chain::random(kind)) {
        for (std::size_t i = 0; i < rows_; ++i) {
          if (!readings[i].u_reading) measured_.variances[i] += squared(column[i]);
        }
      } else if (kind == chain::Kind::shape) {
        // Fixed in this unit, but different from code to code.
        for (std::size_t i = 0; i < rows_; ++i) channel_.variances[i] += squared(column[i]);
      } else {
        column_of[s] = channel_.columns.size();
        channel_.columns.push_back(std::move(column));
      }
    }
    // The second of two that correlate by r is r times the first, and the rest its own.
    for (const auto& [first, second, r] : budget.correlations) {
      if (!column_of.contains(first) || !column_of.contains(second)) continue;
      auto& a = channel_.columns[column_of[first]];
      auto& b = channel_.columns[column_of[second]];
      for (std::size_t i = 0; i < rows_; ++i) {
        a[i] += r * b[i];
        b[i] *= std::sqrt(1.0 - r * r);
      }
    }
    for (std::size_t i = 0; i < rows_; ++i) {
      if (readings[i].u_reading) measured_.variances[i] += squared(*readings[i].u_reading);
    }
  }
};

Verdict judge(double difference, double limit, double guard_band) {
  if (std::abs(difference) + guard_band <= limit) return Verdict::pass;
  if (std::abs(difference) - guard_band > limit) return Verdict::fail;
  return Verdict::undecided;
}

double dot(const std::vector<double>& a, const std::vector<double>& b) {
  return std::inner_product(a.begin(), a.end(), b.begin(), 0.0);
}

// Standard deviation of sum weights[i] y[i], where y varies as the channel of the budget does.
double carried(const std::vector<double>& weights, const SharedCovariance& channel) {
  double variance = 0.0;
  for (std::size_t i = 0; i < weights.size(); ++i) {
    variance += squared(weights[i]) * channel.variances[i];
  }
  for (const auto& column : channel.columns) variance += squared(dot(weights, column));
  return std::sqrt(variance);
}

// `zero` is where the unit of the quantity has its zero: 273.15 K for degC.
void fit_differences(Summary& summary, const std::vector<Row>& rows, double zero,
                     const Uncertainties& u) {
  std::vector<double> x, y, expected;
  for (const auto& row : rows) {
    x.push_back(row.meter - zero);
    y.push_back(row.difference);
    expected.push_back(row.expected);
  }
  const auto [low, high] = std::ranges::minmax(x);
  const bool line = low < high;
  const auto fit = line ? math::fit_line(x, y, u.measured()) : math::fit_mean(y, u.measured());
  summary.offset = {.value = fit.offset,
                    .standard = std::sqrt(fit.offset_variance),
                    .budgeted = carried(fit.offset_weights, u.channel()),
                    .expected = dot(fit.offset_weights, expected)};
  if (!line) return;
  summary.gain = {.value = fit.gain,
                  .standard = std::sqrt(fit.gain_variance),
                  .budgeted = carried(fit.gain_weights, u.channel()),
                  .expected = dot(fit.gain_weights, expected)};
}

Agreement agree(const std::vector<Row>& rows, const Uncertainties& u, double coverage) {
  std::vector<double> unexpected;
  for (const auto& row : rows) unexpected.push_back(row.difference - row.expected);
  Agreement result{.chi_squared = math::chi_squared(unexpected, u.all()),
                   .dof = static_cast<int>(rows.size())};
  result.probability = math::chi_squared_above(result.chi_squared, result.dof);
  result.agrees = result.probability >= 1.0 - coverage;
  return result;
}

Summary summarise(const std::vector<Row>& rows, double zero, const Uncertainties& u,
                  double coverage) {
  Summary summary;
  for (std::size_t i = 0; i < rows.size(); ++i) {
    switch (rows[i].verdict) {
      case Verdict::pass:
        ++summary.passed;
        break;
      case Verdict::fail:
        ++summary.failed;
        break;
      case Verdict::undecided:
        ++summary.undecided;
        break;
    }
    if (std::abs(rows[i].normalised_error) > std::abs(rows[summary.largest].normalised_error)) {
      summary.largest = i;
    }
  }
  summary.verdict = summary.failed > 0      ? Verdict::fail
                    : summary.undecided > 0 ? Verdict::undecided
                                            : Verdict::pass;
  fit_differences(summary, rows, zero, u);
  summary.agreement = agree(rows, u, coverage);
  return summary;
}

}  // namespace

std::string_view name(Verdict verdict) {
  switch (verdict) {
    case Verdict::pass:
      return "pass";
    case Verdict::fail:
      return "fail";
    case Verdict::undecided:
      return "undecided";
  }
  return "";
}

double Figure::deviation() const {
  return std::abs(value - expected) / std::hypot(standard, budgeted);
}

Comparison compare(const chain::Chain& chain, const model::Meter& meter,
                   const std::vector<Reading>& readings, double coverage) {
  if (readings.empty()) {
    throw CompareError(fmt::format("there are no readings of channel {}", chain.channel.name));
  }
  budget::Request request{.at = {}, .coverage = coverage};
  for (const auto& reading : readings) request.at.push_back(reading.meter);
  request.search = false;
  const auto budget = budget::evaluate(chain, request);
  const Uncertainties u(budget, meter, readings);
  const double k = budget.points.front().coverage_factor;

  Comparison result{.channel = chain.channel.name,
                    .unit = chain.channel.span.unit,
                    .meter = meter.name,
                    .has_target = chain.channel.target.accuracy.has_value(),
                    .coverage = coverage,
                    .rows = {},
                    .summary = {}};
  for (std::size_t i = 0; i < readings.size(); ++i) {
    const auto& point = budget.points[i];
    Row row{.meter = readings[i].meter,
            .reading = readings[i].reading,
            .difference = readings[i].reading - readings[i].meter,
            .expected = point.bias,
            .expanded_channel = point.expanded,
            .expanded_meter = k * u.meter(i),
            .limit = point.limit.value_or(point.expanded),
            .guard_band = k * u.measured(i)};
    row.normalised_error =
        (row.difference - row.expected) / std::hypot(row.expanded_channel, row.expanded_meter);
    row.verdict = judge(row.difference, row.limit, row.guard_band);
    result.rows.push_back(row);
  }
  result.summary = summarise(result.rows, result.unit.offset, u, coverage);
  return result;
}

}  // namespace tamlo::meter
