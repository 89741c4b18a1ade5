// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/calibrate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

#include "chain/correction.hpp"
#include "decision.hpp"
#include "fits.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/math/regression.hpp"

namespace tamlo::meter {
namespace {

// Calibrations are many: of each rough place a tenth of the units that a budget takes.
constexpr std::uint64_t rough_units_after = 2000;

// Of corrected = offset + gain * reading, and c0 + c1 reading + ...: from the functions of z.
void set_parameters(Calibration& result, const Basis& basis, const std::vector<double>& beta,
                    const std::vector<double>& covariance) {
  const auto k = beta.size();
  if (basis.model == Model::piecewise) return;
  // Rows say how each parameter is made of the betas.
  std::vector<std::vector<double>> back;
  const double c = basis.centre - result.unit.offset, h = basis.half_width;
  if (basis.model == Model::gain) {
    back = {{1.0 / h}};
  } else {
    // z^j = sum_m binomial(j, m) (-c)^(j - m) r^m / h^j.
    back.assign(k, std::vector<double>(k, 0.0));
    for (std::size_t j = 0; j < k; ++j) {
      double binomial = 1.0;
      for (std::size_t m = 0; m <= j; ++m) {
        back[m][j] = binomial * std::pow(-c, static_cast<double>(j - m)) /
                     std::pow(h, static_cast<double>(j));
        binomial *= static_cast<double>(j - m) / static_cast<double>(m + 1);
      }
    }
  }
  for (std::size_t a = 0; a < back.size(); ++a) {
    const bool is_gain = basis.model == Model::gain || a == 1;
    Calibration::Parameter parameter{.name = basis.model == Model::polynomial
                                                 ? fmt::format("c{}", a)
                                             : is_gain ? "gain"
                                                       : "offset"};
    parameter.value = dot(back[a], beta) + (is_gain ? 1.0 : 0.0);
    for (std::size_t b = 0; b < back.size(); ++b) {
      double sum = 0.0;
      for (std::size_t i = 0; i < k; ++i) {
        for (std::size_t j = 0; j < k; ++j) {
          sum += back[a][i] * back[b][j] * covariance[i * k + j];
        }
      }
      result.covariance.push_back(sum);
      if (a == b) parameter.standard_uncertainty = std::sqrt(std::max(sum, 0.0));
    }
    result.parameters.push_back(std::move(parameter));
  }
}

std::vector<Outlier> outliers_of(const Rows& rows, const Basis& basis) {
  std::vector<Outlier> result;
  const auto n = rows.readings.size();
  if (n < basis.size() + 3) return result;
  const auto off =
      math::robust_residuals(columns_of(basis, rows.readings), rows.wanted, rows.standards);
  // One in twenty fits without a fault has any beyond this, if its rows are normal.
  const double far = 1.2 * math::coverage_factor(1.0 - 0.05 / static_cast<double>(n), infinite);
  for (std::size_t i = 0; i < n; ++i) {
    if (std::abs(off[i]) > far) result.push_back({.row = i, .deviations = off[i]});
  }
  return result;
}

Basis basis_of(const Calibration& calibration) {
  Basis result{.model = calibration.model,
               .order = calibration.order,
               .centre = calibration.correction.centre,
               .half_width = calibration.correction.half_width,
               .nodes = calibration.correction.readings};
  return result;
}

// How the correction was found, for budgets that use it later. One in proportion to the reading has
// a constant of 0 that nothing moves.
void hand_on(const RowFigures& evidence, const model::Meter& meter, const Fitted& fit,
             const std::vector<double>& covariance, Calibration& result) {
  const std::size_t k = fit.basis.size(), n = evidence.rows();
  const std::size_t fixed = fit.candidate.model == Model::gain ? 1 : 0;
  auto& correction = result.correction;
  correction.at_pin = meter.touches == model::Touches::pin;
  // Of many rows neighbours are handed on as one position: what a source does hardly differs there.
  constexpr std::size_t most_positions = 64;
  std::vector<std::size_t> order(n);
  std::iota(order.begin(), order.end(), std::size_t{0});
  if (n > most_positions)
    std::ranges::sort(order, {}, [&](std::size_t row) { return evidence.at[row]; });
  const std::size_t count = std::min(n, most_positions);
  correction.positions.assign(count, 0.0);
  correction.weights.assign((k + fixed) * count, 0.0);
  for (std::size_t i = 0; i < n; ++i) {
    const std::size_t row = order[i], position = i * count / n;
    const std::size_t begin = (position * n + count - 1) / count,
                      end = ((position + 1) * n + count - 1) / count;
    correction.positions[position] += evidence.at[row] / static_cast<double>(end - begin);
    for (std::size_t j = 0; j < k; ++j)
      correction.weights[(j + fixed) * count + position] += fit.row_weights[j][row];
  }
  correction.covariance.assign((k + fixed) * (k + fixed), 0.0);
  for (std::size_t a = 0; a < k; ++a) {
    for (std::size_t b = 0; b < k; ++b)
      correction.covariance[(a + fixed) * (k + fixed) + b + fixed] = covariance[a * k + b];
  }
}

}  // namespace

std::vector<double> Calibration::weights_at(double reading) const {
  const auto functions = basis_of(*this).at(reading);
  std::vector<double> result(random.size(), 0.0);
  for (std::size_t j = 0; j < functions.size(); ++j) {
    if (functions[j] == 0.0) continue;
    for (std::size_t i = 0; i < result.size(); ++i) {
      result[i] -= functions[j] * row_weights[j][i];
    }
  }
  return result;
}

double Calibration::standard_at(double reading) const {
  const auto weights = weights_at(reading);
  double variance = 0.0;
  for (std::size_t i = 0; i < weights.size(); ++i) variance += squared(weights[i]) * random[i];
  for (const auto& column : shared) variance += squared(dot(weights, column));
  return std::sqrt(variance);
}

Calibration calibrate(const chain::Chain& chain, const model::Meter& meter,
                      const std::vector<Reading>& readings, const CalibrationRequest& request) {
  return calibrate(Evidence(chain, meter, readings, request.coverage), request);
}

Calibration calibrate(const Evidence& gathered, const CalibrationRequest& request) {
  require_channel(gathered);
  const auto& [chain, meter, readings, coverage, evidence, decision] = gathered.parts();
  const auto& unit = chain.channel.span.unit;
  const Rows rows(evidence, readings, unit.offset);
  std::vector<Fitted> fits;
  std::size_t chosen = 0;
  if (request.model) {
    refuse_what_cannot_be(rows, *request.model, request.order, unit);
    fits = tried(rows);
    const auto same = [&](const Fitted& fit) {
      return fit.candidate.model == *request.model &&
             (fit.candidate.model != Model::polynomial || fit.candidate.order == request.order);
    };
    const auto known = std::ranges::find_if(fits, same);
    chosen = static_cast<std::size_t>(known - fits.begin());
    if (known == fits.end()) fits.push_back(fit_model(rows, *request.model, request.order));
  } else {
    fits = tried(rows);
    chosen = best_of(fits);
  }
  const auto& fit = fits[chosen];

  Calibration result{.channel = chain.channel.name,
                     .unit = unit,
                     .meter = meter.name,
                     .model = fit.candidate.model,
                     .order = fit.candidate.order,
                     .coverage = coverage,
                     .coverage_factor = evidence.effects.coverage_factor};
  result.candidates.push_back(fit.candidate);
  for (std::size_t i = 0; i < fits.size(); ++i) {
    if (i != chosen) result.candidates.push_back(fits[i].candidate);
  }
  result.residuals = fit.residuals;
  const auto n = readings.size(), k = fit.basis.size();
  result.dof = static_cast<int>(n - std::min(n, k));
  double squares = 0.0;
  for (std::size_t i = 0; i < n; ++i) {
    squares += squared(fit.residuals[i]);
    result.chi_squared += squared(fit.residuals[i] / rows.standards[i]);
  }
  if (result.dof > 0) {
    result.residual_standard_deviation = std::sqrt(squares / result.dof);
    result.overdispersed = math::chi_squared_survival(result.chi_squared, result.dof) < 0.05;
  }
  // Rows that spread by more than they are worth are believed: the model or the noise is not as
  // said.
  const double wider = result.overdispersed ? result.chi_squared / result.dof : 1.0;
  for (const double u : rows.standards) result.random.push_back(squared(u) * wider);
  result.shared = evidence.measured.columns;
  result.shared_limits = evidence.limit_of;
  result.row_weights = fit.row_weights;

  std::vector<double> covariance;
  for (std::size_t a = 0; a < k; ++a) {
    for (std::size_t b = 0; b < k; ++b) {
      double sum = 0.0;
      for (std::size_t i = 0; i < n; ++i) {
        sum += fit.row_weights[a][i] * fit.row_weights[b][i] * result.random[i];
      }
      for (const auto& column : result.shared) {
        sum += dot(fit.row_weights[a], column) * dot(fit.row_weights[b], column);
      }
      covariance.push_back(sum);
    }
  }
  result.correction.centre = fit.basis.centre;
  result.correction.half_width = fit.basis.half_width;
  if (fit.candidate.model == Model::piecewise) {
    result.correction.readings = fit.basis.nodes;
    for (std::size_t j = 0; j < k; ++j) {
      result.correction.corrected.push_back(fit.basis.nodes[j] + fit.beta[j]);
    }
  } else if (fit.candidate.model == Model::gain) {
    result.correction.coefficients = {0.0, fit.beta[0]};
  } else {
    result.correction.coefficients = fit.beta;
  }
  set_parameters(result, fit.basis, fit.beta, covariance);
  hand_on(evidence, meter, fit, covariance, result);
  result.outliers = outliers_of(rows, fit.basis);
  result.residual_uncertainty = residual_uncertainty(result, chain, meter, readings,
                                                     budget::default_points(chain.channel.span));
  for (const auto& place : result.residual_uncertainty) {
    result.correction.standard_uncertainty =
        std::max(result.correction.standard_uncertainty,
                 std::hypot(place.meter, place.fit) / result.coverage_factor);
  }
  return result;
}

std::vector<ResidualUncertainty> residual_uncertainty(const Calibration& calibration,
                                                      const chain::Chain& chain,
                                                      const model::Meter& meter,
                                                      const std::vector<Reading>& readings,
                                                      const std::vector<double>& at) {
  // Rows and places in one go, as the budget is evaluated once.
  auto all = positions(chain, meter, readings);
  const auto rows = all.size();
  all.insert(all.end(), at.begin(), at.end());
  const auto effects = effects_at(chain, all, calibration.coverage);
  const double k = calibration.coverage_factor;
  const auto after =
      budget::evaluate(chain::with_correction(chain, calibration.correction),
                       {.at = at,
                        .coverage = calibration.coverage,
                        .search = false,
                        .rough_units = rough_units_after,
                        .details = model::takes_worst_case(chain.channel.target.by)});
  std::vector<ResidualUncertainty> result;
  for (std::size_t p = 0; p < at.size(); ++p) {
    const auto place = rows + p;
    const auto weights =
        calibration.weights_at(chain::before_correction(calibration.correction, at[p]));
    double meter_part = 0.0, fit_part = 0.0, channel = 0.0;
    std::vector<double> lefts;
    for (const auto& column : calibration.shared) meter_part += squared(dot(weights, column));
    for (std::size_t i = 0; i < rows; ++i) fit_part += squared(weights[i]) * calibration.random[i];
    for (std::size_t s = 0; s < chain.sources.size(); ++s) {
      const auto& effect = effects.of_source[s];
      double left = effect[place];
      // A tolerance was there when the rows were taken; all else comes anew.
      if (chain.sources[s].kind() == chain::Kind::tolerance) {
        for (std::size_t i = 0; i < rows; ++i) left += weights[i] * effect[i];
      }
      channel += squared(left);
      lefts.push_back(left);
    }
    for (const auto& [a, b, r] : chain.correlations) channel += 2.0 * r * lefts[a] * lefts[b];
    channel = std::max(channel, 0.0);
    ResidualUncertainty left{.at = at[p],
                             .before = std::abs(effects.bias[place]) + effects.expanded[place],
                             .meter = k * std::sqrt(meter_part),
                             .fit = k * std::sqrt(fit_part),
                             .channel = k * std::sqrt(channel)};
    left.after = after.points[p].error();
    if (const auto& accuracy = chain.channel.target.accuracy) {
      left.limit = chain::allowed_at(chain, *accuracy, at[p]);
    }
    result.push_back(left);
  }
  return result;
}

std::vector<Reading> corrected(const model::Correction& correction, std::vector<Reading> readings) {
  for (auto& reading : readings) reading.reading = chain::corrected(correction, reading.reading);
  return readings;
}

BeforeAfter before_after(std::string readings, const Comparison& before, const Comparison& after) {
  const auto largest = [](const Comparison& comparison) {
    double result = 0.0;
    for (const auto& row : comparison.rows) result = std::max(result, std::abs(row.difference));
    return result;
  };
  return {.readings = std::move(readings),
          .before = largest(before),
          .after = largest(after),
          .passed_before = before.summary.passed,
          .passed_after = after.summary.passed,
          .rows = static_cast<int>(before.rows.size())};
}

}  // namespace tamlo::meter
