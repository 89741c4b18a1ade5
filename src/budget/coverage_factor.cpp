// SPDX-License-Identifier: Apache-2.0
// The coverage factor where a normal law would be wrong (JCGM 100, G.2.2 and G.6.5): a source with
// ends dominates, or the steps of the codes do.
#include <algorithm>
#include <cmath>
#include <optional>

#include "point.hpp"
#include "tamlo/chain/detail/reading_distribution.hpp"
#include "tamlo/math/detail/coverage.hpp"

namespace tamlo::budget {
namespace {

using math::SumDistribution;
using PartShape = SumDistribution::Shape;

double squared(double x) { return x * x; }

PartShape part_shape(quantity::Distribution distribution) {
  switch (distribution) {
    case quantity::Distribution::uniform:
      return PartShape::uniform;
    case quantity::Distribution::triangular:
      return PartShape::triangular;
    case quantity::Distribution::arcsine:
      return PartShape::arcsine;
    case quantity::Distribution::normal:
      break;
  }
  return PartShape::normal;
}

// Steps of the codes and of the firmware: at one place they are not random.
bool is_step(const chain::Chain& chain, std::size_t source) {
  const auto kind = chain.sources[source].kind();
  return chain::by_codes(chain, source) && kind != chain::Kind::noise &&
         kind != chain::Kind::interference;
}

// What one reading is made of: the coarsest step, other steps, and all else.
struct Parts {
  std::vector<SumDistribution::Part> rest{};
  double steps = 0.0;        // variance of the coarsest step
  bool of_codes = true;      // it is that of the codes
  double half_others = 0.0;  // half of each other step, added
  double other_steps = 0.0;  // their variance
  double variance = 0.0;     // of the rest
};

Parts parts_of(const chain::Chain& chain, const std::vector<double>& contributions,
               const std::vector<double>& at_tare, double added) {
  Parts result;
  result.rest.reserve(contributions.size() + 2);
  std::vector<double> variances;
  variances.reserve(contributions.size());
  for (const double c : contributions) variances.push_back(squared(c));
  std::optional<std::size_t> coarsest;
  for (std::size_t i = 0; i < variances.size(); ++i) {
    if (variances[i] == 0.0 || !is_step(chain, i)) continue;
    result.half_others += std::sqrt(3.0 * variances[i]);
    result.other_steps += variances[i];
    if (variances[i] > result.steps) {
      result.steps = variances[i];
      coarsest = i;
    }
    variances[i] = 0.0;
  }
  if (coarsest) {
    result.of_codes = chain.sources[*coarsest].kind() == chain::Kind::quantisation;
    result.half_others -= std::sqrt(3.0 * result.steps);
    result.other_steps -= result.steps;
    if (!at_tare.empty()) {
      // To the steps of the reading the rounding of the tare is as good as random.
      const double of_tare = std::min(squared(at_tare[*coarsest]), result.steps);
      result.rest.push_back({.shape = PartShape::uniform, .variance = of_tare});
      result.steps -= of_tare;
    }
  }
  std::vector<bool> paired(variances.size(), false);
  for (const auto& [i, j, r] : chain.correlations) {
    paired[i] = paired[j] = true;
    const double shared = 2.0 * r * contributions[i] * contributions[j];
    // Both act as one, more or less: as wide as the two are together.
    const double both = std::max(0.0, variances[i] + variances[j] + shared);
    const auto larger = variances[i] >= variances[j] ? i : j;
    const bool as_one = std::abs(r) > 0.9 || std::min(variances[i], variances[j]) < 0.1 * both;
    result.rest.push_back(
        {.shape = as_one ? part_shape(chain.sources[larger].distribution) : PartShape::normal,
         .variance = both});
  }
  for (std::size_t i = 0; i < variances.size(); ++i) {
    if (paired[i] || variances[i] == 0.0) continue;
    const auto shape = part_shape(chain.sources[i].distribution);
    // Of what a place has to itself a tare has its own.
    const bool own = !at_tare.empty() && chain::own_of_place(chain.sources[i].kind());
    const double of_tare = own ? std::min(squared(at_tare[i]), variances[i]) : 0.0;
    result.rest.push_back({.shape = shape, .variance = variances[i] - of_tare});
    if (of_tare > 0.0) result.rest.push_back({.shape = shape, .variance = of_tare});
  }
  if (added > 0.0) result.rest.push_back({.shape = PartShape::normal, .variance = added});
  for (const auto& part : result.rest) result.variance += part.variance;
  return result;
}

// Readings at one place lie a step apart. How far from the quantity the interval must reach there
// that holds them with the probability asked, at the worst place within a step; in standard
// deviations of the rest, as the step is.
double reach_of_steps(double step, double coverage, const SumDistribution& rest) {
  constexpr int places = 48;
  double worst = 0.0;
  for (int i = 0; i <= places; ++i) {
    // The quantity lies so far above the middle of its code, or as far below it; codes beside it
    // one after the other, the nearer first.
    const double away = static_cast<double>(i) / (2 * places) * step;
    const auto part = [&](int code) {
      return rest.below((code + 0.5) * step - away) - rest.below((code - 0.5) * step - away);
    };
    double within = part(0), reach = away;
    for (int n = 1; within < coverage && n < 1000; ++n) {
      reach = n * step - away;
      within += part(n);
      if (within >= coverage) break;
      reach = n * step + away;
      within += part(-n);
    }
    worst = std::max(worst, reach);
  }
  return worst + 0.015 * step;  // a code that lies just there is within
}

}  // namespace

double coverage_factor(const chain::Chain& chain, const std::vector<double>& contributions,
                       const std::vector<double>& at_tare, double added, double coverage,
                       double normal, double step) {
  const auto parts = parts_of(chain, contributions, at_tare, added);
  const double variance = parts.variance + parts.steps + parts.other_steps;
  if (!(variance > 0.0)) return normal;
  const double rest = parts.variance;
  constexpr double good_part = 0.01;  // of steps that count
  if (parts.steps >= good_part * variance && rest >= 1e-6 * variance) {
    const SumDistribution of_rest(parts.rest);
    const double deviation = std::sqrt(rest);
    // Noise that takes a little of the steps' variance leaves readings a whole step apart.
    const double seen = std::sqrt(12.0 * parts.steps),
                 apart = parts.of_codes && seen > 0.8 * step ? std::max(seen, step) : seen;
    return (reach_of_steps(apart / deviation, coverage, of_rest) * deviation + parts.half_others) /
           std::sqrt(variance);
  }
  // Far out a normal law is wide enough for any sum; within its middle it is too narrow for one of
  // few parts with ends.
  const auto dominates = [&](const SumDistribution::Part& part) {
    return part.shape != PartShape::normal &&
           part.variance > (coverage < 0.9 ? 0.05 : 0.5) * variance;
  };
  auto all = parts.rest;
  all.push_back({.shape = PartShape::uniform, .variance = parts.steps + parts.other_steps});
  if (std::ranges::none_of(all, dominates)) return normal;
  all.pop_back();
  // Steps alone: at the worst place within one readings are half of it off, all of them.
  if (!(rest > 0.0)) return 1.01 * std::sqrt(3.0);
  // Steps are not random at one place: half of each is added as it is.
  const double half_steps = std::sqrt(3.0 * parts.steps) + parts.half_others;
  const double k = SumDistribution(all).coverage_factor(coverage);
  return (k * std::sqrt(rest) + half_steps) / std::sqrt(variance);
}

}  // namespace tamlo::budget
