// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/sampling.hpp"
#include "tamlo/math/detail/bisect.hpp"

#include <cmath>
#include <limits>

namespace tamlo::chain {

double time_to_settle(Sampling sampling, double resistance, double band) {
  if (sampling.pin_capacitor <= 0.0) {
    return -std::log(band) * (resistance + sampling.switch_resistance) * sampling.capacitor;
  }
  const auto settled = [&](double time) {
    sampling.time = time;
    return std::abs(unsettled(sampling, resistance)) <= band;
  };
  const double period = sampling.period;
  if (!settled(period)) return std::numeric_limits<double>::infinity();
  return math::bisect(0.0, period, 60, [&](double time) { return !settled(time); }).high;
}

}  // namespace tamlo::chain
