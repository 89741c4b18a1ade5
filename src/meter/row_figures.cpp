// SPDX-License-Identifier: Apache-2.0
#include "row_figures.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <limits>
#include <map>
#include <utility>

#include "tamlo/budget/budget.hpp"
#include "tamlo/budget/detail/conditions.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/model/detail/accuracy.hpp"

namespace tamlo::meter {
namespace {

constexpr int grid_points = 1025;

// Rows are many: of each rough place a tenth of the units that a budget takes.
constexpr std::uint64_t rough_units = 2000;

Effects of_budget(const budget::Budget& budget) {
  Effects result{.coverage_factor = math::coverage_factor(budget.points.front().coverage,
                                                          std::numeric_limits<double>::infinity())};
  result.of_source.resize(budget.sources.size());
  for (const auto& point : budget.points) {
    result.bias.push_back(point.bias);
    result.expanded.push_back(point.expanded);
    for (std::size_t s = 0; s < budget.sources.size(); ++s) {
      result.of_source[s].push_back(point.contributions[s].contribution);
    }
  }
  return result;
}

// Reads values on an even grid over the span off at some places; straight on beyond it.
class Reader {
 public:
  Reader(const quantity::Range& span, const std::vector<double>& at) {
    constexpr int cells = grid_points - 1;
    for (const double x : at) {
      const double place = (x - span.low) / span.width() * cells;
      const double cell = std::clamp(std::floor(place), 0.0, cells - 1.0);
      cells_.push_back(static_cast<std::uint32_t>(cell));
      parts_.push_back(place - cell);
    }
  }

  std::vector<double> operator()(const std::vector<double>& grid) const {
    std::vector<double> result(cells_.size());
    for (std::size_t i = 0; i < result.size(); ++i) {
      const double below = grid[cells_[i]];
      result[i] = below + parts_[i] * (grid[cells_[i] + 1] - below);
    }
    return result;
  }

 private:
  std::vector<std::uint32_t> cells_;
  std::vector<double> parts_;
};

// Of the quantity for one volt at the pin, where the pin has `volts`.
double per_volt(const chain::Chain& chain, double volts) {
  const double step = chain::code_width(chain);
  return (chain::quantity_at_voltage(chain, volts + step) -
          chain::quantity_at_voltage(chain, volts - step)) /
         (2.0 * step);
}

bool sound(const Reading& reading) {
  const auto size = [](const std::optional<double>& u) {
    return !u || (*u >= 0.0 && std::isfinite(*u));
  };
  return std::isfinite(reading.meter) && std::isfinite(reading.reading) && reading.repeats >= 1 &&
         size(reading.u_meter) && size(reading.u_reading) && size(reading.spread) &&
         std::isfinite(reading.time.value_or(0.0)) && reading.temperature.value_or(1.0) > 0.0;
}

class Gatherer {
 public:
  Gatherer(const chain::Chain& chain, const model::Meter& meter) : chain_(chain), meter_(meter) {}

  RowFigures gather(const std::vector<Reading>& readings, Effects effects) {
    const auto n = readings.size();
    const bool at_pin = meter_.touches == model::Touches::pin;
    for (std::size_t i = 0; i < n; ++i) {
      if (!sound(readings[i])) {
        throw CompareError(
            fmt::format("reading {}: a number that is not finite, or an uncertainty "
                        "or number of repeats that no reading has",
                        i + 1));
      }
    }
    result_.at = positions(chain_, meter_, readings);
    for (std::size_t i = 0; i < n; ++i) {
      result_.difference.push_back(readings[i].reading - result_.at[i]);
    }
    result_.effects = std::move(effects);
    result_.measured.variances.assign(n, 0.0);
    result_.channel.variances.assign(n, 0.0);
    result_.meter.assign(n, 0.0);
    result_.averages.assign(n, 0.0);
    for (std::size_t i = 0; i < n; ++i) {
      add_meter(readings[i], i, at_pin ? std::abs(per_volt(chain_, readings[i].meter)) : 1.0);
    }
    add_fixed(n);
    add_random(readings);
    return std::move(result_);
  }

 private:
  const chain::Chain& chain_;
  const model::Meter& meter_;
  RowFigures result_;
  std::map<std::pair<std::size_t, std::size_t>, std::size_t> columns_;  // of range and limit

  void add_meter(const Reading& reading, std::size_t row, double scale) {
    if (reading.u_meter) {
      result_.meter[row] = squared(*reading.u_meter * scale);
      result_.measured.variances[row] += result_.meter[row];
      return;
    }
    const auto range = reading.meter_range ? reading.meter_range : range_for(meter_, reading.meter);
    if (!range) {
      throw CompareError(
          fmt::format("reading {}: above the highest range of meter {}", row + 1, meter_.name));
    }
    const double temperature = reading.temperature.value_or(chain_.conditions.specified_at);
    const auto u = uncertainty(meter_.ranges[*range], reading.meter, use_of(meter_, temperature));
    result_.meter[row] = squared(u.combined() * scale);
    // Repeats that show different digits average them; at a standstill the digit stays.
    const bool moving = reading.spread && *reading.spread > 0.0;
    const int shown = reading.meter_repeats.value_or(moving ? reading.repeats : 1);
    const double digit = squared(u.resolution * scale) / shown;
    result_.measured.variances[row] += digit;
    if (shown > 1) result_.averages[row] += digit;
    for (std::size_t i = 0; i < u.limits.size(); ++i) {
      const auto [at, added] = columns_.try_emplace({*range, i}, result_.measured.columns.size());
      if (added) {
        result_.measured.columns.emplace_back(result_.at.size(), 0.0);
        result_.limit_of.emplace_back(*range, i);
      }
      const double signed_limit = std::copysign(u.limits[i] * scale, reading.meter);
      result_.measured.columns[at->second][row] = signed_limit;
    }
  }

  // What is the same in every row is a column; INL and DNL differ from code to code.
  void add_fixed(std::size_t n) {
    std::map<std::size_t, std::size_t> column_of;
    for (std::size_t s = 0; s < chain_.sources.size(); ++s) {
      const auto kind = chain_.sources[s].kind();
      const auto& effect = result_.effects.of_source[s];
      if (chain::random(kind)) continue;
      if (kind == chain::Kind::nonlinearity) {
        for (std::size_t i = 0; i < n; ++i) result_.channel.variances[i] += squared(effect[i]);
        continue;
      }
      column_of[s] = result_.channel.columns.size();
      result_.channel.columns.push_back(effect);
      result_.source_of.push_back(s);
    }
    // The second of two that correlate by r is r times the first, and the rest its own.
    for (const auto& [first, second, r] : chain_.correlations) {
      if (!column_of.contains(first) || !column_of.contains(second)) continue;
      auto& a = result_.channel.columns[column_of[first]];
      auto& b = result_.channel.columns[column_of[second]];
      for (std::size_t i = 0; i < n; ++i) {
        a[i] += r * b[i];
        b[i] *= std::sqrt(1.0 - r * r);
      }
    }
  }

  // What is new at every reading. Repeats average the noise and not the converter's steps, and
  // where they show more of it than was predicted, they are believed.
  void add_random(const std::vector<Reading>& readings) {
    const auto n = readings.size();
    std::vector<double> steps(n, 0.0);
    result_.noise.assign(n, 0.0);
    for (std::size_t s = 0; s < chain_.sources.size(); ++s) {
      const auto kind = chain_.sources[s].kind();
      if (!chain::random(kind)) continue;
      auto& into = kind == chain::Kind::quantisation ? steps : result_.noise;
      for (std::size_t i = 0; i < n; ++i) into[i] += squared(result_.effects.of_source[s][i]);
    }
    for (std::size_t i = 0; i < n; ++i) result_.noise[i] += steps[i];
    const auto noise = noise_observed(result_, readings);
    const bool more = noise.dof > 0 && noise.observed > noise.predicted &&
                      math::chi_squared_survival(
                          noise.dof * squared(noise.observed / noise.predicted), noise.dof) < 0.05;
    result_.spread.assign(n, 0.0);
    result_.spread_dof = noise.dof;
    for (std::size_t i = 0; i < n; ++i) {
      auto& variance = result_.measured.variances[i];
      if (readings[i].u_reading) {
        variance += squared(*readings[i].u_reading);
      } else {
        const double single = more ? squared(noise.observed) : result_.noise[i] - steps[i];
        variance += single / readings[i].repeats + steps[i];
        result_.averages[i] += single / readings[i].repeats;
        if (more) result_.spread[i] = single / readings[i].repeats;
      }
    }
  }
};

}  // namespace

Effects effects_at(const chain::Chain& chain, const std::vector<double>& at, double coverage) {
  if (at.size() <= 2 * grid_points) {
    return of_budget(budget::evaluate(chain, {.at = at,
                                              .coverage = coverage,
                                              .search = false,
                                              .rough_units = rough_units,
                                              .details = false}));
  }
  auto result = of_budget(budget::over_span(chain, grid_points, {.coverage = coverage}));
  const Reader read_off(chain.channel.span, at);
  result.bias = read_off(result.bias);
  result.expanded = read_off(result.expanded);
  for (auto& effect : result.of_source) effect = read_off(effect);
  return result;
}

std::vector<double> RowFigures::unexpected() const {
  std::vector<double> result;
  for (std::size_t i = 0; i < rows(); ++i) result.push_back(difference[i] - effects.bias[i]);
  return result;
}

math::SharedCovariance RowFigures::all() const {
  auto result = measured;
  for (std::size_t i = 0; i < rows(); ++i) result.variances[i] += channel.variances[i];
  result.columns.insert(result.columns.end(), channel.columns.begin(), channel.columns.end());
  return result;
}

double RowFigures::standard_uncertainty(std::size_t row) const {
  double variance = measured.variances[row];
  for (const auto& column : measured.columns) variance += squared(column[row]);
  return std::sqrt(variance);
}

double RowFigures::coverage_factor(std::size_t row, double combined) const {
  if (!(spread[row] > 0.0)) return effects.coverage_factor;
  return math::coverage_factor(coverage, spread_dof * squared(squared(combined) / spread[row]));
}

NoiseSeen noise_observed(const RowFigures& evidence, const std::vector<Reading>& readings) {
  NoiseSeen result;
  double observed = 0.0, predicted = 0.0;
  for (std::size_t i = 0; i < readings.size(); ++i) {
    if (!readings[i].spread || readings[i].repeats < 2) continue;
    const int dof = readings[i].repeats - 1;
    observed += dof * squared(*readings[i].spread);
    predicted += dof * evidence.noise[i];
    result.dof += dof;
  }
  if (result.dof == 0) return result;
  result.observed = std::sqrt(observed / result.dof);
  result.predicted = std::sqrt(predicted / result.dof);
  return result;
}

double quantity_of(const chain::Chain& chain, const model::Meter& meter, double shown) {
  return meter.touches == model::Touches::pin ? chain::quantity_at_voltage(chain, shown) : shown;
}

std::vector<double> positions(const chain::Chain& chain, const model::Meter& meter,
                              const std::vector<Reading>& readings) {
  std::vector<double> result;
  for (const auto& reading : readings) result.push_back(quantity_of(chain, meter, reading.meter));
  return result;
}

RowFigures figures_of_rows(const chain::Chain& chain, const model::Meter& meter,
                           const std::vector<Reading>& readings, Effects effects) {
  return Gatherer(chain, meter).gather(readings, std::move(effects));
}

RowFigures figures_of_rows(const chain::Chain& chain, const model::Meter& meter,
                           const std::vector<Reading>& readings, double coverage) {
  auto result = figures_of_rows(chain, meter, readings,
                                effects_at(chain, positions(chain, meter, readings), coverage));
  result.coverage = coverage;
  return result;
}

}  // namespace tamlo::meter
