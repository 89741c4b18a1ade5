// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>

#include "tamlo/chain/detail/signal.hpp"
#include "tamlo/chain/source.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/sensor.hpp"

// A strain bridge.
namespace tamlo {
namespace chain TAMLO_API {

/// p[excitation] * p[rated_output] * (x / rated_load * (1 + p[creep]) + p[zero] + p[combined]).
struct BridgeLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = true;
  std::size_t excitation, rated_output, zero, combined, creep;
  double rated_load;
};

template <class P>
inline double forward_of(const BridgeLaw& law, double x, const P& p) {
  return p[law.excitation] * p[law.rated_output] *
         (x / law.rated_load * (1.0 + p[law.creep]) + p[law.zero] + p[law.combined]);
}

template <class P>
inline double inverse_of(const BridgeLaw& law, double out, const P& p) {
  const double part = out / (p[law.excitation] * p[law.rated_output]);
  return (part - p[law.zero] - p[law.combined]) / (1.0 + p[law.creep]) * law.rated_load;
}

template <class Builder>
void build_part(Builder& b, const model::Bridge& sensor) {
  b.stage("sensor",
          BridgeLaw{
              .excitation = b.reference(sensor.excitation),
              .rated_output = b.part("bridge rated output", "sensor", sensor.rated_output, ""),
              .zero = b.deviation("bridge zero", "sensor", sensor.zero, "", {}),
              .combined = b.deviation("bridge combined error", "sensor", sensor.combined_error, "",
                                      {}, Nonlinearity{}),
              .creep = b.deviation("bridge creep", "sensor", sensor.creep, "", {}, Nonlinearity{}),
              .rated_load = sensor.rated_load},
          "V");
}

}  // namespace chain
}  // namespace tamlo
