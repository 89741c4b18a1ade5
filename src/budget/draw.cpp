// SPDX-License-Identifier: Apache-2.0
// Random values of the inputs, row by row.
#include <algorithm>
#include <cmath>
#include <numbers>
#include <stdexcept>

#include "math/draws.hpp"
#include "tamlo/budget/propagate.hpp"
#include "tamlo/error.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/math/detail/linear.hpp"

namespace tamlo::budget {
namespace {

using math::Deviate;

// From a probability to a deviation, in half-widths or standard uncertainties.
double quantile(const Input& input, double u) {
  switch (input.shape) {
    case Shape::normal:
      return math::normal_quantile(u);
    case Shape::student:
      return math::student_quantile(u, input.dof);
    case Shape::uniform:
    case Shape::curved_trapezoid:
      return 2.0 * u - 1.0;
    case Shape::triangular:
      return u < 0.5 ? std::sqrt(2.0 * u) - 1.0 : 1.0 - std::sqrt(2.0 * (1.0 - u));
    case Shape::arcsine:
      return std::sin(std::numbers::pi * (u - 0.5));
  }
  return 0.0;
}

double unit_of(const Input& input) {
  const bool scaled = input.shape == Shape::normal || input.shape == Shape::student;
  return scaled ? input.standard_uncertainty : input.half_width;
}

// Uniform in (0, 1).
void uniform_row(std::uint64_t seed, std::uint64_t row, std::uint64_t first,
                 std::vector<double>& out) {
  std::ranges::fill(out, 0.5);
  math::add_deviates(Deviate::uniform, seed, row, first, 0.5, out, out);
}

// The coefficient between the normal values that gives `r` between what is made of them.
double of_copula(const Input& a, const Input& b, double r) {
  const bool both_uniform = a.shape == Shape::uniform && b.shape == Shape::uniform;
  return both_uniform ? 2.0 * std::sin(std::numbers::pi * r / 6.0) : r;
}

// From a standard normal value to one of the input's shape, in half-widths or standard
// uncertainties.
double shaped(const Input& input, double z) {
  return input.shape == Shape::normal ? z
                                      : quantile(input, std::erfc(-z / std::numbers::sqrt2) / 2.0);
}

// A quantile of Student's t takes microseconds, so it is read off a grid, by the cubic through four
// points: within 1e-8 of itself even for one degree of freedom. Beyond the grid it is worked out.
constexpr int grid_per_unit = 256, grid_ends = 6;

std::vector<double> student_grid(const Input& input) {
  std::vector<double> result;
  for (int i = -grid_ends * grid_per_unit - 1; i <= grid_ends * grid_per_unit + 2; ++i) {
    result.push_back(shaped(input, static_cast<double>(i) / grid_per_unit));
  }
  return result;
}

double on_grid(const std::vector<double>& grid, double z) {
  const double at = (z + grid_ends) * grid_per_unit;
  const auto i = static_cast<std::size_t>(at);
  const double t = at - static_cast<double>(i);  // from the second of the four points to the third
  return -t * (t - 1.0) * (t - 2.0) / 6.0 * grid[i] +
         (t + 1.0) * (t - 1.0) * (t - 2.0) / 2.0 * grid[i + 1] -
         (t + 1.0) * t * (t - 2.0) / 2.0 * grid[i + 2] +
         (t + 1.0) * t * (t - 1.0) / 6.0 * grid[i + 3];
}

}  // namespace

// Each input has two rows of numbers to itself; few use the second.
void add_deviations(const Input& input, std::uint64_t seed, std::uint64_t number,
                    std::uint64_t first, std::span<const double> from, std::span<double> out) {
  const double unit = unit_of(input);
  const auto row = 2 * number;
  switch (input.shape) {
    case Shape::normal:
      return math::add_deviates(Deviate::normal, seed, row, first, unit, from, out);
    case Shape::arcsine:
      return math::add_deviates(Deviate::arcsine, seed, row, first, unit, from, out);
    case Shape::uniform:
      return math::add_deviates(Deviate::uniform, seed, row, first, unit, from, out);
    default:
      break;
  }
  std::vector<double> u(out.size()), v(out.size());
  uniform_row(seed, row, first, u);
  if (input.shape == Shape::student) {
    // Bailey (1994): sqrt(nu (U^(-2 / nu) - 1)) cos(2 pi V) is t of nu degrees of freedom. An
    // arcsine deviate is such a cosine.
    math::add_deviates(Deviate::arcsine, seed, row + 1, first, 1.0, v, v);
    for (std::size_t t = 0; t < out.size(); ++t) {
      out[t] =
          from[t] + unit * std::sqrt(input.dof * (std::pow(u[t], -2.0 / input.dof) - 1.0)) * v[t];
    }
  } else if (input.shape == Shape::curved_trapezoid) {
    // JCGM 101, 6.4.3.4: an end from its own range, its other end as far on the other side.
    math::add_deviates(Deviate::uniform, seed, row + 1, first, 1.0, v, v);
    for (std::size_t t = 0; t < out.size(); ++t) {
      out[t] = from[t] + (unit + input.ends * v[t]) * (2.0 * u[t] - 1.0);
    }
  } else {
    for (std::size_t t = 0; t < out.size(); ++t) out[t] = from[t] + unit * quantile(input, u[t]);
  }
}

Draws::Draws(std::vector<Input> inputs, const std::vector<Correlation>& correlations)
    : inputs_(std::move(inputs)) {
  if (correlations.empty()) return;
  const auto place = [&](std::size_t input) {
    const auto at = std::find(joint_.begin(), joint_.end(), input);
    if (at == joint_.end()) return joint_.push_back(input), joint_.size() - 1;
    return static_cast<std::size_t>(at - joint_.begin());
  };
  for (const auto& correlation : correlations) {
    place(correlation.first);
    place(correlation.second);
  }
  const auto size = joint_.size();
  std::vector<double> matrix(size * size);
  for (std::size_t k = 0; k < size; ++k) matrix[k * size + k] = 1.0;
  for (const auto& correlation : correlations) {
    const double r =
        of_copula(inputs_[correlation.first], inputs_[correlation.second], correlation.coefficient);
    const auto i = place(correlation.first), j = place(correlation.second);
    matrix[i * size + j] = matrix[j * size + i] = r;
  }
  // With pivots, so that a coefficient of 1 is no obstacle.
  const math::SymmetricFactors factors(matrix);
  if (!(factors.smallest_pivot() >= -1e-9)) {
    throw ArgumentError("the correlations contradict one another");
  }
  root_ = factors.root();
  for (const auto input : joint_) {
    const bool student = inputs_[input].shape == Shape::student;
    student_.push_back(student ? student_grid(inputs_[input]) : std::vector<double>());
  }
}

double Draws::of_normal(std::size_t joint, double z) const {
  const auto& grid = student_[joint];
  const bool held = !grid.empty() && std::abs(z) <= grid_ends;
  return held ? on_grid(grid, z) : shaped(inputs_[joint_[joint]], z);
}

void Draws::fill(std::uint64_t seed, std::uint64_t first, std::size_t n,
                 std::vector<std::vector<double>>& rows) const {
  rows.resize(inputs_.size());
  for (std::size_t i = 0; i < inputs_.size(); ++i) {
    rows[i].assign(n, inputs_[i].estimate);
    add_deviations(inputs_[i], seed, i, first, rows[i], rows[i]);
  }
  // Those that correlate: their joint normal values, then the shape of each.
  const auto size = joint_.size();
  std::vector<std::vector<double>> z(size, std::vector<double>(n));
  for (std::size_t k = 0; k < size; ++k) {
    math::add_deviates(Deviate::normal, seed, 2 * joint_[k], first, 1.0, z[k], z[k]);
  }
  for (std::size_t k = 0; k < size; ++k) {
    const auto& input = inputs_[joint_[k]];
    const double unit = unit_of(input);
    for (std::size_t t = 0; t < n; ++t) {
      double sum = 0.0;
      for (std::size_t j = 0; j < size; ++j) sum += root_[k * size + j] * z[j][t];
      rows[joint_[k]][t] = input.estimate + unit * of_normal(k, sum);
    }
  }
}

}  // namespace tamlo::budget
