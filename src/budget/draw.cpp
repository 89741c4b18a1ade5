// SPDX-License-Identifier: Apache-2.0
// Random values of the inputs, row by row.
#include <Eigen/Cholesky>
#include <algorithm>
#include <boost/math/distributions/normal.hpp>
#include <boost/math/distributions/students_t.hpp>
#include <cmath>
#include <numbers>
#include <stdexcept>

#include "tamlo/budget/propagate.hpp"
#include "tamlo/math/draws.hpp"

namespace tamlo::budget {
namespace {

using math::Deviate;

// From a probability to a deviation, in half-widths or standard uncertainties.
double quantile(const Input& input, double u) {
  switch (input.shape) {
    case Shape::normal:
      return boost::math::quantile(boost::math::normal(), u);
    case Shape::student:
      return boost::math::quantile(boost::math::students_t(input.dof), u);
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
  return scaled ? input.standard : input.half_width;
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

// The inputs that correlate with any other: their joint normal values, then their own shape.
void draw_joint(const std::vector<Input>& inputs, const std::vector<Correlation>& correlations,
                std::uint64_t first, std::uint64_t seed, std::size_t n,
                std::vector<std::vector<double>>& rows) {
  std::vector<std::size_t> joint;
  const auto place = [&](std::size_t input) {
    const auto at = std::find(joint.begin(), joint.end(), input);
    if (at != joint.end()) return at - joint.begin();
    joint.push_back(input);
    return static_cast<std::ptrdiff_t>(joint.size()) - 1;
  };
  for (const auto& of : correlations) {
    place(of.first);
    place(of.second);
  }
  const auto size = static_cast<Eigen::Index>(joint.size());
  Eigen::MatrixXd matrix = Eigen::MatrixXd::Identity(size, size);
  for (const auto& of : correlations) {
    const double r = of_copula(inputs[of.first], inputs[of.second], of.coefficient);
    matrix(place(of.first), place(of.second)) = matrix(place(of.second), place(of.first)) = r;
  }
  // With pivots, so that a coefficient of 1 is no obstacle.
  const Eigen::LDLT<Eigen::MatrixXd> factors(matrix);
  if (factors.info() != Eigen::Success || factors.vectorD().minCoeff() < -1e-9) {
    throw std::invalid_argument("the correlations contradict one another");
  }
  const Eigen::MatrixXd root = factors.transpositionsP().transpose() *
                               Eigen::MatrixXd(factors.matrixL()) *
                               factors.vectorD().cwiseMax(0.0).cwiseSqrt().asDiagonal();
  std::vector<std::vector<double>> z(joint.size(), std::vector<double>(n));
  for (std::size_t k = 0; k < joint.size(); ++k) {
    math::add_deviates(Deviate::normal, seed, 2 * joint[k], first, 1.0, z[k], z[k]);
  }
  for (std::size_t k = 0; k < joint.size(); ++k) {
    const auto& input = inputs[joint[k]];
    const double unit = unit_of(input);
    for (std::size_t t = 0; t < n; ++t) {
      double sum = 0.0;
      for (std::size_t j = 0; j < joint.size(); ++j) {
        sum += root(static_cast<Eigen::Index>(k), static_cast<Eigen::Index>(j)) * z[j][t];
      }
      const double deviation = input.shape == Shape::normal
                                   ? sum
                                   : quantile(input, std::erfc(-sum / std::numbers::sqrt2) / 2.0);
      rows[joint[k]][t] = input.estimate + unit * deviation;
    }
  }
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
    // JCGM 101, 6.4.3.4: an end from its own range, its partner as far on the other side.
    math::add_deviates(Deviate::uniform, seed, row + 1, first, 1.0, v, v);
    for (std::size_t t = 0; t < out.size(); ++t) {
      out[t] = from[t] + (unit + input.ends * v[t]) * (2.0 * u[t] - 1.0);
    }
  } else {
    for (std::size_t t = 0; t < out.size(); ++t) out[t] = from[t] + unit * quantile(input, u[t]);
  }
}

void draw(const std::vector<Input>& inputs, const std::vector<Correlation>& correlations,
          std::uint64_t seed, std::uint64_t first, std::size_t n,
          std::vector<std::vector<double>>& rows) {
  rows.resize(inputs.size());
  for (std::size_t i = 0; i < inputs.size(); ++i) {
    rows[i].assign(n, inputs[i].estimate);
    add_deviations(inputs[i], seed, i, first, rows[i], rows[i]);
  }
  if (!correlations.empty()) draw_joint(inputs, correlations, first, seed, n, rows);
}

}  // namespace tamlo::budget
