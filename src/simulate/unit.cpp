// SPDX-License-Identifier: Apache-2.0
#include "tamlo/simulate/unit.hpp"

#include <cmath>
#include <numbers>

#include "draw.hpp"
#include "tamlo/chain/chain.hpp"

namespace tamlo::simulate {

double deviation(const chain::Source& source, math::RandomStream& stream) {
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

VirtualUnit draw(const chain::Chain& chain, std::uint64_t seed, std::uint64_t number) {
  math::RandomStream stream(seed, number);
  std::vector<std::pair<std::size_t, double>> deviations;
  for (std::size_t s = 0; s < chain.sources.size(); ++s) {
    if (chain::random(chain.sources[s].kind())) continue;
    deviations.emplace_back(s, deviation(chain.sources[s], stream));
  }
  return with_deviations(chain, deviations);
}

VirtualUnit nominal(const chain::Chain& chain) { return {.parameters = chain.nominal}; }

bool move(VirtualUnit& unit, const chain::Chain& chain, std::string_view parameter, double by,
          bool relative) {
  for (std::size_t i = 0; i < chain.parameters.size(); ++i) {
    if (chain.parameters[i].name != parameter) continue;
    unit.parameters[i] += relative ? by * chain.nominal[i] : by;
    return true;
  }
  return false;
}

VirtualUnit with_deviations(const chain::Chain& chain,
                            const std::vector<std::pair<std::size_t, double>>& deviations) {
  auto unit = nominal(chain);
  unit.deviations.assign(chain.sources.size(), 0.0);
  for (const auto& [source, size] : deviations) {
    unit.parameters[chain.sources[source].parameter] += size;
    unit.deviations[source] += size;
  }
  return unit;
}

UnitReader::Place::Place(const chain::Chain& chain, double x)
    : sampler(chain, x), followed(chain::followed_at(chain, x)) {
  if (chain.named.calibration) {
    const double stated = chain.sources[*chain.named.calibration].standard_uncertainty;
    if (stated > 0.0) calibration = chain::calibration_uncertainty_at(chain, x) / stated;
  }
}

UnitReader::UnitReader(const chain::Chain& chain, const chain::Chain& firmware, double x)
    : chain_(chain), firmware_(firmware), place_(chain, x) {
  if (const auto& tare = firmware.channel.scaling.tare) tare_.emplace(chain, *tare);
}

double UnitReader::register_value(const Place& place, const VirtualUnit& unit,
                                  math::RandomStream& noise) const {
  auto p = unit.parameters;
  if (!unit.deviations.empty()) {
    double& added = p[chain_.firmware.rounding];
    for (std::size_t s = 0; s < place.followed.size(); ++s)
      added -= place.followed[s] * unit.deviations[s];
    if (const auto& calibration = chain_.named.calibration)
      added += (place.calibration - 1.0) * unit.deviations[*calibration];
  }
  const double code = place.sampler.code(p);
  double result = 0.0;
  place.sampler.draw_reported({&code, 1}, static_cast<std::uint64_t>(noise.uniform() * 0x1p53), 0,
                              {&result, 1});
  return result;
}

double UnitReader::register_value(const VirtualUnit& unit, math::RandomStream& noise) const {
  return register_value(place_, unit, noise);
}

double UnitReader::read(const VirtualUnit& unit, math::RandomStream& noise) const {
  const auto shown = [&](const Place& place) {
    return chain::reading_or_end(firmware_, register_value(place, unit, noise));
  };
  const double result = shown(place_);
  return tare_ ? result - (shown(*tare_) - *firmware_.channel.scaling.tare) : result;
}

double read(const chain::Chain& chain, const chain::Chain& firmware, const VirtualUnit& unit,
            double x, math::RandomStream& noise) {
  return UnitReader(chain, firmware, x).read(unit, noise);
}

}  // namespace tamlo::simulate
