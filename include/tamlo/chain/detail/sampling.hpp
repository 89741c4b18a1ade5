// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <vector>

#include "tamlo/chain/detail/signal.hpp"
#include "tamlo/export.hpp"
#include "tamlo/math/detail/exponential.hpp"

/// Charge that the converter's sampling capacitor takes from the pin (docs/method.md, "Time").
namespace tamlo {
namespace chain TAMLO_API {

/// s, ohm, F.
struct Sampling {
  double time = 0.0;    ///< that the switch is closed
  double period = 0.0;  ///< from one sample of the pin to its next; only with a pin capacitor
  double switch_resistance = 0.0;
  double capacitor = 0.0;
  double pin_capacitor = 0.0;  ///< from the pin to ground; 0: none
};

/// The part that is left, at the end of the sampling, of the step from what the capacitor held
/// before to what the pin has, through a source of `resistance` ohm; without a capacitor at the
/// pin:
///
///     exp(-time / ((resistance + switch_resistance) capacitor))
template <class P>
inline double unsettled_alone(const Sampling& sampling, double resistance) {
  const double tau = (resistance + sampling.switch_resistance) * sampling.capacitor;
  return tau > 0.0 ? math::exponential<P>(-sampling.time / tau) : 0.0;
}

/// Returns the unsettled rest with a capacitor at the pin: the two share their charge at once, and
/// the pin recovers until its next sample. Exact steady state, from the two time constants.
template <class P>
inline double unsettled_shared(const Sampling& sampling, double resistance) {
  using math::exponential;
  // Distances from the source's voltage, of the pin's capacitor and of the sampling one, while the
  // switch is closed: their change is a matrix a, b; c, d times them. A resistance of nothing is
  // one too small to matter.
  const double source = resistance > 1e-6 ? resistance : 1e-6;
  const double bridge = sampling.switch_resistance > 1e-3 ? sampling.switch_resistance : 1e-3;
  const double pin = sampling.pin_capacitor, cap = sampling.capacitor;
  const double b = 1.0 / (bridge * pin), c = 1.0 / (bridge * cap), d = -c;
  const double recovery = 1.0 / (source * pin), a = -recovery - b;
  // Its exponential from its two eigenvalues, which are real and differ. The slower one from their
  // product a d - b c: the difference would lose it in rounding.
  const double half = __builtin_sqrt((a - d) * (a - d) / 4.0 + b * c);
  const double fast = (a + d) / 2.0 - half, slow = recovery * c / fast;
  const double of_slow = exponential<P>(slow * sampling.time),
               of_fast = exponential<P>(fast * sampling.time);
  const double apart = 0.5 / half;
  const double s = (of_slow - of_fast) * apart;
  const double whole = (slow * of_fast - fast * of_slow) * apart;
  // Open, the pin recovers; what is left meets the next sample.
  const double open = sampling.period > sampling.time ? sampling.period - sampling.time : 0.0;
  const double recovers = exponential<P>(-open * recovery);
  const double before = recovers * s * b / (1.0 - recovers * (whole + s * a));
  return s * c * before + whole + s * d;
}

template <class P = Parameters>
inline double unsettled(const Sampling& sampling, double resistance) {
  return sampling.pin_capacitor > 0.0 ? unsettled_shared<P>(sampling, resistance)
                                      : unsettled_alone<P>(sampling, resistance);
}

/// The sampling time that leaves no more than `band` of a step; with a pin capacitor found by
/// search up to the period, and infinite where no such time does.
double time_to_settle(Sampling sampling, double resistance, double band);

/// The pin's voltage as it is sampled: the rest of p[neighbour], the voltage of the channel before
/// in the scan, stays in the capacitor. The firmware does not know of it.
struct SamplingLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = true;
  Sampling sampling;
  std::size_t neighbour;
};

template <class P>
inline Signal forward_of(const SamplingLaw& law, const Signal& in, const P& p) {
  const double left = unsettled<P>(law.sampling, in.resistance);
  return {.value = in.value + left * (p[law.neighbour] - in.value), .resistance = in.resistance};
}
template <class P>
inline double inverse_of(const SamplingLaw&, double out, const P&) {
  return out;
}

}  // namespace chain
}  // namespace tamlo
