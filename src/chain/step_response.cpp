// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/step_response.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "tamlo/chain/chain.hpp"

namespace tamlo::chain {

Lowpasses::Lowpasses(const std::vector<double>& time_constants) {
  for (const double tau : time_constants) {
    if (tau > 0.0) time_constants_.push_back(tau);
  }
  std::ranges::sort(time_constants_);
  // The answer to a step divides by their differences.
  for (std::size_t i = 1; i < time_constants_.size(); ++i) {
    time_constants_[i] = std::max(time_constants_[i], 1.0001 * time_constants_[i - 1]);
  }
}

// 1 - sum_i exp(-t / tau_i) prod_(j != i) tau_i / (tau_i - tau_j).
double Lowpasses::after_step(double time) const {
  if (time < 0.0) return 0.0;
  double result = 1.0;
  for (std::size_t i = 0; i < time_constants_.size(); ++i) {
    double weight = std::exp(-time / time_constants_[i]);
    for (std::size_t j = 0; j < time_constants_.size(); ++j) {
      if (j != i) weight *= time_constants_[i] / (time_constants_[i] - time_constants_[j]);
    }
    result -= weight;
  }
  return result;
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

}  // namespace tamlo::chain
