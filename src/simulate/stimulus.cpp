// SPDX-License-Identifier: Apache-2.0
#include "tamlo/simulate/detail/stimulus.hpp"

#include <cmath>
#include <numbers>

#include "tamlo/chain/chain.hpp"

namespace tamlo::simulate {

using std::numbers::pi;

Course::Course(const Stimulus& stimulus, const chain::Chain& chain, double duration)
    : stimulus_(stimulus), duration_(duration), lowpasses_(chain.path.time_constants) {
  const auto passed = [&](double frequency) -> Passed {
    return {.gain = chain::analog_magnitude(chain, frequency),
            .phase = lowpasses_.phase(frequency)};
  };
  sine_ = passed(stimulus.frequency);
  hum_ = passed(stimulus.hum_frequency);
}

double Course::at(double time) const {
  const auto& s = stimulus_;
  const double middle = (s.from + s.to) / 2.0, half = (s.to - s.from) / 2.0;
  double x = s.from;
  switch (s.input) {
    case signal::Input::steady:
      break;
    case signal::Input::ramp: {
      // Settled: it comes as late as the low-passes are slow.
      const double rounds = s.rounds * (time - lowpasses_.delay()) / duration_;
      x = std::lerp(s.from, s.to, rounds <= 0.0 ? 0.0 : rounds - std::floor(rounds));
      break;
    }
    case signal::Input::sine:
      x = middle + half * sine_.gain * std::sin(2.0 * pi * s.frequency * time + sine_.phase);
      break;
    case signal::Input::step:
      x = std::lerp(s.from, s.to, lowpasses_.after_step(time - step_at()));
      break;
  }
  x += s.drift * time;
  if (s.hum != 0.0) {
    x += s.hum * hum_.gain * std::sin(2.0 * pi * s.hum_frequency * time + hum_.phase);
  }
  return x;
}

}  // namespace tamlo::simulate
