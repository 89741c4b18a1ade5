// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/sensor_laws.hpp"

#include <algorithm>
#include <cmath>

namespace tamlo::chain {
namespace {

constexpr double celsius_zero = 273.15;
constexpr double t25 = 298.15;

// IEC 60751:2008, 4.2.
constexpr double platinum_a = 3.9083e-3;
constexpr double platinum_b = -5.775e-7;
constexpr double platinum_c = -4.183e-12;

double platinum_ratio(double t) {
  const double positive = 1.0 + platinum_a * t + platinum_b * t * t;
  return t < 0.0 ? positive + platinum_c * (t - 100.0) * t * t * t : positive;
}

// The quadratic is exact from 0 degC up; below, Newton's steps begin from it.
double platinum_temperature(double ratio) {
  const double root = platinum_a * platinum_a - 4.0 * platinum_b * (1.0 - ratio);
  double t = (-platinum_a + std::sqrt(std::max(root, 0.0))) / (2.0 * platinum_b);
  if (ratio >= 1.0) return t;
  for (int i = 0; i < 8; ++i) {
    const double slope = platinum_a + 2.0 * platinum_b * t + platinum_c * (4.0 * t - 300.0) * t * t;
    t -= (platinum_ratio(t) - ratio) / slope;
  }
  return t;
}

// One straight piece of a curve; `from` rises or falls throughout.
double interpolate(const std::vector<double>& from, const std::vector<double>& to, double x) {
  const bool rises = from.front() < from.back();
  const auto beyond = std::partition_point(from.begin() + 1, from.end() - 1, [&](double point) {
    return rises ? point < x : point > x;
  });
  const auto i = static_cast<std::size_t>(beyond - from.begin());
  return to[i - 1] + along(x, from[i - 1], from[i]) * (to[i] - to[i - 1]);
}

double leads(const PlatinumLaw& law, Parameters p) {
  double sum = 0.0;
  for (const auto lead : law.added) sum += p[lead];
  for (const auto lead : law.taken) sum -= p[lead];
  return sum;
}

}  // namespace

double forward_of(const BetaLaw& law, double x, Parameters p) {
  return p[law.r25] * std::exp(p[law.beta] * (1.0 / (x + p[law.error]) - 1.0 / t25));
}
double inverse_of(const BetaLaw& law, double out, Parameters p) {
  return 1.0 / (1.0 / t25 + std::log(out / p[law.r25]) / p[law.beta]) - p[law.error];
}

double forward_of(const SteinhartHart& law, double x, Parameters p) {
  // The real root of c L^3 + b L + a - 1/T = 0 in L = ln R (Cardano).
  const double half = (law.a - 1.0 / (x + p[law.error])) / law.c / 2.0;
  const double third = law.b / (3.0 * law.c);
  const double root = std::sqrt(third * third * third + half * half);
  return std::exp(std::cbrt(root - half) - std::cbrt(root + half));
}
double inverse_of(const SteinhartHart& law, double out, Parameters p) {
  const double l = std::log(out);
  return 1.0 / (law.a + law.b * l + law.c * l * l * l) - p[law.error];
}

double forward_of(const PlatinumLaw& law, double x, Parameters p) {
  const double t = x - celsius_zero;
  const double actual = t + p[law.error] * (law.base + law.slope * std::abs(t));
  return p[law.r0] * platinum_ratio(actual) + leads(law, p);
}
double inverse_of(const PlatinumLaw& law, double out, Parameters p) {
  return platinum_temperature((out - leads(law, p)) / p[law.r0]) + celsius_zero;
}

double forward_of(const PhotoresistorLaw& law, double x, Parameters p) {
  return p[law.resistance] * std::pow(x / law.at, -p[law.exponent]);
}
double inverse_of(const PhotoresistorLaw& law, double out, Parameters p) {
  return law.at * std::pow(out / p[law.resistance], -1.0 / p[law.exponent]);
}

double forward_of(const CurveLaw& law, double x, Parameters p) {
  return interpolate(law.x, law.y, x + p[law.error]);
}
double inverse_of(const CurveLaw& law, double out, Parameters p) {
  return interpolate(law.y, law.x, out) - p[law.error];
}

}  // namespace tamlo::chain
