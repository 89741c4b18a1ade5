// SPDX-License-Identifier: Apache-2.0
#include "tamlo/signal/code_density.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <stdexcept>

#include "tamlo/error.hpp"
#include "tamlo/math/regression.hpp"

namespace tamlo::signal {
namespace {

using std::numbers::pi;

double largest(const std::vector<double>& values) {
  const auto at = std::ranges::max_element(values, {}, [](double v) { return std::abs(v); });
  return at == values.end() ? 0.0 : *at;
}

// The voltage that a part p of all samples lies below, in any unit, and its derivative.
double level(Input input, double p) { return input == Input::ramp ? p : -std::cos(pi * p); }
double slope(Input input, double p) { return input == Input::ramp ? 1.0 : pi * std::sin(pi * p); }

// Of transition j less the line between the first and the last, times the number of samples: counts
// below two places p < q have the covariance p (1 - q).
double variance_from_ends(Input input, const std::vector<double>& parts, std::size_t j) {
  const auto last = parts.size() - 1;
  const auto covariance = [&](std::size_t a, std::size_t b) {
    return slope(input, parts[a]) * slope(input, parts[b]) * parts[a] * (1.0 - parts[b]);
  };
  const double along = static_cast<double>(j) / static_cast<double>(last), back = 1.0 - along;
  return covariance(j, j) + back * back * covariance(0, 0) +
         along * along * covariance(last, last) - 2.0 * back * covariance(0, j) -
         2.0 * along * covariance(j, last) + 2.0 * along * back * covariance(0, last);
}

// Samples `apart` LSB from one another, of which noise moves each by itself. The number below a
// transition has the variance sum p (1 - p), p the part of the noise that reaches over it.
double even_transition(double apart, double noise) {
  return apart * noise / std::sqrt(pi) + apart * apart / 12.0;
}

// The number in a code 1 LSB wide: sum q (1 - q), with sum q = 1 / apart, and sum q^2 the part of
// two noises that lie less than a code from each other.
double even_width(double apart, double noise) {
  const double s = noise * std::numbers::sqrt2;
  double together = 1.0;
  if (s > 0.0) {
    const auto bell = [](double z) { return std::exp(-z * z / 2.0) / std::sqrt(2.0 * pi); };
    together = std::erf(1.0 / s / std::numbers::sqrt2) - 2.0 * s * (bell(0.0) - bell(1.0 / s));
  }
  return apart * std::max(0.0, 1.0 - together) + apart * apart / 6.0;
}

// Whether a code 1 LSB wide comes, of samples `apart` LSB from one another: of 14 of them, each
// anywhere, none falls into it once in 1e6.
bool surely_seen(double apart, std::optional<double> even_noise) {
  if (apart * 14.0 <= 1.0) return true;
  return even_noise && 25.0 * even_width(apart, *even_noise) < 1.0;
}

}  // namespace

double Linearity::largest_dnl() const { return largest(dnl); }
double Linearity::largest_inl_end_point() const { return largest(inl_end_point); }
double Linearity::largest_inl_best_fit() const { return largest(inl_best_fit); }

Linearity linearity(const Histogram& histogram, std::int64_t first, std::int64_t last, Input input,
                    std::optional<double> even_noise) {
  require(last - first >= 3, "code density needs four codes or more");
  const auto total = static_cast<double>(histogram.count());
  const auto inner = static_cast<std::size_t>(last - first - 1);
  if (histogram.count() < inner) {
    throw DataError(
        fmt::format("{} samples for {} codes: code density tells nothing of fewer "
                    "samples than codes",
                    histogram.count(), inner));
  }
  // transitions[j] lies below code first + 1 + j.
  std::vector<double> transitions, parts;
  auto below = static_cast<double>(histogram.at(first));
  for (auto code = first + 1; code <= last; ++code) {
    parts.push_back(below / total);
    transitions.push_back(level(input, parts.back()));
    below += static_cast<double>(histogram.at(code));
  }
  const double width = (transitions.back() - transitions.front()) / static_cast<double>(inner);
  if (!(width > 0.0)) throw DataError("no samples between the first and the last code");
  Linearity result{.first = first + 1};
  result.reaches_both_ends = histogram.at(first) > 0 && histogram.at(last) > 0;
  const double step = 1.0 / width;
  for (std::size_t j = 0; j < inner; ++j) {
    result.dnl.push_back((transitions[j + 1] - transitions[j]) * step - 1.0);
    result.inl_end_point.push_back((transitions[j + 1] - transitions.front()) * step -
                                   static_cast<double>(j + 1));
    const double p = (parts[j + 1] + parts[j]) / 2.0;
    const auto code = first + 1 + static_cast<std::int64_t>(j);
    const bool empty = histogram.at(code) == 0;
    const auto apart_at = [&](double part) { return step * slope(input, part) / total; };
    const double apart = apart_at(p);  // from sample to sample
    if (even_noise) {
      const double along = static_cast<double>(j + 1) / static_cast<double>(inner);
      const auto transition = [&](double part) {
        return even_transition(apart_at(part), *even_noise);
      };
      // A code that never comes is less than a sample wide.
      result.dnl_standard.push_back(empty ? apart : std::sqrt(even_width(apart, *even_noise)));
      result.inl_standard.push_back(std::sqrt(
          transition(parts[j + 1]) + (1.0 - along) * (1.0 - along) * transition(parts.front()) +
          along * along * transition(parts.back())));
    } else {
      // Counts are binomial. Of a code of the part d, about the part p: its width is slope(p) d.
      const double d = std::max(parts[j + 1] - parts[j], 1.0 / total);
      result.dnl_standard.push_back(step * slope(input, p) * std::sqrt(d * (1.0 - d) / total));
      result.inl_standard.push_back(
          step * std::sqrt(std::max(0.0, variance_from_ends(input, parts, j + 1) / total)));
    }
    if (!empty) continue;
    if (surely_seen(apart, even_noise)) {
      result.missing.push_back(code);
    } else {
      ++result.unseen;
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
    result.inl_best_fit.push_back(fit.residuals[j] / fit.parameters[1]);
  }
  return result;
}

EndTransitions transition_ends(const Histogram& histogram, std::int64_t first, std::int64_t last,
                               Input input, double low, double high) {
  const auto total = static_cast<double>(histogram.count());
  double below = 0.0;
  for (auto code = histogram.min(); code <= first; ++code) {
    below += static_cast<double>(histogram.at(code));
  }
  double above = 0.0;
  const auto highest = histogram.max();
  for (auto code = last; code <= highest; ++code) {
    above += static_cast<double>(histogram.at(code));
  }
  const auto place = [&](double part) {
    const double along = level(input, part);
    return input == Input::ramp ? std::lerp(low, high, along)
                                : (low + high) / 2.0 + (high - low) / 2.0 * along;
  };
  return {.first = place(below / total), .last = place(1.0 - above / total)};
}

std::uint64_t samples_needed(Input input, std::uint64_t codes, double standard,
                             std::optional<double> even_noise) {
  // In the middle, p = 1/2: a ramp spreads over `codes` LSB, a sine's quickest part over pi/2 of
  // it.
  const double spread = static_cast<double>(codes) * (input == Input::ramp ? 1.0 : pi / 2.0);
  const double independent = std::pow(spread / 2.0 / standard, 2);
  if (!even_noise) return static_cast<std::uint64_t>(std::ceil(independent));
  // The transition itself, and half of each end: 3/2 (a sigma / sqrt pi + a^2 / 12) = u^2.
  const double b = *even_noise / std::sqrt(pi), u = standard * standard / 1.5;
  const double apart = 6.0 * (std::sqrt(b * b + u / 3.0) - b);
  return static_cast<std::uint64_t>(std::ceil(spread / apart));
}

}  // namespace tamlo::signal
