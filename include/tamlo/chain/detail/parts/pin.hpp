// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cmath>
#include <cstddef>
#include <string>
#include <tuple>
#include <utility>
#include <vector>

#include "tamlo/chain/detail/sampling.hpp"
#include "tamlo/chain/detail/signal.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/frontend.hpp"

// What happens at the pin, and along the wire to it.
namespace tamlo {
namespace chain TAMLO_API {

/// p[leakage] of the pin flows through the resistance that the signal comes from.
struct LeakageLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = true;
  std::size_t leakage;
};

template <class P>
inline Signal forward_of(const LeakageLaw& law, const Signal& in, const P& p) {
  return {.value = in.value - p[law.leakage] * in.resistance, .resistance = in.resistance};
}

template <class P>
inline double inverse_of(const LeakageLaw&, double out, const P&) {
  return out;
}

/// A meter's input resistance p[resistance] from the pin to ground. The firmware does not know of
/// it.
struct LoadLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = true;
  std::size_t resistance;
};

template <class P>
inline Signal forward_of(const LoadLaw& law, const Signal& in, const P& p) {
  const double load = p[law.resistance];
  return {.value = in.value * (load / (load + in.resistance)),
          .resistance = parallel(load, in.resistance)};
}

template <class P>
inline double inverse_of(const LoadLaw&, double out, const P&) {
  return out;
}

/// Volts that come in: interference, what jitter makes of a moving signal, the drop along a wire.
/// The firmware takes the nominal terms off, and knows nothing of `unknown`.
struct PinDisturbance {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = true;
  std::vector<std::size_t> terms;
  double unknown = 0.0;  ///< V
};

/// The terms together, on top of `from`.
template <class P>
inline double sum_of_terms(const PinDisturbance& law, const P& p, double from) {
  for (const auto term : law.terms) from += p[term];
  return from;
}

template <class P>
inline Signal forward_of(const PinDisturbance& law, const Signal& in, const P& p) {
  return {.value = in.value + sum_of_terms(law, p, law.unknown), .resistance = in.resistance};
}

template <class P>
inline double inverse_of(const PinDisturbance& law, double out, const P& p) {
  return out - sum_of_terms(law, p, 0.0);
}

template <class Builder>
void build_part(Builder& b, const model::WireDrop& drop) {
  const auto name = b.unique("wire drop");
  const double volts = drop.voltage.or_zero();
  PinDisturbance law;
  if (drop.taken_off) {
    law.terms.push_back(b.part(name, name, drop.voltage, "V"));
  } else {
    law.terms.push_back(b.deviation(name, name, drop.voltage, "V", {.relative = std::abs(volts)}));
    law.unknown = volts;
  }
  b.stage(name, std::move(law), "V");
}

using PinLaws = std::tuple<LoadLaw, LeakageLaw, SamplingLaw, PinDisturbance>;

}  // namespace chain
}  // namespace tamlo
