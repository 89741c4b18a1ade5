// SPDX-License-Identifier: Apache-2.0
// The coverage factor where a sine that gets in is most of it (JCGM 100, G.6.5): it is at its ends
// most of the time, and a normal law would be two fifths too wide. Of a uniform source it is a
// fifth at most, and keeps what is not uniform about steps inside.
#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "point.hpp"
#include "tamlo/math/coverage.hpp"

namespace tamlo::budget {
namespace {

// Probability within ±k of the sum of a sine with that share of the variance and a normal rest.
double within(double k, double share) {
  constexpr int parts = 64;
  const double of_sine = std::sqrt(2.0 * share), of_rest = std::sqrt(std::max(1e-9, 1.0 - share));
  double sum = 0.0;
  for (int i = 0; i < parts; ++i) {
    const double at = of_sine * std::sin(std::numbers::pi * ((i + 0.5) / parts - 0.5));
    sum += math::normal_below((k - at) / of_rest) - math::normal_below((-k - at) / of_rest);
  }
  return sum / parts;
}

}  // namespace

double coverage_factor(const chain::Chain& chain, const std::vector<double>& contributions,
                       double variance, double coverage) {
  const double normal = math::coverage_factor(coverage, std::numeric_limits<double>::infinity());
  const auto largest =
      std::ranges::max_element(contributions, {}, [](double c) { return std::abs(c); });
  if (largest == contributions.end() || !(variance > 0.0)) return normal;
  const double share = std::min(1.0, *largest * *largest / variance);
  const auto source = static_cast<std::size_t>(largest - contributions.begin());
  if (share <= 0.5 || chain.sources[source].distribution != quantity::Distribution::arcsine) {
    return normal;
  }
  // A tare has a sine of its own.
  if (chain.channel.scaling.tare) return normal;
  double low = 0.0, high = 4.0 * normal;
  for (int i = 0; i < 40; ++i) {
    const double middle = (low + high) / 2.0;
    (within(middle, share) < coverage ? low : high) = middle;
  }
  return (low + high) / 2.0;
}

}  // namespace tamlo::budget
