// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cmath>
#include <numbers>
#include <vector>

namespace tamlo::signal {

inline std::vector<double> wave(std::size_t n, double amplitude, double frequency, double phase,
                                double offset) {
  std::vector<double> result;
  for (std::size_t i = 0; i < n; ++i) {
    const double turns = frequency * static_cast<double>(i);
    result.push_back(offset + amplitude * std::cos(2.0 * std::numbers::pi * turns + phase));
  }
  return result;
}

}  // namespace tamlo::signal
