// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>

#include "tamlo/chain/detail/signal.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/frontend.hpp"

// A resistor and a capacitor.
namespace tamlo {
namespace chain TAMLO_API {

/// Adds p[resistor] to the resistance that the signal comes from; p[capacitor] holds the pin.
struct LowpassLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = true;
  std::size_t resistor, capacitor;
};

template <class P>
inline Signal forward_of(const LowpassLaw& law, const Signal& in, const P& p) {
  return {.value = in.value, .resistance = in.resistance + p[law.resistor]};
}

template <class P>
inline double inverse_of(const LowpassLaw&, double out, const P&) {
  return out;
}

template <class Builder>
void build_part(Builder& b, const model::Lowpass& lowpass) {
  const auto name = b.unique("lowpass");
  b.stage(name,
          LowpassLaw{.resistor = b.part(name + " resistor", name, lowpass.resistor, "ohm"),
                     .capacitor = b.part(name + " capacitor", name, lowpass.capacitor, "F")},
          "V");
}

}  // namespace chain
}  // namespace tamlo
