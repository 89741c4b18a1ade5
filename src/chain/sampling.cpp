// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/sampling.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace tamlo::chain {
namespace {

// exp(A t) of a 2 x 2 matrix with real, different eigenvalues.
struct Matrix {
  double a, b, c, d;
};

Matrix exponential(const Matrix& m, double t) {
  const double mean = (m.a + m.d) / 2.0;
  const double half = std::sqrt((m.a - m.d) * (m.a - m.d) / 4.0 + m.b * m.c);
  // The slower eigenvalue from the product: the difference would lose it in rounding.
  const double fast = mean - half;
  const double slow = (m.a * m.d - m.b * m.c) / fast;
  const double of_slow = std::exp(slow * t), of_fast = std::exp(fast * t);
  const double s = (of_slow - of_fast) / (slow - fast),
               c = (slow * of_fast - fast * of_slow) / (slow - fast);
  return {.a = c + s * m.a, .b = s * m.b, .c = s * m.c, .d = c + s * m.d};
}

}  // namespace

double unsettled(const Sampling& of, double resistance) {
  if (of.pin_capacitor <= 0.0) {
    const double tau = (resistance + of.switch_resistance) * of.capacitor;
    return tau > 0.0 ? std::exp(-of.time / tau) : 0.0;
  }
  // Distances from the source's voltage, of the pin's capacitor and of the sampling one, while the
  // switch is closed. A resistance of nothing is one too small to matter.
  const double source = std::max(resistance, 1e-6), bridge = std::max(of.switch_resistance, 1e-3);
  const double pin = of.pin_capacitor, cap = of.capacitor;
  const Matrix m{.a = -1.0 / (source * pin) - 1.0 / (bridge * pin),
                 .b = 1.0 / (bridge * pin),
                 .c = 1.0 / (bridge * cap),
                 .d = -1.0 / (bridge * cap)};
  const auto closed = exponential(m, of.time);
  // Open, the pin recovers; what is left meets the next sample.
  const double recovers = std::exp(-std::max(of.period - of.time, 0.0) / (source * pin));
  const double before = recovers * closed.b / (1.0 - recovers * closed.a);
  return closed.c * before + closed.d;
}

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
