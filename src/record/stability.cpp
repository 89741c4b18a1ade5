// SPDX-License-Identifier: Apache-2.0
#include "tamlo/record/stability.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>

#include "tamlo/math/coverage.hpp"

namespace tamlo::record {
namespace {

// Running sums of what each value is off the mean: S[0] = 0.
std::vector<double> running(std::span<const double> values) {
  long double sum = 0.0L;
  for (const double value : values) sum += value;
  const long double mean = sum / static_cast<long double>(values.size());
  std::vector<double> result{0.0};
  result.reserve(values.size() + 1);
  sum = 0.0L;
  for (const double value : values) result.push_back(static_cast<double>(sum += value - mean));
  return result;
}

double overlapping(const std::vector<double>& sums, std::uint64_t m) {
  const auto terms = sums.size() - 2 * m;
  double total = 0.0;
  for (std::size_t from = 0; from < terms; from += 4096) {
    double part = 0.0;
    for (std::size_t j = from; j < std::min<std::size_t>(from + 4096, terms); ++j) {
      const double d = sums[j + 2 * m] - 2.0 * sums[j + m] + sums[j];
      part += d * d;
    }
    total += part;
  }
  const auto of = static_cast<double>(m);
  return std::sqrt(total / (2.0 * of * of * static_cast<double>(terms)));
}

// Slopes half way between those of the four kinds.
NoiseKind kind_of(double slope) {
  if (slope < -0.25) return NoiseKind::white;
  if (slope < 0.25) return NoiseKind::flicker;
  return slope < 0.75 ? NoiseKind::walk : NoiseKind::drift;
}

// Equivalent degrees of freedom of the overlapping deviation (NIST SP 1065, table 5; Howe, Allan
// and Barnes, 1981). n counts the running sums.
double degrees_of_freedom(NoiseKind kind, double n, double m) {
  switch (kind) {
    case NoiseKind::white:
      return (3.0 * (n - 1.0) / (2.0 * m) - 2.0 * (n - 2.0) / n) * 4.0 * m * m /
             (4.0 * m * m + 5.0);
    case NoiseKind::flicker:
      if (m == 1.0) return 2.0 * (n - 2.0) / (2.3 * n - 4.9);
      return 5.0 * n * n / (4.0 * m * (n + 3.0 * m));
    default:
      return (n - 2.0) / m * ((n - 1.0) * (n - 1.0) - 3.0 * m * (n - 1.0) + 4.0 * m * m) /
             ((n - 3.0) * (n - 3.0));
  }
}

}  // namespace

std::string_view name(NoiseKind kind) {
  switch (kind) {
    case NoiseKind::white:
      return "white";
    case NoiseKind::flicker:
      return "flicker";
    case NoiseKind::walk:
      return "walk";
    case NoiseKind::drift:
      return "drift";
  }
  return "";
}

Stability stability(std::span<const double> values, std::span<const std::uint64_t> averaged,
                    double coverage) {
  assert(values.size() >= 3);
  const auto n = values.size();
  std::vector<std::uint64_t> asked(averaged.begin(), averaged.end());
  if (asked.empty()) {
    for (std::uint64_t m = 1; 3 * m <= n || m == 1; m *= 2) asked.push_back(m);
  }
  const auto sums = running(values);
  Stability result;
  for (const auto m : asked) {
    if (2 * m > n || m == 0) continue;
    result.deviations.push_back({.averaged = m, .deviation = overlapping(sums, m)});
  }
  auto& all = result.deviations;
  for (std::size_t i = 0; i < all.size(); ++i) {
    // The slope about each, from its neighbours.
    const auto& before = all[i > 0 ? i - 1 : i];
    const auto& after = all[i + 1 < all.size() ? i + 1 : i];
    if (after.averaged > before.averaged && before.deviation > 0.0 && after.deviation > 0.0) {
      all[i].kind = kind_of(
          std::log(after.deviation / before.deviation) /
          std::log(static_cast<double>(after.averaged) / static_cast<double>(before.averaged)));
    }
    const double dof = std::max(1.0, degrees_of_freedom(all[i].kind, static_cast<double>(n + 1),
                                                        static_cast<double>(all[i].averaged)));
    const double tail = (1.0 - coverage) / 2.0;
    all[i].low = all[i].deviation * std::sqrt(dof / math::chi_squared_below(1.0 - tail, dof));
    all[i].high = all[i].deviation * std::sqrt(dof / math::chi_squared_below(tail, dof));
  }
  const auto lowest = std::ranges::min_element(all, {}, &Deviation::deviation);
  result.best = lowest->averaged;
  result.lowest = lowest->deviation;
  return result;
}

double plain_allan_deviation(std::span<const double> values, std::uint64_t averaged) {
  const auto sums = running(values);
  const auto m = static_cast<std::size_t>(averaged);
  double total = 0.0;
  std::size_t terms = 0;
  for (std::size_t j = 0; j + 2 * m < sums.size(); j += m, ++terms) {
    const double d = sums[j + 2 * m] - 2.0 * sums[j + m] + sums[j];
    total += d * d;
  }
  assert(terms > 0);
  const auto of = static_cast<double>(m);
  return std::sqrt(total / (2.0 * of * of * static_cast<double>(terms)));
}

}  // namespace tamlo::record
