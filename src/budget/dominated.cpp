// SPDX-License-Identifier: Apache-2.0
// The coverage factor where one bounded source is most of the uncertainty (JCGM 100, G.2.2 and
// G.6.5): a sine that gets in is at its ends most of the time, a uniform source has no ends beyond
// its limits. A normal law would be two fifths too wide for the one, a fifth for the other.
#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>

#include "point.hpp"
#include "tamlo/chain/discrete.hpp"
#include "tamlo/math/coverage.hpp"

namespace tamlo::budget {
namespace {

double squared(double x) { return x * x; }

// Of the sum of a source with that share of the variance and a normal rest: below `x`.
double below_with_sine(double x, double share) {
  constexpr int parts = 64;
  const double of_sine = std::sqrt(2.0 * share), rest = std::sqrt(std::max(1e-9, 1.0 - share));
  double sum = 0.0;
  for (int i = 0; i < parts; ++i) {
    const double at = of_sine * std::sin(std::numbers::pi * ((i + 0.5) / parts - 0.5));
    sum += math::normal_cdf((x - at) / rest);
  }
  return sum / parts;
}

double below_with_uniform(double x, double share) {
  const double half = std::sqrt(3.0 * share), rest = std::sqrt(std::max(1e-9, 1.0 - share));
  // The integral of the normal law's probability below z.
  const auto integral = [](double z) {
    return z * math::normal_cdf(z) +
           std::exp(-squared(z) / 2.0) / std::sqrt(2.0 * std::numbers::pi);
  };
  return rest / (2.0 * half) * (integral((x + half) / rest) - integral((x - half) / rest));
}

// The same of two such sources: of their sum, which has shoulders where a normal law has tails.
double below_with_two_uniform(double x, double share, double second) {
  const double a = std::sqrt(3.0 * share), b = std::sqrt(3.0 * second);
  const double rest = std::sqrt(std::max(1e-6, 1.0 - share - second));
  // The integral of the integral of the normal law's probability below z.
  const auto twice = [rest](double z) {
    z /= rest;
    return ((z * z + 1.0) * math::normal_cdf(z) +
            z * std::exp(-squared(z) / 2.0) / std::sqrt(2.0 * std::numbers::pi)) /
           2.0;
  };
  return squared(rest) / (4.0 * a * b) *
         (twice(x + a + b) - twice(x + a - b) - twice(x - a + b) + twice(x - a - b));
}

// The k within which the sum lies with the probability asked.
double factor(double (*below)(double, double), double share, double coverage, double normal) {
  double low = 0.0, high = 4.0 * normal;
  for (int i = 0; i < 40; ++i) {
    const double middle = (low + high) / 2.0;
    (2.0 * below(middle, share) - 1.0 < coverage ? low : high) = middle;
  }
  return (low + high) / 2.0;
}

bool is_step(const chain::Chain& chain, const chain::Source& source) {
  return chain::by_codes(chain, source) && source.kind() != chain::Kind::noise &&
         source.kind() != chain::Kind::interference;
}

// Readings at one place lie a step apart. How far from the quantity the interval must reach there
// that holds them with the probability asked, at the worst place within a step; in standard
// deviations of the rest, which `below` gives, as the step is.
template <class Below>
double reach_of_steps(double step, double coverage, const Below& below) {
  constexpr int places = 64;
  double worst = 0.0;
  for (int i = 0; i <= places; ++i) {
    // The quantity lies so far above the middle of its code; codes beside it one after the other,
    // the nearer first.
    const double away = (static_cast<double>(i) / places - 0.5) * step;
    const auto part = [&](int code) {
      return below((code + 0.5) * step - away) - below((code - 0.5) * step - away);
    };
    double within = part(0), reach = std::abs(away);
    for (int n = 1; within < coverage && n < 1000; ++n) {
      const int nearer = away > 0.0 ? n : -n;
      reach = n * step - std::abs(away);
      within += part(nearer);
      if (within >= coverage) break;
      reach = n * step + std::abs(away);
      within += part(-nearer);
    }
    worst = std::max(worst, reach);
  }
  return worst + 0.01 * step;  // a code that lies just there is within
}

// Where the steps of the codes are a good part of what is uncertain, and nothing as good as random
// beside it.
std::optional<double> factor_of_steps(const chain::Chain& chain,
                                      const std::vector<double>& contributions, double variance,
                                      double coverage, double step) {
  constexpr double good_part = 0.01;
  double steps = 0.0, largest = 0.0, second = 0.0;  // the coarsest, and of others that are uniform
  bool of_codes = true;
  const auto take_uniform = [&](double own) {
    second = std::max(second, std::min(own, largest));
    largest = std::max(largest, own);
  };
  for (std::size_t i = 0; i < contributions.size(); ++i) {
    const auto& source = chain.sources[i];
    double own = squared(contributions[i]);
    if (is_step(chain, source) && own > steps) {
      std::swap(own, steps);
      of_codes = source.kind() == chain::Kind::quantisation;
    }
    if (source.distribution == quantity::Distribution::uniform) take_uniform(own);
  }
  // A tare rounds for itself: to the steps of the reading its rounding is as good as random.
  if (chain.channel.scaling.tare) {
    steps /= 2.0;
    take_uniform(steps);
  }
  const double rest = variance - steps;
  if (steps < good_part * variance || rest < 1e-6 * variance) return {};
  const double deviation = std::sqrt(rest);
  const double share = std::min(1.0, largest / rest), other = std::min(1.0 - share, second / rest);
  // Noise that takes a little of the steps' variance leaves readings a whole step apart.
  const double seen = std::sqrt(12.0 * steps),
               apart = of_codes && seen > 0.8 * step ? std::max(seen, step) : seen;
  const double reach = reach_of_steps(apart / deviation, coverage, [&](double x) {
    return other > 0.02   ? below_with_two_uniform(x, share, other)
           : share > 0.02 ? below_with_uniform(x, share)
                          : math::normal_cdf(x);
  });
  return reach * deviation / std::sqrt(variance);
}

}  // namespace

double coverage_factor(const chain::Chain& chain, const std::vector<double>& contributions,
                       double variance, double coverage, double normal, double step) {
  const auto largest = std::ranges::max_element(contributions, {}, squared);
  if (largest == contributions.end() || !(variance > 0.0)) return normal;
  const auto dominant = static_cast<std::size_t>(largest - contributions.begin());
  const auto distribution = chain.sources[dominant].distribution;
  const double share = std::min(1.0, squared(*largest) / variance);
  const bool sine = distribution == quantity::Distribution::arcsine && share > 0.5;
  const bool uniform = distribution == quantity::Distribution::uniform && share > 0.9;
  if (const auto stepped = factor_of_steps(chain, contributions, variance, coverage, step)) {
    return *stepped;
  }
  // A tare has a source of its own of the same kind.
  if ((!sine && !uniform) || chain.channel.scaling.tare) return normal;
  if (sine) return factor(below_with_sine, share, coverage, normal);
  // Steps are not random at one place: half of each is added as it is.
  double half_steps = 0.0, rest = variance;
  for (std::size_t i = 0; i < contributions.size(); ++i) {
    if (i == dominant || !is_step(chain, chain.sources[i])) continue;
    half_steps += std::sqrt(3.0) * std::abs(contributions[i]);
    rest -= squared(contributions[i]);
  }
  // A source that is correlated away against another leaves less than itself.
  rest = std::max(rest, squared(*largest));
  const double k = factor(below_with_uniform, squared(*largest) / rest, coverage, normal);
  return std::min(normal, (k * std::sqrt(rest) + half_steps) / std::sqrt(variance));
}

}  // namespace tamlo::budget
