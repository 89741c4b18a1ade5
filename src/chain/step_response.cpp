// SPDX-License-Identifier: Apache-2.0
// How readings follow a step, and what a channel lets through: curves to draw.
#include "tamlo/chain/detail/step_response.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/error.hpp"

namespace tamlo::chain {
namespace {

constexpr std::size_t few_lowpasses = 3;

// 1 - sum_i exp(-t / tau_i) prod_(j != i) tau_i / (tau_i - tau_j).
template <class Real>
Real after_step_in(const std::vector<double>& time_constants, double time) {
  Real result = 1.0;
  for (std::size_t i = 0; i < time_constants.size(); ++i) {
    const Real own = time_constants[i];
    Real weight = std::exp(-Real(time) / own);
    for (std::size_t j = 0; j < time_constants.size(); ++j) {
      if (j != i) weight *= own / (own - Real(time_constants[j]));
    }
    result -= weight;
  }
  return result;
}

}  // namespace

Lowpasses::Lowpasses(const std::vector<double>& time_constants) {
  for (const double tau : time_constants) {
    if (tau > 0.0) time_constants_.push_back(tau);
  }
  std::ranges::sort(time_constants_);
  // The answer to a step divides by their differences, and by many small ones if many are alike:
  // those are held further apart, about where they are.
  const bool few = time_constants_.size() <= few_lowpasses;
  const double apart = few ? 1.0001 : 1.01;
  const double delay_before = delay();
  for (std::size_t i = 1; i < time_constants_.size(); ++i) {
    time_constants_[i] = std::max(time_constants_[i], apart * time_constants_[i - 1]);
  }
  const double later = few ? 1.0 : delay() / delay_before;
  for (double& tau : time_constants_) tau /= later;
}

double Lowpasses::after_step(double time) const {
  if (time < 0.0) return 0.0;
  if (time_constants_.size() <= few_lowpasses) return after_step_in<double>(time_constants_, time);
  // Large weights of either sign: in more digits, and the ends as they must be.
  const auto result = after_step_in<long double>(time_constants_, time);
  return std::clamp(static_cast<double>(result), 0.0, 1.0);
}

double Lowpasses::delay() const {
  double sum = 0.0;
  for (const double tau : time_constants_) sum += tau;
  return sum;
}

double Lowpasses::phase(double frequency) const {
  double sum = 0.0;
  for (const double tau : time_constants_) {
    sum -= std::atan(2.0 * std::numbers::pi * frequency * tau);
  }
  return sum;
}

std::vector<double> step_response(const Chain& chain, bool of_readings, double rate,
                                  std::size_t samples, double step_at) {
  const int every = of_readings ? decimation(chain.firmware.digital) : 1;
  const Lowpasses lowpasses(chain.path.time_constants);
  DigitalState state(chain.firmware.digital);
  std::vector<double> result;
  for (std::size_t i = 0; i < samples * static_cast<std::size_t>(every); ++i) {
    const double since = static_cast<double>(i) - (step_at * every + every - 1);
    const double value = lowpasses.after_step(since / rate);
    if (!of_readings) {
      result.push_back(value);
    } else if (state.push(value)) {
      result.push_back(state.value());
    }
  }
  return result;
}

Response response(const Chain& chain, int count) {
  require(count > 0, "steps of the frequency, one at least");
  auto digital = chain.firmware.digital;
  Response result{.rate_known = digital.rate > 0.0};
  if (!result.rate_known) digital.rate = 1.0;
  for (int i = 0; i <= count; ++i) {
    const double frequency = digital.rate / 2.0 * i / count;
    const double part = magnitude(digital, frequency);
    const double before = result.rate_known ? analog_magnitude(chain, frequency) : 1.0;
    result.passed.push_back({.frequency = frequency, .digital = part, .whole = part * before});
  }
  const auto series = dynamics(chain).series;
  if (series.output_rate > 0.0) result.period = 1.0 / series.output_rate;
  result.answers = step_response(chain.firmware.digital, std::clamp(series.to_code + 3, 8, 4000));
  return result;
}

}  // namespace tamlo::chain
