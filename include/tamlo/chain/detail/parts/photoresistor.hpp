// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cmath>
#include <cstddef>

#include "tamlo/chain/detail/signal.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/sensor.hpp"

// A resistance that follows light by a power law.
namespace tamlo {
namespace chain TAMLO_API {

/// p[resistance] * (x / at)^(-p[exponent]); x above 0.
struct PhotoresistorLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = false;
  std::size_t resistance, exponent;
  double at;
};

inline double forward_of(const PhotoresistorLaw& law, double x, Parameters p) {
  return p[law.resistance] * std::pow(x / law.at, -p[law.exponent]);
}

inline double inverse_of(const PhotoresistorLaw& law, double out, Parameters p) {
  return law.at * std::pow(out / p[law.resistance], -1.0 / p[law.exponent]);
}

template <class Builder>
void build_part(Builder& b, const model::Photoresistor& sensor) {
  b.stage("sensor",
          PhotoresistorLaw{
              .resistance = b.part("sensor resistance", "sensor", sensor.resistance, "ohm"),
              .exponent = b.part("sensor exponent", "sensor", sensor.exponent, ""),
              .at = sensor.at},
          "ohm");
}

}  // namespace chain
}  // namespace tamlo
