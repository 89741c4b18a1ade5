// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/sampling.hpp"

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
  double low = 0.0, high = sampling.period;
  if (!settled(high)) return std::numeric_limits<double>::infinity();
  for (int i = 0; i < 60; ++i) {
    const double middle = (low + high) / 2.0;
    (settled(middle) ? high : low) = middle;
  }
  return high;
}

}  // namespace tamlo::chain
