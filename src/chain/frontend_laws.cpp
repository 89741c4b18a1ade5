// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/frontend_laws.hpp"

#include <cmath>

namespace tamlo::chain {
namespace {

double parallel(double a, double b) { return a + b > 0.0 ? a * b / (a + b) : 0.0; }

double power_in_sensor(const SensorDividerLaw& feed, double resistance, Parameters p) {
  const double current = p[feed.supply] / (p[feed.partner] + resistance);
  return current * current * resistance;
}

double power_in_sensor(const ExcitationLaw& feed, double resistance, Parameters p) {
  return p[feed.current] * p[feed.current] * resistance;
}

}  // namespace

Signal forward_of(const DividerLaw& law, const Signal& in, Parameters p) {
  const double size = law.network ? p[*law.network] : 1.0;
  const double above = in.resistance + size * p[law.top];
  const double below = size * p[law.bottom];
  return {.value = in.value * below / (above + below), .resistance = parallel(above, below)};
}
double inverse_of(const DividerLaw& law, double out, Parameters p) {
  return out * (p[law.top] + p[law.bottom]) / p[law.bottom];
}

Signal forward_of(const SensorDividerLaw& law, const Signal& in, Parameters p) {
  const double bottom = law.sensor_at_bottom ? in.value : p[law.partner];
  return {.value = p[law.supply] * bottom / (in.value + p[law.partner]),
          .resistance = parallel(in.value, p[law.partner])};
}
double inverse_of(const SensorDividerLaw& law, double out, Parameters p) {
  const double rest = p[law.supply] - out;
  return law.sensor_at_bottom ? p[law.partner] * out / rest : p[law.partner] * rest / out;
}

Signal forward_of(const ExcitationLaw& law, const Signal& in, Parameters p) {
  return {.value = in.value * p[law.current], .resistance = in.value};
}
double inverse_of(const ExcitationLaw& law, double out, Parameters p) {
  return out / p[law.current];
}

Signal forward_of(const ShuntLaw& law, const Signal& in, Parameters p) {
  return {.value = in.value * p[law.resistance], .resistance = p[law.resistance]};
}
double inverse_of(const ShuntLaw& law, double out, Parameters p) { return out / p[law.resistance]; }

Signal forward_of(const AmplifierLaw& law, const Signal& in, Parameters p) {
  return {.value = p[law.gain] * (in.value + p[law.offset] + p[law.common_mode] + p[law.noise]),
          .resistance = 0.0};
}
double inverse_of(const AmplifierLaw& law, double out, Parameters p) {
  return out / p[law.gain] - p[law.offset] - p[law.common_mode] - p[law.noise];
}

Signal forward_of(const LowpassLaw& law, const Signal& in, Parameters p) {
  return {.value = in.value, .resistance = in.resistance + p[law.resistor]};
}
double inverse_of(const LowpassLaw&, double out, Parameters) { return out; }

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

Signal forward_of(const LeakageLaw& law, const Signal& in, Parameters p) {
  return {.value = in.value - p[law.leakage] * in.resistance, .resistance = in.resistance};
}
double inverse_of(const LeakageLaw&, double out, Parameters) { return out; }

}  // namespace tamlo::chain
