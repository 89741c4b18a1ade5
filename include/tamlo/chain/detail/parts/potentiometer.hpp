// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>

#include "tamlo/chain/detail/signal.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/sensor.hpp"

// A potentiometer over a supply.
namespace tamlo {
namespace chain TAMLO_API {

/// Potentiometer: the part of the span is the part of the supply. A source resistance comes with
/// it.
struct PotentiometerLaw {
  static constexpr bool resistance_follows_value = true;
  static constexpr bool several_at_once = true;
  std::size_t supply, resistance;
  double low, high;
};

template <class P>
inline Signal forward_of(const PotentiometerLaw& law, const Signal& in, const P& p) {
  const double part = fraction_of_span(in.value, law.low, law.high);
  return {.value = p[law.supply] * part, .resistance = p[law.resistance] * part * (1.0 - part)};
}

template <class P>
inline double inverse_of(const PotentiometerLaw& law, double out, const P& p) {
  return law.low + out / p[law.supply] * (law.high - law.low);
}

template <class Builder>
void build_part(Builder& b, const model::Potentiometer& sensor) {
  const auto& span = b.chain().channel.span;
  b.stage("sensor",
          PotentiometerLaw{
              .supply = b.reference(sensor.supply),
              .resistance = b.part("sensor resistance", "sensor", sensor.resistance, "ohm"),
              .low = span.low,
              .high = span.high},
          "V");
}

}  // namespace chain
}  // namespace tamlo
