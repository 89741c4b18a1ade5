// SPDX-License-Identifier: Apache-2.0
#include "tamlo/budget/propagate.hpp"

#include <algorithm>
#include <cmath>
#include <stdexcept>

#include "tamlo/detail/per_thread.hpp"
#include "tamlo/error.hpp"
#include "tamlo/math/detail/coverage.hpp"

namespace tamlo::budget {
namespace {

Input bounded(std::string name, double low, double high, Shape shape, double divisor) {
  const double half = (high - low) / 2.0;
  return {.name = std::move(name),
          .estimate = low + half,
          .standard_uncertainty = half / std::sqrt(divisor),
          .shape = shape,
          .half_width = half};
}

void check(const std::vector<Input>& inputs, const std::vector<Correlation>& correlations) {
  for (const auto& correlation : correlations) {
    if (correlation.first >= inputs.size() || correlation.second >= inputs.size() ||
        correlation.first == correlation.second || !(std::abs(correlation.coefficient) <= 1.0)) {
      throw ArgumentError("a correlation is of two inputs, and within -1 to 1");
    }
  }
  for (const auto& input : inputs) {
    require(std::isfinite(input.estimate) && std::isfinite(input.standard_uncertainty) &&
                input.standard_uncertainty >= 0.0,
            "an input has a finite estimate and a standard uncertainty of 0 or more");
    require(input.dof > 0.0, "an input has degrees of freedom above 0");
  }
  // Throws where they contradict one another.
  if (correlations.size() > 1) (void)Draws(inputs, correlations);
}

// sum_ij r_ij a_i b_j, where r_ii is 1.
double product(const std::vector<double>& a, const std::vector<double>& b,
               const std::vector<Correlation>& correlations) {
  double sum = 0.0;
  for (std::size_t i = 0; i < a.size(); ++i) sum += a[i] * b[i];
  for (const auto& [i, j, r] : correlations) sum += r * (a[i] * b[j] + a[j] * b[i]);
  return sum;
}

// Welch and Satterthwaite: what has infinite degrees of freedom does not add to the sum. The inputs
// of a series are one, of what all of them do together.
std::optional<double> effective_dof(const std::vector<double>& contributions, double combined,
                                    const std::vector<Input>& inputs,
                                    const std::vector<Correlation>& correlations) {
  const auto together = [&](std::size_t i, std::size_t j) {
    return i == j || (inputs[i].series != 0 && inputs[i].series == inputs[j].series);
  };
  for (const auto& [i, j, r] : correlations) {
    const bool finite = std::isfinite(inputs[i].dof) || std::isfinite(inputs[j].dof);
    if (r != 0.0 && finite && !together(i, j)) return {};
  }
  double sum = 0.0;
  for (std::size_t i = 0; i < inputs.size(); ++i) {
    bool first = true;
    for (std::size_t j = 0; j < i; ++j) first = first && !together(i, j);
    if (!first) continue;
    std::vector<double> of_series(inputs.size(), 0.0);
    double dof = inputs[i].dof;
    for (std::size_t j = i; j < inputs.size(); ++j) {
      if (!together(i, j)) continue;
      of_series[j] = contributions[j];
      dof = std::min(dof, inputs[j].dof);
    }
    const double variance = product(of_series, of_series, correlations);
    sum += std::pow(variance / (combined * combined), 2) / dof;
  }
  return sum > 0.0 ? 1.0 / sum : std::numeric_limits<double>::infinity();
}

double least_dof(const std::vector<Input>& inputs) {
  return std::ranges::min_element(inputs, {}, &Input::dof)->dof;
}

}  // namespace

Input normal(std::string name, double estimate, double standard, double dof) {
  return {
      .name = std::move(name), .estimate = estimate, .standard_uncertainty = standard, .dof = dof};
}
Input student(std::string name, double estimate, double scale, double dof) {
  return {.name = std::move(name),
          .estimate = estimate,
          .standard_uncertainty = scale,
          .shape = Shape::student,
          .dof = dof};
}
Input uniform(std::string name, double low, double high) {
  return bounded(std::move(name), low, high, Shape::uniform, 3.0);
}
Input triangular(std::string name, double low, double high) {
  return bounded(std::move(name), low, high, Shape::triangular, 6.0);
}
Input arcsine(std::string name, double low, double high) {
  return bounded(std::move(name), low, high, Shape::arcsine, 2.0);
}
Input curved_trapezoid(std::string name, double low, double high, double ends) {
  auto result = bounded(std::move(name), low, high, Shape::curved_trapezoid, 3.0);
  result.ends = ends;
  // JCGM 101, 6.4.3.3: (b - a)^2 / 12 + d^2 / 9.
  result.standard_uncertainty =
      std::sqrt(result.standard_uncertainty * result.standard_uncertainty + ends * ends / 9.0);
  return result;
}

double Outputs::correlation(std::size_t a, std::size_t b) const {
  const auto n = outputs.size();
  require(a < n && b < n, "outputs that there are");
  return covariance[a * n + b] / (outputs[a].combined * outputs[b].combined);
}

Outputs propagate(const Models& model, std::size_t outputs, const std::vector<Input>& inputs,
                  double coverage, const std::vector<Correlation>& correlations) {
  require(!inputs.empty() && outputs > 0, "an input and an output at least");
  check(inputs, correlations);
  std::vector<double> x, y(outputs), above(outputs), below(outputs);
  for (const auto& input : inputs) x.push_back(input.estimate);
  model(x, y);
  Outputs result;
  for (const double estimate : y) result.outputs.push_back({.estimate = estimate});
  for (std::size_t i = 0; i < inputs.size(); ++i) {
    x[i] = inputs[i].estimate + inputs[i].standard_uncertainty;
    model(x, above);
    x[i] = inputs[i].estimate - inputs[i].standard_uncertainty;
    model(x, below);
    x[i] = inputs[i].estimate;
    for (std::size_t k = 0; k < outputs; ++k) {
      result.outputs[k].contributions.push_back((above[k] - below[k]) / 2.0);
    }
  }
  for (const auto& a : result.outputs) {
    for (const auto& b : result.outputs) {
      result.covariance.push_back(product(a.contributions, b.contributions, correlations));
    }
  }
  for (std::size_t k = 0; k < outputs; ++k) {
    auto& output = result.outputs[k];
    output.combined = std::sqrt(std::max(result.covariance[k * outputs + k], 0.0));
    if (!std::isfinite(output.estimate) || !std::isfinite(output.combined)) {
      throw DataError("the model gives a value that is not a number");
    }
    output.dof = effective_dof(output.contributions, output.combined, inputs, correlations);
    const double dof = output.dof.value_or(least_dof(inputs));
    const double whole = std::isfinite(dof) ? std::max(1.0, std::floor(dof)) : dof;
    output.coverage_factor = math::coverage_factor(coverage, whole);
    output.expanded = output.coverage_factor * output.combined;
  }
  return result;
}

Output propagate(const Model& model, const std::vector<Input>& inputs, double coverage,
                 const std::vector<Correlation>& correlations) {
  const auto one = [&](std::span<const double> x, std::span<double> y) { y[0] = model(x); };
  return propagate(one, 1, inputs, coverage, correlations).outputs.front();
}

namespace {

// The inputs of so many trials from `first` on, one after the other: each(t, x).
template <class Each>
void draw_each(const Draws& draws, std::uint64_t seed, std::uint64_t first, std::size_t count,
               std::size_t inputs, const Each& each) {
  static const tamlo::detail::PerThread<std::vector<std::vector<double>>> memory;
  auto& rows = memory.own();
  draws.fill(seed, first, count, rows);
  std::vector<double> x(inputs);
  for (std::size_t t = 0; t < count; ++t) {
    for (std::size_t i = 0; i < inputs; ++i) x[i] = rows[i][t];
    each(t, x);
  }
}

}  // namespace

TrialsOfOutputs simulate(const Models& model, std::size_t outputs, const std::vector<Input>& inputs,
                         const TrialsRequest& request,
                         const std::vector<Correlation>& correlations) {
  check(inputs, correlations);
  const Draws draws(inputs, correlations);
  const auto block = [&](std::uint64_t first, std::span<const std::span<double>> y) {
    std::vector<double> of_trial(outputs);
    draw_each(draws, request.seed, first, y.front().size(), inputs.size(),
              [&](std::size_t t, std::span<const double> x) {
                model(x, of_trial);
                for (std::size_t k = 0; k < outputs; ++k) y[k][t] = of_trial[k];
              });
  };
  return run(block, outputs, request);
}

// One output goes straight into its place.
Trials simulate(const Model& model, const std::vector<Input>& inputs, const TrialsRequest& request,
                const std::vector<Correlation>& correlations) {
  check(inputs, correlations);
  const Draws draws(inputs, correlations);
  const auto block = [&](std::uint64_t first, std::span<double> y) {
    draw_each(draws, request.seed, first, y.size(), inputs.size(),
              [&](std::size_t t, std::span<const double> x) { y[t] = model(x); });
  };
  return run(block, request);
}

bool closed_form_valid(double estimate, double expanded, double combined, const Trials& trials,
                       int digits) {
  const double allowed = tolerance(combined, digits);
  return std::abs(estimate - expanded - trials.symmetric.low) <= allowed &&
         std::abs(estimate + expanded - trials.symmetric.high) <= allowed;
}

namespace {

// E[d^4] / u^4 of the deviation d of an input. Of a curved trapezoid d is w v with v uniform
// in -1..1 and w uniform in the half width plus or minus `ends`.
double kurtosis(const Input& input) {
  switch (input.shape) {
    case Shape::normal:
    case Shape::student:
      return 3.0;
    case Shape::uniform:
      return 9.0 / 5.0;
    case Shape::triangular:
      return 12.0 / 5.0;
    case Shape::arcsine:
      return 3.0 / 2.0;
    case Shape::curved_trapezoid: {
      const double a = input.half_width * input.half_width, d = input.ends * input.ends;
      const double second = (a + d / 3.0) / 3.0;
      const double fourth = (a * a + 2.0 * a * d + d * d / 5.0) / 5.0;
      return second > 0.0 ? fourth / (second * second) : 3.0;
    }
  }
  return 3.0;
}

}  // namespace

SecondOrder second_order(const Model& model, const std::vector<Input>& inputs) {
  // Steps of h standard uncertainties, so that two of them stay within a bounded input.
  constexpr double h = 0.5;
  const double first_order = propagate(model, inputs).combined;
  std::vector<double> x;
  for (const auto& input : inputs) x.push_back(input.estimate);
  const auto at = [&](std::size_t i, double of_i, std::size_t j = 0, double of_j = 0.0) {
    auto moved = x;
    moved[i] += of_i * h * inputs[i].standard_uncertainty;
    if (of_j != 0.0) moved[j] += of_j * h * inputs[j].standard_uncertainty;
    return model(moved);
  };
  const auto n = inputs.size();
  const double f = model(x);
  SecondOrder result;
  // Derivatives times the standard uncertainties that they go with; the variance of the first order
  // is that of these slopes, which the third derivative does not blur.
  std::vector<double> slope(n);
  double slopes = 0.0;
  for (std::size_t i = 0; i < n; ++i) {
    const double up = at(i, 1.0), down = at(i, -1.0), far = at(i, 2.0), deep = at(i, -2.0);
    slope[i] = (8.0 * (up - down) - (far - deep)) / (12.0 * h);
    const double second = (up + down - 2.0 * f) / (h * h);
    const double third = (far - 2.0 * up + 2.0 * down - deep) / (2.0 * h * h * h);
    const double k = kurtosis(inputs[i]);
    slopes += slope[i] * slope[i];
    result.shift += second / 2.0;
    result.added_variance += second * second * (k - 1.0) / 4.0 + slope[i] * third * k / 3.0;
  }
  for (std::size_t i = 0; i < n; ++i) {
    for (std::size_t j = 0; j < n; ++j) {
      if (i == j) continue;
      const double pp = at(i, 1.0, j, 1.0), pm = at(i, 1.0, j, -1.0);
      const double mp = at(i, -1.0, j, 1.0), mm = at(i, -1.0, j, -1.0);
      const double mixed = (pp - pm - mp + mm) / (4.0 * h * h);
      const double third =
          ((pp + pm - 2.0 * at(i, 1.0)) - (mp + mm - 2.0 * at(i, -1.0))) / (2.0 * h * h * h);
      result.added_variance += mixed * mixed / 2.0 + slope[i] * third;
    }
  }
  const double variance = slopes + result.added_variance;
  if (!std::isfinite(variance)) throw DataError("the model gives a value that is not a number");
  if (variance < -1e-9 * first_order * first_order) {
    throw DataError("the model is too curved for terms of second order: ask trials");
  }
  result.combined = std::sqrt(std::max(variance, 0.0));
  return result;
}

}  // namespace tamlo::budget
