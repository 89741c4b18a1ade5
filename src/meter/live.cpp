// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/detail/live.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include "tamlo/chain/chain.hpp"
#include "tamlo/error.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/signal/moments.hpp"

namespace tamlo::meter {

SettlingRule settling_rule(const chain::Chain& chain, double x, double uncertainty) {
  require(uncertainty > 0.0 && std::isfinite(uncertainty), "an uncertainty above 0");
  const auto& digital = chain.firmware.digital;
  SettlingRule rule{.allowed = uncertainty / 4.0, .noise = chain::reading_noise(chain, x)};
  const double gain = chain::noise_gain(digital) * chain::decimation(digital);
  rule.correlation = std::max(1.0, gain > 0.0 ? 1.0 / gain : 1.0);
  // The noise of a mean of n: noise sqrt(correlation / n).
  const double enough = std::pow(rule.noise / (uncertainty / 4.0), 2) * rule.correlation;
  const auto by_filter = static_cast<double>(chain.firmware.settling_readings);
  rule.window = static_cast<std::size_t>(
      std::ceil(std::clamp(std::max({enough, by_filter, 4.0}), 4.0, 4096.0)));
  // What a step leaves one window later: of the filter next to nothing, of a low-pass before it by
  // its time constant. A quantity that moves by itself is slower than both: a half at least.
  double slowest = 0.0;
  for (const double tau : chain.path.time_constants) slowest = std::max(slowest, tau);
  const double rate = chain::output_rate(digital);
  const double by_lowpass = slowest > 0.0 && rate > 0.0
                                ? std::exp(-static_cast<double>(rule.window) / (rate * slowest))
                                : 0.0;
  rule.keeps = std::clamp(by_lowpass, 0.5, 0.95);
  return rule;
}

double wanted_uncertainty(const chain::Chain& chain) {
  const double x = chain.channel.span.middle();
  const auto& accuracy = chain.channel.target.accuracy;
  const double allowed = accuracy ? chain::allowed_at(chain, *accuracy, x) : 0.0;
  return allowed > 0.0 ? allowed : 4.0 * chain::step_at(chain, x);
}

Settling::Settling(const SettlingRule& rule) : rule_(rule), last_(2 * rule.window) {
  require(rule.window >= 4, "a window of 4 readings or more");
  require(rule.allowed > 0.0 && rule.noise >= 0.0 && rule.correlation >= 1.0,
          "an allowed rest above 0, and noise of 0 or more");
  require(rule.keeps >= 0.0 && rule.keeps < 1.0, "a part that is kept, below 1");
}

void Settling::add(double reading) {
  require(std::isfinite(reading), "a reading that is a number");
  last_[at_] = reading;
  at_ = (at_ + 1) % last_.size();
  ++count_;
}

void Settling::restart() { at_ = count_ = 0; }

double Settling::standard_deviation() const {
  const std::size_t n = std::min(count_, rule_.window);
  if (n < 2) return 0.0;
  const auto ago = [&](std::size_t back) {
    return last_[(at_ + last_.size() - 1 - back) % last_.size()];
  };
  double mean = 0.0, squares = 0.0;
  for (std::size_t i = 0; i < n; ++i) mean += ago(i) / static_cast<double>(n);
  for (std::size_t i = 0; i < n; ++i) squares += std::pow(ago(i) - mean, 2);
  return std::sqrt(squares / (static_cast<double>(n) - 1.0));
}

std::optional<Settled> Settling::settled() const {
  const std::size_t n = rule_.window;
  const std::size_t before = (n + 1) / 2;  // of the window before it, half is enough
  if (count_ < n + before) return {};
  const auto ago = [&](std::size_t back) {
    return last_[(at_ + last_.size() - 1 - back) % last_.size()];
  };
  double newer = 0.0, older = 0.0;
  for (std::size_t i = 0; i < n; ++i) newer += ago(i) / static_cast<double>(n);
  for (std::size_t i = 0; i < before; ++i) older += ago(n + i) / static_cast<double>(before);
  // The slope of the last window, in a window's length, against its own scatter.
  double slope = 0.0, squares = 0.0, scatter = 0.0;
  const double middle = (static_cast<double>(n) - 1.0) / 2.0;
  for (std::size_t i = 0; i < n; ++i) {
    const double t = middle - static_cast<double>(i);
    slope += t * (ago(i) - newer);
    squares += t * t;
  }
  slope /= squares;
  for (std::size_t i = 0; i < n; ++i) {
    const double off = ago(i) - newer - slope * (middle - static_cast<double>(i));
    scatter += off * off;
  }
  const double dof = std::max(1.0, static_cast<double>(n) / rule_.correlation - 2.0);
  const double observed = std::sqrt(scatter / std::max(1.0, static_cast<double>(n) - 2.0));
  const double of_slope = std::max(observed, rule_.noise) * std::sqrt(rule_.correlation / squares);
  const bool level = std::abs(slope) <= of_slope * math::student_quantile(0.975, dof) ||
                     std::abs(slope) * static_cast<double>(n) <= 0.1 * rule_.allowed;
  const double rest = (newer - older) * rule_.keeps / (1.0 - rule_.keeps);
  if (!level || std::abs(rest) > rule_.allowed) return {};
  return Settled{
      .value = newer, .standard_deviation = standard_deviation(), .rest = rest, .readings = n};
}

bool is_end(const chain::Chain& chain, double register_value) {
  const auto& ends = chain.report;
  return register_value == static_cast<double>(ends.first_reported) ||
         register_value == static_cast<double>(ends.last_reported);
}

struct Live::Inside {
  Inside(chain::Chain own, double uncertainty)
      : chain(std::move(own)),
        digital(chain.firmware.digital),
        settling(settling_rule(chain, chain.channel.span.middle(), uncertainty)) {}

  chain::Chain chain;
  chain::DigitalState digital;  // keeps a reference to the chain's
  Settling settling;
  signal::Moments all{};
  double first_at = 0.0, last_at = 0.0, last = 0.0;
  std::optional<double> code{};
};

Live::Live(chain::Chain chain, double uncertainty)
    : inside_(std::make_unique<Inside>(std::move(chain), uncertainty)) {}
Live::~Live() = default;
Live::Live(Live&& other) noexcept = default;
Live& Live::operator=(Live&& other) noexcept = default;

const chain::Chain& Live::chain() const { return inside_->chain; }

void Live::add_code(double code, double seconds) {
  auto& in = *inside_;
  if (!in.code) in.digital.prime(code);
  in.code = code;
  if (in.digital.push(code)) add_reading(chain::reading(in.chain, in.digital.value()), seconds);
}

void Live::add_reading(double reading, double seconds) {
  auto& in = *inside_;
  if (!std::isfinite(reading)) return;  // of a code that has none, which is shown as at an end
  in.settling.add(reading);
  in.all.add({&reading, 1});
  if (in.all.count() == 1) in.first_at = seconds;
  in.last_at = seconds;
  in.last = reading;
}

std::optional<Settled> Live::settled() const { return inside_->settling.settled(); }

std::uint64_t Live::readings() const { return inside_->all.count(); }
double Live::last() const { return inside_->last; }
void Live::restart() { inside_->settling.restart(); }
std::size_t Live::window() const { return inside_->settling.rule().window; }
double Live::correlation() const { return inside_->settling.rule().correlation; }

LiveState Live::state() const {
  const auto& in = *inside_;
  const auto& span = in.chain.channel.span;
  LiveState state{.channel = in.chain.channel.name, .unit = span.unit, .readings = in.all.count()};
  state.code = in.code;
  state.at_end = in.code && is_end(in.chain, *in.code);
  if (state.readings == 0) return state;
  state.elapsed = in.last_at - in.first_at;
  state.last = in.last;
  state.min = in.all.min();
  state.max = in.all.max();
  state.noise = in.settling.standard_deviation();
  state.predicted_noise = chain::reading_noise(in.chain, std::clamp(in.last, span.low, span.high));
  state.settled = in.settling.settled();
  return state;
}

}  // namespace tamlo::meter
