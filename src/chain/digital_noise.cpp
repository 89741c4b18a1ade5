// SPDX-License-Identifier: Apache-2.0
// What averages and filters leave of noise.
#include <algorithm>
#include <cmath>
#include <numbers>

#include "tamlo/chain/detail/digital.hpp"
#include "tamlo/detail/per_thread.hpp"
#include "tamlo/error.hpp"
#include "tamlo/math/random.hpp"

namespace tamlo::chain {

double median_variance(int length) {
  // Density of the middle of n = 2k + 1: n! / (k!)^2 Phi^k (1 - Phi)^k phi.
  const double k = length / 2;
  const double constant = std::lgamma(length + 1.0) - 2.0 * std::lgamma(k + 1.0);
  constexpr double step = 1.0 / 512.0;
  double sum = 0.0;
  for (double x = step; x < 12.0; x += step) {  // symmetric, and nothing at 0
    const double above = std::erfc(x / std::numbers::sqrt2) / 2.0;
    const double density = std::exp(constant + k * (std::log(above) + std::log1p(-above)) -
                                    x * x / 2.0 - std::log(2.0 * std::numbers::pi) / 2.0);
    if (std::isfinite(density)) sum += x * x * density;
  }
  return 2.0 * step * sum;
}

namespace {

// A median among other stages, or of noise whose neighbours correlate, has no closed form: the
// series is run on numbers that are the same every time.
double tried_noise_gain(const Digital& digital, double correlation) {
  constexpr std::int64_t readings = std::int64_t{1} << 17, most = std::int64_t{1} << 20;
  math::RandomStream stream(0x6d656469616eULL, 0);
  DigitalState state(digital);
  const double fresh = std::sqrt(1.0 - correlation * correlation);
  double noise = stream.normal(), squares = 0.0;
  std::int64_t count = 0;
  // Its memory holds nothing but noise after a hundredth of them.
  for (std::int64_t i = 0; i < most && count < readings; ++i) {
    noise = correlation * noise + fresh * stream.normal();
    if (!state.push(noise) || i < most / 100) continue;
    squares += state.value() * state.value();
    ++count;
  }
  return squares / static_cast<double>(std::max<std::int64_t>(1, count));
}

struct TriedGain {
  std::vector<model::PreparedFilter> stages{};
  double correlation = 0.0, gain = 0.0;
};

// A command builds a channel many times over, changed a little elsewhere: its series is tried once.
double remembered_noise_gain(const Digital& digital, double correlation) {
  constexpr std::size_t most = 16;
  static const tamlo::detail::PerThread<std::vector<TriedGain>> memory;
  auto& tried = memory.own();
  const auto known = std::ranges::find_if(tried, [&](const TriedGain& each) {
    return each.correlation == correlation && each.stages == digital.stages;
  });
  if (known != tried.end()) return known->gain;
  const double gain = tried_noise_gain(digital, correlation);
  if (tried.size() == most) tried.erase(tried.begin());
  tried.push_back({digital.stages, correlation, gain});
  return gain;
}

}  // namespace

double noise_gain(const Digital& digital, double correlation) {
  const bool median =
      std::ranges::any_of(digital.stages, [](const auto& s) { return s.median > 0; });
  if (median && (digital.stages.size() > 1 || correlation > 0.0)) {
    return remembered_noise_gain(digital, correlation);
  }
  if (median) return median_variance(digital.stages.front().median);
  double sum = 0.0, left = 0.0;
  // Every value of the answer to one conversion, and what correlation makes of it.
  const double fresh = std::sqrt(1.0 - correlation * correlation);
  for (const double value : impulse_response(digital)) {
    left = correlation * left + fresh * value;
    sum += left * left;
  }
  // What follows the last value falls off geometrically.
  return sum + (correlation > 0.0 ? std::pow(left * correlation / fresh, 2) : 0.0);
}

double systematic_quantisation_variance(double sigma) {
  require(sigma >= 0.0, "a standard deviation is not below 0");
  using std::numbers::pi;
  if (sigma < 0.08) {
    // The same sum by Poisson's formula; what it leaves out is below exp(-1 / (4 sigma^2)).
    return 1.0 / 12.0 + sigma * sigma - sigma * std::numbers::inv_sqrtpi;
  }
  double sum = 0.0;
  for (int k = 1;; ++k) {
    const double pi_k = pi * k;
    const double term = std::exp(-4.0 * pi_k * pi_k * sigma * sigma) / (2.0 * pi_k * pi_k);
    sum += term;
    if (term <= 1e-17 * sum || term == 0.0) return sum;
  }
}

double quantisation_standard(double sigma, double count) {
  require(count >= 1e-12, "a mean of more than nothing");
  const double irreducible = systematic_quantisation_variance(sigma);
  return std::sqrt(irreducible + (1.0 / 12.0 - irreducible) / count);
}

}  // namespace tamlo::chain
