// SPDX-License-Identifier: Apache-2.0
#include "tamlo/simulate/sampler.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "draw.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/error.hpp"
#include "tamlo/names.hpp"
#include "tamlo/signal/sine.hpp"

namespace tamlo::simulate {

std::string_view name(Bend bend) { return name_in({"bow", "s-curve", "bit-weights"}, bend); }
namespace {

using std::numbers::pi;

}  // namespace

math::RandomStream noise_stream(std::uint64_t seed, std::uint64_t number, std::uint64_t run) {
  return {seed, (run << 32U) + 1000 + number};
}

double bent(Bend bend, double part) {
  require_number(part, "a part of the range");
  const double x = std::clamp(part, 0.0, 1.0);
  switch (bend) {
    case Bend::bow:
      return 4.0 * x * (1.0 - x);
    case Bend::s_curve:
      return std::sin(2.0 * pi * x);
    case Bend::bit_weights: {
      // The three highest bits are 1 too heavy, 1/2 too light and 1/4 too heavy; the slope of it
      // all is taken away.
      double sum = 0.0, rest = x, weight = 1.0;
      for (int bit = 0; bit < 3; ++bit, weight /= 2.0) {
        rest *= 2.0;
        const bool set = rest >= 1.0;
        rest -= set ? 1.0 : 0.0;
        sum += set ? (bit == 1 ? -weight : weight) : 0.0;
      }
      return (sum - 0.75 * x) / 0.78125;
    }
  }
  return 0.0;
}

double coherent(double wanted, double rate, std::uint64_t samples) {
  require(rate > 0.0 && rate <= largest_argument, "a rate above 0");
  return signal::nearest_coherent(wanted / rate, samples) * rate;
}

int decimals(const chain::Chain& chain) {
  const auto& span = chain.channel.span;
  const double step = chain::step_at(chain, span.middle()) / span.unit.scale();
  return std::max(0, static_cast<int>(std::ceil(-std::log10(step / 4.0))));
}

int record_decimals(const chain::Chain& chain) {
  const auto& span = chain.channel.span;
  const double noise = chain::reading_noise(chain, span.middle()) / span.unit.scale();
  return std::max(decimals(chain), static_cast<int>(std::ceil(1.0 - std::log10(noise))));
}

Sampler::Sampler(const chain::Chain& chain, const chain::Chain& firmware, VirtualUnit unit,
                 const Settings& settings)
    : chain_(chain),
      firmware_(firmware),
      unit_(std::move(unit)),
      settings_(settings),
      every_(record::conversions_of(chain, settings.shows)),
      course_(settings.stimulus, chain,
              static_cast<double>(settings.period > 0 ? settings.period : settings.samples) /
                  settings.rate * every_),
      stream_(noise_stream(settings.seed, settings.number, settings.run)),
      digital_(chain.firmware.digital) {
  require(settings.rate > 0.0 && settings.rate <= largest_argument, "a sampler needs a rate");
  for (std::size_t i = 0; i < chain.sources.size(); ++i) {
    const auto& source = chain.sources[i];
    if (const auto* sine = source.interference()) {
      waves_.push_back({source.parameter, source.limit, sine->frequency, stream_.uniform()});
    }
    const auto* own_noise = source.noise();
    if (own_noise == nullptr) continue;
    Noise noise{.source = i};
    if (own_noise->corner > 0.0) {
      // One part for each octave from the time of observation up to half the rate and above, where
      // they are white.
      for (double tau = chain.conditions.observation / (2.0 * pi);; tau /= 2.0) {
        noise.keeps.push_back(std::exp(-1.0 / (tau * settings.rate)));
        if (noise.keeps.back() < 0.05) break;
      }
    } else if (own_noise->correlated_over > 0.0) {
      noise.keeps.push_back(std::exp(-1.0 / (own_noise->correlated_over * settings.rate)));
    }
    noise.part =
        noise.keeps.empty() ? 1.0 : 1.0 / std::sqrt(static_cast<double>(noise.keeps.size()));
    for (std::size_t k = 0; k < noise.keeps.size(); ++k) noise.states.push_back(stream_.normal());
    noise_.push_back(std::move(noise));
  }
}

double shown_rate(const chain::Chain& chain, const Sampler::Settings& settings) {
  return settings.rate / record::conversions_of(chain, settings.shows);
}

double Sampler::rate() const { return shown_rate(chain_, settings_); }

double Sampler::step_at() const {
  // A reading is of the moment of its last conversion.
  return (course_.step_at() * settings_.rate - (every_ - 1)) / every_;
}

void Sampler::follow(double x) {
  require_number(x, "a quantity within ±1e150");
  if (!followed_) passed_.assign(chain_.path.time_constants.size(), x);
  followed_ = x;
}

double Sampler::quantity() const {
  if (followed_) return *followed_;
  return course_.at(
      of_period(static_cast<double>(std::max<std::int64_t>(conversions_, 0)) / settings_.rate));
}

double Sampler::of_period(double time) const {
  const auto kind = settings_.stimulus.input;
  const bool repeats = kind == signal::Input::ramp || kind == signal::Input::step;
  if (settings_.period == 0 || !repeats) return time;
  return std::fmod(time, static_cast<double>(settings_.period) / settings_.rate * every_);
}

double Sampler::input(double time) {
  if (!followed_) return course_.at(of_period(time));
  double x = *followed_;
  for (std::size_t i = 0; i < passed_.size(); ++i) {
    const double keeps = std::exp(-1.0 / (chain_.path.time_constants[i] * settings_.rate));
    x = passed_[i] = keeps * passed_[i] + (1.0 - keeps) * x;
  }
  return x;
}

// What the firmware finds at the next conversion.
double Sampler::found() {
  const double moment = static_cast<double>(conversions_++) / settings_.rate;
  const double time =
      settings_.flaws.jitter > 0.0 ? moment + settings_.flaws.jitter * stream_.normal() : moment;
  moved_ = unit_.parameters;
  for (auto& noise : noise_) {
    const auto& source = chain_.sources[noise.source];
    if (noise.keeps.empty()) {
      moved_[source.parameter] += deviation(source, stream_);
      continue;
    }
    double sum = 0.0;
    for (std::size_t k = 0; k < noise.keeps.size(); ++k) {
      const double keeps = noise.keeps[k];
      noise.states[k] = keeps * noise.states[k] + std::sqrt(1.0 - keeps * keeps) * stream_.normal();
      sum += noise.states[k];
    }
    moved_[source.parameter] += source.standard_uncertainty * noise.part * sum;
  }
  for (const auto& wave : waves_) {
    moved_[wave.parameter] +=
        wave.amplitude * std::sin(2.0 * pi * (wave.frequency * moment + wave.turns));
  }
  const auto& flaws = settings_.flaws;
  double code = chain::code(chain_, input(time), moved_);
  const auto first = static_cast<double>(chain::first_code(chain_));
  if (flaws.inl != 0.0) {
    code += flaws.inl * bent(flaws.bend, (code - first) / chain_.conversion.codes);
  }
  auto converted = chain::convert(chain_, code).code;
  while (std::ranges::find(flaws.missing, converted) != flaws.missing.end()) ++converted;
  converted = std::min(converted, chain::last_code(chain_));
  return static_cast<double>(chain::reported(chain_.report, converted));
}

void Sampler::fill() {
  conversions_ = -std::int64_t{chain_.firmware.settling_readings} * every_;
  digital_.prime(found());
  --conversions_;  // that one comes again: so many make whole readings
  while (conversions_ < 0) digital_.push(found());
}

std::vector<double> Sampler::next(std::size_t most) {
  std::vector<double> result;
  const auto left = settings_.samples - shown_;
  const auto count = static_cast<std::size_t>(std::min<std::uint64_t>(most, left));
  result.reserve(count);
  if (settings_.shows == Shows::codes) {
    while (result.size() < count) result.push_back(found());
  } else {
    if (shown_ == 0 && count > 0) fill();
    while (result.size() < count) {
      if (digital_.push(found())) result.push_back(chain::reading(firmware_, digital_.value()));
    }
  }
  shown_ += count;
  return result;
}

}  // namespace tamlo::simulate
