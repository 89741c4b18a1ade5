// SPDX-License-Identifier: Apache-2.0
// What all readings at a place share, prepared once; reading_draws.cpp draws them.
#include "tamlo/chain/detail/reading_sampler.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <numeric>

#include "chain/read_units.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/detail/reading_distribution.hpp"

namespace tamlo::chain {
namespace {

constexpr double two_pi = 2.0 * std::numbers::pi;

// The answer to one conversion, without a tail that holds less than 1e-5 of it.
std::vector<double> without_tail(std::vector<double> h) {
  double tail = 0.0;
  while (h.size() > 1 && (tail += std::abs(h.back())) < 1e-5) h.pop_back();
  return h;
}

// A conversion that steps through all filters, in the time of one that is only weighed.
double stepwise_effort(const Digital& digital) {
  double effort = 0.0;
  for (const auto& stage : digital.stages) {
    effort += 2.0 * static_cast<double>(stage.averages.size()) +
              4.0 * static_cast<double>(stage.sections.size()) +
              0.25 * static_cast<double>(stage.taps.size());
    if (stage.median > 0) effort += 4.0 + 0.2 * stage.median;
  }
  return std::max(ReadingSampler::effort_of_a_step, effort);
}

}  // namespace

ReadingSampler::ReadingSampler(const Chain& chain, double x)
    : chain_(chain),
      x_(x),
      shift_(correction_in_codes(chain, x)),
      first_(static_cast<double>(first_code(chain))),
      last_(static_cast<double>(last_code(chain))),
      rated_(chain.firmware.digital.rate > 0.0) {
  const double nominal = chain::code(chain, x, chain.nominal);
  per_code_ = quantity_at(chain, nominal + 0.5) - quantity_at(chain, nominal - 0.5);
  const auto read_at = [&](double code) {
    return smooth_reading(chain, chain.report.offset + chain.report.gain * code);
  };
  read_per_code_ = read_at(nominal + 0.5) - read_at(nominal - 0.5);
  if (read_per_code_ == 0.0) read_per_code_ = per_code_;  // a reading that stands still
  prepare_filter();
  prepare_noise();
  prepare_sines();
  reach_ = 6.0 * noise_ + amplitudes_;
}

void ReadingSampler::prepare_filter() {
  const auto& digital = chain_.firmware.digital;
  const auto& stages = digital.stages;
  if (std::ranges::any_of(stages, [](const auto& s) { return s.median > 0; })) {
    stepwise_ = true;
    effort_of_conversion_ = stepwise_effort(digital);
    rest_ = digital;
    if (leads_with_block(digital)) {
      lead_ = static_cast<std::size_t>(stages.front().decimation);
      rest_.stages.erase(rest_.stages.begin());
      rest_.answer = nullptr;
    }
    const auto count = static_cast<std::size_t>(chain_.firmware.settling_readings) *
                       static_cast<std::size_t>(decimation(digital));
    weights_.assign(count, 1.0);
    return;
  }
  weights_ = without_tail(impulse_response(digital));
  // Parts that are multiples of one are whole numbers, so that means of codes come out exactly.
  double least = std::numeric_limits<double>::infinity();
  for (const double w : weights_) {
    if (w != 0.0) least = std::min(least, std::abs(w));
  }
  whole_weights_ = std::ranges::all_of(weights_, [&](double w) {
    const double multiple = w / least;
    return std::abs(multiple) < 1e6 && std::abs(multiple - std::round(multiple)) < 1e-6;
  });
  if (whole_weights_) {
    for (double& w : weights_) w = std::round(w / least);
  }
  sum_of_weights_ = std::accumulate(weights_.begin(), weights_.end(), 0.0);
}

void ReadingSampler::prepare_noise() {
  auto p = chain_.nominal;
  double white = 0.0, slow = 0.0, still = 0.0;
  for (const auto& source : chain_.sources) {
    const auto* noise = source.noise();
    if (noise == nullptr) continue;
    const double variance =
        std::pow(code_effect(chain_, x_, source, source.standard_uncertainty, p), 2);
    const double tau =
        noise->correlated_over > 0.0 ? std::ranges::max(time_constants_at(chain_, x_)) : 0.0;
    if (noise->corner > 0.0) {
      // What averages away does so from one conversion to the next.
      const double stays = std::min(1.0, noise->filter_gain * noise->filter_gain);
      still += variance * stays;
      white += variance * (1.0 - stays);
    } else if (rated_ && tau > 0.0) {
      slow += variance;
      keeps_ = std::exp(-1.0 / (tau * chain_.firmware.digital.rate));
    } else {
      white += variance;
    }
  }
  white_ = std::sqrt(white);
  slow_ = std::sqrt(slow);
  still_ = std::sqrt(still);
  noise_ = std::sqrt(white + slow + still);
  if (stepwise_) return;
  // What average and filter leave, the rounding of each conversion to a code included.
  double of_white_noise = 0.0, of_slow_noise = 0.0, kept = 0.0;
  const double fresh = std::sqrt(1.0 - keeps_ * keeps_);
  for (const double weight : weights_) {
    const double w = weight / sum_of_weights_;
    of_white_noise += w * w;
    kept = keeps_ * kept + fresh * w;
    of_slow_noise += kept * kept;
  }
  if (keeps_ > 0.0) of_slow_noise += std::pow(kept * keeps_ / fresh, 2);
  constexpr double enough = 1.0 / 50.0;
  many_ = of_white_noise <= enough && (slow_ == 0.0 || of_slow_noise <= enough) && still_ == 0.0;
  left_ = std::sqrt((white + 1.0 / 12.0) * of_white_noise + slow * of_slow_noise + still);
}

void ReadingSampler::prepare_sines() {
  auto p = chain_.nominal;
  for (const auto& source : chain_.sources) {
    const auto* interference = source.interference();
    if (interference == nullptr) continue;
    Sine sine{.amplitude = std::abs(
                  code_effect(chain_, x_, source, interference_limit_at(chain_, source, x_), p))};
    if (sine.amplitude < 1e-9) continue;
    amplitudes_ += sine.amplitude;
    if (rated_) {
      const double turn = two_pi * interference->frequency / chain_.firmware.digital.rate;
      double real = 0.0, imaginary = 0.0;
      for (std::size_t k = 0; k < weights_.size(); ++k) {
        const double angle = std::remainder(turn * static_cast<double>(k), two_pi);
        sine.cosine.push_back(std::cos(angle));
        sine.sine.push_back(std::sin(angle));
        real += weights_[k] * sine.cosine.back();
        imaginary += weights_[k] * sine.sine.back();
      }
      sine.left = std::hypot(real, imaginary) / sum_of_weights_;
    }
    sines_.push_back(std::move(sine));
  }
}

double ReadingSampler::code(Parameters p) const {
  return chain::code(chain_, x_, p) + shift_ + p[chain_.firmware.rounding] / read_per_code_;
}

void ReadingSampler::codes(const double* const* rows, std::span<double> codes) const {
  codes_of_units(chain_, x_, rows, codes);
  const double* added = rows[chain_.firmware.rounding];
  for (std::size_t t = 0; t < codes.size(); ++t) codes[t] += shift_ + added[t] / read_per_code_;
}

double ReadingSampler::conversions() const {
  const double nominal = chain::code(chain_, x_, chain_.nominal) + shift_;
  if (!normal_holds(nominal)) return static_cast<double>(weights_.size());
  if (many_ && sines_.empty()) return 1.0;
  double variance = 0.0;
  auto p = chain_.nominal;
  for (const auto& source : chain_.sources) {
    if (random(source.kind())) continue;
    variance += std::pow(code_effect(chain_, x_, source, source.standard_uncertainty, p), 2);
  }
  const double spread = 2.0 * std::sqrt(variance);
  const bool shortened = normal_holds(nominal - spread) && normal_holds(nominal + spread);
  return shortened ? 1.0 : static_cast<double>(weights_.size());
}

}  // namespace tamlo::chain
