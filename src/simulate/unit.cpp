// SPDX-License-Identifier: Apache-2.0
#include "tamlo/simulate/unit.hpp"

#include <cmath>
#include <numbers>

#include "draw.hpp"
#include "tamlo/chain/chain.hpp"

namespace tamlo::simulate {

double deviation(const chain::Source& source, math::Stream& stream) {
  switch (source.distribution) {
    case quantity::Distribution::uniform:
      return source.limit * (2.0 * stream.uniform() - 1.0);
    case quantity::Distribution::normal:
      return source.standard_uncertainty * stream.normal();
    case quantity::Distribution::triangular:
      return source.limit * (stream.uniform() + stream.uniform() - 1.0);
    case quantity::Distribution::arcsine:
      return source.limit * std::sin(std::numbers::pi * (2.0 * stream.uniform() - 1.0));
  }
  return 0.0;
}

Unit draw(const chain::Chain& chain, std::uint64_t seed, std::uint64_t number) {
  math::Stream stream(seed, number);
  auto unit = nominal(chain);
  for (const auto& source : chain.sources) {
    if (chain::random(source.kind())) continue;
    unit.parameters[source.parameter] += deviation(source, stream);
  }
  return unit;
}

Unit nominal(const chain::Chain& chain) { return {.parameters = chain.nominal}; }

bool move(Unit& unit, const chain::Chain& chain, std::string_view parameter, double by,
          bool relative) {
  for (std::size_t i = 0; i < chain.parameters.size(); ++i) {
    if (chain.parameters[i].name != parameter) continue;
    unit.parameters[i] += relative ? by * chain.nominal[i] : by;
    return true;
  }
  return false;
}

Unit with_deviations(const chain::Chain& chain,
                     const std::vector<std::pair<std::size_t, double>>& deviations) {
  auto unit = nominal(chain);
  for (const auto& [source, size] : deviations) {
    unit.parameters[chain.sources[source].parameter] += size;
  }
  return unit;
}

namespace {

// The parameters of a unit in the moment of one conversion.
std::vector<double> moved(const chain::Chain& chain, const Unit& unit,
                          const std::vector<double>& phases, double time, math::Stream& noise) {
  auto p = unit.parameters;
  std::size_t next = 0;
  for (const auto& source : chain.sources) {
    if (source.kind() == chain::Kind::noise) p[source.parameter] += deviation(source, noise);
    const auto* sine = source.interference();
    if (sine == nullptr) continue;
    const double turns = sine->frequency * time + phases[next++];
    p[source.parameter] += source.limit * std::sin(2.0 * std::numbers::pi * turns);
  }
  return p;
}

// Of each interference, in parts of a turn. What is at no known rate has a new one every time.
std::vector<double> phases_of(const chain::Chain& chain, math::Stream& noise) {
  std::vector<double> result;
  for (const auto& source : chain.sources) {
    if (source.kind() == chain::Kind::interference) result.push_back(noise.uniform());
  }
  return result;
}

}  // namespace

double register_value(const chain::Chain& chain, const Unit& unit, double x, math::Stream& noise) {
  chain::DigitalState state(chain.firmware.digital);
  auto phases = phases_of(chain, noise);
  double time = 0.0;
  const double period = chain.firmware.digital.rate > 0.0 ? 1.0 / chain.firmware.digital.rate : 0.0;
  bool primed = false;
  for (int readings = 0; readings < chain.firmware.settling_readings; time += period) {
    if (period == 0.0) phases = phases_of(chain, noise);
    const auto p = moved(chain, unit, phases, time, noise);
    const auto found = static_cast<double>(chain::register_value(chain, chain::code(chain, x, p)));
    if (!primed) state.prime(found);
    primed = true;
    if (state.push(found)) ++readings;
  }
  return state.value();
}

chain::Conversion convert(const chain::Chain& chain, const Unit& unit, double x,
                          math::Stream& noise) {
  const auto phases = phases_of(chain, noise);
  return chain::convert(chain, chain::code(chain, x, moved(chain, unit, phases, 0.0, noise)));
}

double read(const chain::Chain& chain, const chain::Chain& firmware, const Unit& unit, double x,
            math::Stream& noise) {
  const auto shown = [&](double at) {
    return chain::reading(firmware, register_value(chain, unit, at, noise));
  };
  const double result = shown(x);
  const auto& tare = firmware.channel.scaling.tare;
  return tare ? result - (shown(*tare) - *tare) : result;
}

}  // namespace tamlo::simulate
