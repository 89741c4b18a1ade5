// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <vector>

#include "tamlo/chain/signal.hpp"

/// What the converter's sampling capacitor takes from the pin (docs/method.md, "Time").
namespace tamlo::chain {

/// s, ohm, F.
struct Sampling {
  double time = 0.0;    ///< that the switch is closed
  double period = 0.0;  ///< from one sample of the pin to its next; only with a pin capacitor
  double switch_resistance = 0.0;
  double capacitor = 0.0;
  double pin_capacitor = 0.0;  ///< from the pin to ground; 0: none
};

/// The part that is left, at the end of the sampling, of the step from what the capacitor held
/// before to what the pin has, through a source of `resistance` ohm.
///
/// Without a capacitor at the pin exp(-time / ((resistance + switch_resistance) capacitor)). With
/// one, the two capacitors share their charge at once, and the pin recovers until its next sample:
/// the steady state of that, exactly, from the two time constants of the circuit.
double unsettled(const Sampling& sampling, double resistance);

/// The sampling time that leaves no more than `band` of a step; with a pin capacitor found by
/// search up to the period, and infinite where no such time does.
double time_to_settle(Sampling sampling, double resistance, double band);

/// The pin's voltage as it is sampled: the rest of p[neighbour], the voltage of the channel before
/// in the scan, stays in the capacitor. The firmware does not know of it.
struct SamplingLaw {
  Sampling sampling;
  std::size_t neighbour;
};

/// Volts that come in at the pin: interference, and what jitter makes of a moving signal.
struct AddedLaw {
  std::vector<std::size_t> terms;
};

template <class P>
inline Signal forward_of(const SamplingLaw& law, const Signal& in, const P& p) {
  const double left = unsettled(law.sampling, in.resistance);
  return {.value = in.value + left * (p[law.neighbour] - in.value), .resistance = in.resistance};
}
template <class P>
inline double inverse_of(const SamplingLaw&, double out, const P&) {
  return out;
}

template <class P>
inline Signal forward_of(const AddedLaw& law, const Signal& in, const P& p) {
  double sum = 0.0;
  for (const auto term : law.terms) sum += p[term];
  return {.value = in.value + sum, .resistance = in.resistance};
}
template <class P>
inline double inverse_of(const AddedLaw&, double out, const P&) {
  return out;
}

}  // namespace tamlo::chain
