// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/detail/live.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include "tamlo/chain/chain.hpp"
#include "tamlo/signal/moments.hpp"

namespace tamlo::meter {

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
