// SPDX-License-Identifier: Apache-2.0
#include "fits.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "chain/correction.hpp"
#include "tamlo/math/regression.hpp"
#include "tamlo/names.hpp"
#include "tamlo/quantity/format.hpp"
#include "tamlo/quantity/notation.hpp"

namespace tamlo::meter {

std::string_view name(Model model) {
  return name_in({"offset", "gain", "two-point", "line", "weighted-line", "both-axes", "polynomial",
                  "piecewise"},
                 model);
}

std::size_t Basis::size() const {
  return model == Model::piecewise ? nodes.size() : needs(model, order);
}

std::vector<double> Basis::at(double reading) const {
  std::vector<double> result(size(), 0.0);
  const double z = (reading - centre) / half_width;
  switch (model) {
    case Model::gain:
      result[0] = z;  // from the zero of the unit: `centre` is there
      return result;
    case Model::piecewise:
      return chain::hats(nodes, reading);
    default:
      result[0] = 1.0;
      for (std::size_t j = 1; j < result.size(); ++j) result[j] = result[j - 1] * z;
      return result;
  }
}

Basis basis_of(Model model, int order, double low, double high, double zero) {
  Basis result{.model = model, .order = model == Model::polynomial ? order : 1};
  if (model == Model::gain) {
    result.centre = zero;
  } else if (high > low) {
    result.centre = (low + high) / 2.0;
    result.half_width = (high - low) / 2.0;
  } else {
    result.centre = low;
  }
  return result;
}

std::vector<std::vector<double>> columns_of(const Basis& basis,
                                            const std::vector<double>& readings) {
  std::vector<std::vector<double>> result(basis.size());
  for (auto& column : result) column.reserve(readings.size());
  for (const double reading : readings) {
    const auto row = basis.at(reading);
    for (std::size_t j = 0; j < row.size(); ++j) result[j].push_back(row[j]);
  }
  return result;
}

std::size_t needs(Model model, int order) {
  switch (model) {
    case Model::offset:
    case Model::gain:
      return 1;
    case Model::polynomial:
      return static_cast<std::size_t>(order) + 1;
    default:
      return 2;
  }
}

namespace {

constexpr std::size_t most_nodes = 16;

std::string at_text(double x, const quantity::Unit& unit) {
  const auto text = quantity::significant(x, unit, 4);
  return unit.symbol.empty() ? text : text + " " + unit.symbol;
}

void judge(Fitted& fit, const Rows& rows, const std::vector<double>& leverages) {
  const auto n = rows.readings.size(), k = fit.basis.size();
  double squares = 0.0, left_out = 0.0;
  for (std::size_t i = 0; i < n; ++i) {
    squares += squared(fit.residuals[i] / rows.standards[i]);
    const double held = 1.0 - leverages[i];
    left_out += held > 1e-9 ? squared(fit.residuals[i] / held) : infinite;
  }
  const auto count = static_cast<double>(n), free = static_cast<double>(k + 1);
  fit.candidate.leave_one_out = std::sqrt(left_out / count);
  // With the spread of the rows unknown; a perfect fit is taken to be as good as the rows allow.
  const double per_row = std::max(squares / count, 1e-6);
  fit.candidate.corrected_aic = count - free - 1.0 > 0.0
                                    ? count * std::log(per_row) + 2.0 * free +
                                          2.0 * free * (free + 1.0) / (count - free - 1.0)
                                    : infinite;
}

Fitted by_two_points(const Rows& rows, Basis basis) {
  const auto low =
      static_cast<std::size_t>(std::ranges::min_element(rows.readings) - rows.readings.begin());
  const auto high =
      static_cast<std::size_t>(std::ranges::max_element(rows.readings) - rows.readings.begin());
  const auto n = rows.readings.size();
  // Of z = -1 at the lowest and 1 at the highest: half their sum, and half their difference.
  Fitted result{.basis = basis};
  result.row_weights.assign(2, std::vector<double>(n));
  result.row_weights[0][low] = result.row_weights[0][high] = 0.5;
  result.row_weights[1][low] = -0.5;
  result.row_weights[1][high] = 0.5;
  return result;
}

// Nodes at even parts of the rows, by rising reading; fewer until the correction rises with it.
std::vector<double> nodes_of(const Rows& rows, std::size_t count) {
  auto sorted = rows.readings;
  std::ranges::sort(sorted);
  std::vector<double> result;
  for (std::size_t i = 0; i < count; ++i) {
    const double x = sorted[i * (sorted.size() - 1) / (count - 1)];
    if (result.empty() || x > result.back()) result.push_back(x);
  }
  return result;
}

bool rises(const Fitted& fit) {
  for (std::size_t j = 1; j < fit.basis.nodes.size(); ++j) {
    if (!(fit.basis.nodes[j] + fit.beta[j] > fit.basis.nodes[j - 1] + fit.beta[j - 1])) {
      return false;
    }
  }
  return true;
}

Fitted fit_basis(const Rows& rows, Basis basis) {
  const auto columns = columns_of(basis, rows.readings);
  auto standards = rows.standards;
  if (basis.model == Model::line) std::ranges::fill(standards, 1.0);
  Fitted result{.basis = basis};
  std::vector<double> leverages(rows.readings.size(), 1.0);
  if (basis.model == Model::two_point) {
    result = by_two_points(rows, basis);
  } else {
    auto adjusted = columns;
    if (basis.model == Model::both_axes) {
      // York's line of the meter over the reading: what it corrects is meter - reading. How it
      // follows each row is as of a fit at the places on it that the rows stand for.
      std::vector<double> meter;
      for (std::size_t i = 0; i < rows.readings.size(); ++i) {
        meter.push_back(rows.readings[i] + rows.wanted[i]);
      }
      const auto line = math::fit_both_axes(rows.readings, meter, rows.of_reading, rows.of_meter);
      standards = line.standards;
      adjusted = columns_of(basis, line.adjusted);
      result.beta = {line.offset + (line.gain - 1.0) * basis.centre,
                     (line.gain - 1.0) * basis.half_width};
    }
    auto fit = math::regress(adjusted, rows.wanted, standards);
    result.row_weights = std::move(fit.weights);
    leverages = std::move(fit.leverages);
  }
  if (result.beta.empty()) {
    for (const auto& weights : result.row_weights) result.beta.push_back(dot(weights, rows.wanted));
  }
  for (std::size_t i = 0; i < rows.readings.size(); ++i) {
    double fitted = 0.0;
    for (std::size_t j = 0; j < columns.size(); ++j) fitted += result.beta[j] * columns[j][i];
    result.residuals.push_back(rows.wanted[i] - fitted);
  }
  result.candidate = {.model = basis.model, .order = basis.order};
  judge(result, rows, leverages);
  return result;
}

}  // namespace

Rows::Rows(const RowFigures& evidence, const std::vector<Reading>& given, double zero_of_unit)
    : zero(zero_of_unit) {
  for (std::size_t i = 0; i < evidence.rows(); ++i) {
    readings.push_back(given[i].reading);
    wanted.push_back(-evidence.difference[i]);
    const double all = evidence.measured.variances[i] + evidence.channel.variances[i];
    standards.push_back(std::sqrt(all));
    // Of the meter's own is what is new in each row: its digit, or all of what the file gives.
    double shared = 0.0;
    for (const auto& column : evidence.measured.columns) shared += squared(column[i]);
    const double meter = std::clamp(evidence.meter[i] - shared, 0.0, all);
    of_meter.push_back(std::sqrt(meter));
    of_reading.push_back(std::sqrt(all - meter));
  }
  const auto [least, most] = std::ranges::minmax(readings);
  low = least;
  high = most;
  positions = different(evidence.at);
}

Fitted fit_model(const Rows& rows, Model model, int order) {
  auto basis = basis_of(model, order, rows.low, rows.high, rows.zero);
  if (model != Model::piecewise) return fit_basis(rows, basis);
  for (std::size_t count = std::clamp<std::size_t>(rows.positions / 2, 2, most_nodes);; --count) {
    basis.nodes = nodes_of(rows, count);
    auto result = fit_basis(rows, basis);
    if (count == 2 || rises(result)) return result;
  }
}

void refuse_what_cannot_be(const Rows& rows, Model model, int order, const quantity::Unit& unit) {
  const auto needed = needs(model, order);
  if (model == Model::gain &&
      std::ranges::all_of(rows.readings, [&](double r) { return r == rows.zero; })) {
    throw CalibrationError("a gain cannot be told: all readings are at zero");
  }
  if (rows.positions >= needed && (needed < 2 || rows.high > rows.low)) return;
  const auto what = model == Model::polynomial ? fmt::format("a polynomial of order {}", order)
                                               : fmt::format("the model {}", name(model));
  throw CalibrationError(
      fmt::format("{} needs readings at {} different positions; there {} {}{}", what, needed,
                  rows.positions == 1 ? "is" : "are", rows.positions,
                  rows.positions == 1 ? ": all are at " + at_text(rows.low, unit) : ""));
}

std::vector<Fitted> tried(const Rows& rows) {
  std::vector<std::pair<Model, int>> models{{Model::offset, 1}, {Model::gain, 1}};
  if (rows.positions >= 2) models.push_back({Model::weighted_line, 1});
  for (int order = 2; order <= 4; ++order) {
    if (rows.positions >= static_cast<std::size_t>(order) + 3) {
      models.push_back({Model::polynomial, order});
    }
  }
  if (rows.positions >= 6) models.push_back({Model::piecewise, 1});
  std::vector<Fitted> result;
  for (const auto& [model, order] : models) {
    if (model == Model::gain && rows.low == rows.zero && rows.high == rows.zero) continue;
    result.push_back(fit_model(rows, model, order));
  }
  return result;
}

std::size_t best_of(const std::vector<Fitted>& fits) {
  std::size_t best = 0;
  double least = infinite;
  for (const auto& fit : fits) least = std::min(least, fit.candidate.corrected_aic);
  // Too few rows for the criterion: a line through two, an offset of one.
  if (least == infinite) return fits.size() > 2 ? 2 : 0;
  double left_out = infinite;
  bool found = false;
  for (std::size_t i = 0; i < fits.size(); ++i) {
    if (fits[i].candidate.corrected_aic > least + 2.0) continue;
    const bool simpler = found && fits[i].basis.size() < fits[best].basis.size();
    const bool as_simple = found && fits[i].basis.size() == fits[best].basis.size();
    if (!found || simpler || (as_simple && fits[i].candidate.leave_one_out < left_out)) {
      best = i;
      left_out = fits[i].candidate.leave_one_out;
      found = true;
    }
  }
  return best;
}

}  // namespace tamlo::meter
