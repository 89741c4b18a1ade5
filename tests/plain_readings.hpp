// SPDX-License-Identifier: Apache-2.0
// Readings of virtual units by a plain loop over conversions, to hold closed forms and the sampler
// against. Noise is white from one conversion to the next.
#pragma once

#include <cmath>
#include <numbers>

#include "tamlo/chain/chain.hpp"
#include "tamlo/simulate/unit.hpp"

namespace tamlo::testing {

/// Phases of the sources of interference, in parts of a turn.
inline std::vector<double> draw_phases(const chain::Chain& chain, math::RandomStream& noise) {
  std::vector<double> result;
  for (const auto& source : chain.sources) {
    if (source.kind() == chain::Kind::interference) result.push_back(noise.uniform());
  }
  return result;
}

/// The register value behind average and filter, once it is settled.
inline double plain_register_value(const chain::Chain& chain, const simulate::VirtualUnit& unit,
                                   double x, math::RandomStream& noise) {
  const auto& digital = chain.firmware.digital;
  chain::DigitalState state(digital);
  auto phases = draw_phases(chain, noise);
  bool primed = false;
  for (int readings = 0, k = 0; readings < chain.firmware.settling_readings; ++k) {
    if (!(digital.rate > 0.0)) phases = draw_phases(chain, noise);
    auto p = unit.parameters;
    std::size_t next = 0;
    for (const auto& source : chain.sources) {
      if (source.kind() == chain::Kind::noise)
        p[source.parameter] += source.standard_uncertainty * noise.normal();
      if (const auto* sine = source.interference()) {
        const double turns =
            phases[next++] + (digital.rate > 0.0 ? sine->frequency * k / digital.rate : 0.0);
        p[source.parameter] += source.limit * std::sin(2.0 * std::numbers::pi * turns);
      }
    }
    const auto value = static_cast<double>(chain::register_value(chain, chain::code(chain, x, p)));
    if (!primed) state.prime(value);
    primed = true;
    if (state.push(value)) ++readings;
  }
  return state.value();
}

/// The reading that the firmware shows, SI.
inline double plain_reading(const chain::Chain& chain, const simulate::VirtualUnit& unit, double x,
                            math::RandomStream& noise) {
  const auto shown = [&](double at) {
    return chain::reading(chain, plain_register_value(chain, unit, at, noise));
  };
  const double result = shown(x);
  const auto& tare = chain.channel.scaling.tare;
  return tare ? result - (shown(*tare) - *tare) : result;
}

}  // namespace tamlo::testing
