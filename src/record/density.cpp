// SPDX-License-Identifier: Apache-2.0
#include "tamlo/record/density.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>
#include <numbers>
#include <stdexcept>

#include "tamlo/math/regression.hpp"

namespace tamlo::record {
namespace {

using std::numbers::pi;

double largest(const std::vector<double>& values) {
  const auto at = std::ranges::max_element(values, {}, [](double v) { return std::abs(v); });
  return at == values.end() ? 0.0 : *at;
}

// The voltage that a part p of all samples lies below, in any unit, and its derivative.
double level(Stimulus stimulus, double p) {
  return stimulus == Stimulus::ramp ? p : -std::cos(pi * p);
}
double slope(Stimulus stimulus, double p) {
  return stimulus == Stimulus::ramp ? 1.0 : pi * std::sin(pi * p);
}

// Of transition j less the line between the first and the last, times the number of samples: counts
// below two places p < q have the covariance p (1 - q).
double variance_from_ends(Stimulus stimulus, const std::vector<double>& parts, std::size_t j) {
  const auto last = parts.size() - 1;
  const auto covariance = [&](std::size_t a, std::size_t b) {
    return slope(stimulus, parts[a]) * slope(stimulus, parts[b]) * parts[a] * (1.0 - parts[b]);
  };
  const double along = static_cast<double>(j) / static_cast<double>(last), back = 1.0 - along;
  return covariance(j, j) + back * back * covariance(0, 0) +
         along * along * covariance(last, last) - 2.0 * back * covariance(0, j) -
         2.0 * along * covariance(j, last) + 2.0 * along * back * covariance(0, last);
}

}  // namespace

double Linearity::largest_dnl() const { return largest(dnl); }
double Linearity::largest_inl_ends() const { return largest(inl_ends); }
double Linearity::largest_inl_best() const { return largest(inl_best); }

Linearity linearity(const Histogram& histogram, std::int64_t first, std::int64_t last,
                    Stimulus stimulus) {
  assert(last - first >= 3);
  const auto total = static_cast<double>(histogram.count());
  const auto inner = static_cast<std::size_t>(last - first - 1);
  // transitions[j] lies below code first + 1 + j.
  std::vector<double> transitions, parts;
  auto below = static_cast<double>(histogram.at(first));
  for (auto code = first + 1; code <= last; ++code) {
    parts.push_back(below / total);
    transitions.push_back(level(stimulus, parts.back()));
    below += static_cast<double>(histogram.at(code));
  }
  const double width = (transitions.back() - transitions.front()) / static_cast<double>(inner);
  if (!(width > 0.0)) throw std::domain_error("no samples between the first and the last code");
  Linearity result{.first = first + 1};
  result.reaches_both_ends = histogram.at(first) > 0 && histogram.at(last) > 0;
  const double step = 1.0 / width;
  for (std::size_t j = 0; j < inner; ++j) {
    result.dnl.push_back((transitions[j + 1] - transitions[j]) * step - 1.0);
    result.inl_ends.push_back((transitions[j + 1] - transitions.front()) * step -
                              static_cast<double>(j + 1));
    // Counts are binomial. Of a code of the part d, about the part p: its width is slope(p) d.
    const double d = std::max(parts[j + 1] - parts[j], 1.0 / total);
    const double p = (parts[j + 1] + parts[j]) / 2.0;
    result.dnl_standard.push_back(step * slope(stimulus, p) * std::sqrt(d * (1.0 - d) / total));
    result.inl_standard.push_back(
        step * std::sqrt(std::max(0.0, variance_from_ends(stimulus, parts, j + 1) / total)));
    if (histogram.at(first + 1 + static_cast<std::int64_t>(j)) == 0) {
      result.missing.push_back(first + 1 + static_cast<std::int64_t>(j));
    }
  }
  std::vector<double> place, ones(inner + 1, 1.0), off;
  for (std::size_t j = 0; j <= inner; ++j) {
    place.push_back(static_cast<double>(j) - static_cast<double>(inner) / 2.0);
    off.push_back(transitions[j] * step);
  }
  const std::vector<double> line[] = {ones, place};
  const auto fit = math::regress(line, off);
  for (std::size_t j = 1; j <= inner; ++j) {
    result.inl_best.push_back(fit.residuals[j] / fit.parameters[1]);
  }
  return result;
}

std::uint64_t samples_needed(Stimulus stimulus, std::uint64_t codes, double standard) {
  // In the middle, p = 1/2: a ramp spreads over `codes` LSB, a sine's quickest part over pi/2 of
  // it.
  const double spread = static_cast<double>(codes) * (stimulus == Stimulus::ramp ? 1.0 : pi / 2.0);
  return static_cast<std::uint64_t>(std::ceil(std::pow(spread / 2.0 / standard, 2)));
}

}  // namespace tamlo::record
