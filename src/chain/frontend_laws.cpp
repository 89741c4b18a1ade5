// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/frontend_laws.hpp"

#include <cmath>

namespace tamlo::chain {
namespace {

double power_in_sensor(const SensorDividerLaw& feed, double resistance, Parameters p) {
  const double current = p[feed.supply] / (p[feed.bias_resistor] + resistance);
  return current * current * resistance;
}

double power_in_sensor(const ExcitationLaw& feed, double resistance, Parameters p) {
  return p[feed.current] * p[feed.current] * resistance;
}

}  // namespace

Signal forward_of(const SelfHeatedLaw& law, const Signal& in, Parameters p) {
  const auto resistance_at = [&](double t) {
    return std::visit([&](const auto& sensor) { return forward_of(sensor, t, p); }, law.sensor);
  };
  // Warmer means less resistance, and both means another power: a fixed point, reached in a few
  // rounds because a sensible sensor warms itself by little.
  double t = in.value, resistance = resistance_at(t);
  for (int round = 0; round < 100; ++round) {
    const double power = std::visit(
        [&](const auto& feed) { return power_in_sensor(feed, resistance, p); }, law.feed);
    const double warmed = in.value + power / p[law.dissipation];
    resistance = resistance_at(warmed);
    if (std::abs(warmed - t) < 1e-12 * warmed) break;
    t = warmed;
  }
  return std::visit([&](const auto& feed) { return forward_of(feed, {.value = resistance}, p); },
                    law.feed);
}
double inverse_of(const SelfHeatedLaw& law, double out, Parameters p) {
  const double resistance =
      std::visit([&](const auto& feed) { return inverse_of(feed, out, p); }, law.feed);
  return std::visit([&](const auto& sensor) { return inverse_of(sensor, resistance, p); },
                    law.sensor);
}

}  // namespace tamlo::chain
