// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <algorithm>
#include <cstddef>
#include <tuple>
#include <vector>

#include "tamlo/chain/detail/signal.hpp"
#include "tamlo/chain/source.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/sensor.hpp"

// Sensors that give a voltage or a current.
namespace tamlo {
namespace chain TAMLO_API {

/// Straight from p[at_low] at `low` to p[at_high] at `high`.
struct LinearSensorLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = true;
  std::size_t at_low, at_high;
  double low, high;
};

template <class P>
inline double forward_of(const LinearSensorLaw& law, double x, const P& p) {
  return p[law.at_low] + fraction_of_span(x, law.low, law.high) * (p[law.at_high] - p[law.at_low]);
}

template <class P>
inline double inverse_of(const LinearSensorLaw& law, double out, const P& p) {
  return law.low + (out - p[law.at_low]) / (p[law.at_high] - p[law.at_low]) * (law.high - law.low);
}

template <class Builder>
void build_part(Builder& b, const model::LinearSensor& sensor) {
  const auto& span = b.chain().channel.span;
  b.stage("sensor",
          LinearSensorLaw{.at_low = b.part("sensor at low", "sensor", sensor.at_low, "V"),
                          .at_high = b.part("sensor at high", "sensor", sensor.at_high, "V"),
                          .low = span.low,
                          .high = span.high},
          "V");
}

/// p[offset] + p[sensitivity] * (x - at).
struct StraightSensorLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = true;
  std::size_t sensitivity, offset;
  double at;
};

template <class P>
inline double forward_of(const StraightSensorLaw& law, double x, const P& p) {
  return p[law.offset] + p[law.sensitivity] * (x - law.at);
}

template <class P>
inline double inverse_of(const StraightSensorLaw& law, double out, const P& p) {
  return law.at + (out - p[law.offset]) / p[law.sensitivity];
}

template <class Builder>
void build_part(Builder& b, const model::StraightSensor& sensor) {
  b.stage("sensor",
          StraightSensorLaw{
              .sensitivity = b.part("sensor sensitivity", "sensor", sensor.sensitivity, ""),
              .offset = b.part("sensor offset", "sensor", sensor.offset, "V"),
              .at = sensor.at},
          "V");
}

// A strain bridge.

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

// A transmitter that drives a current loop.

/// From `low` to `high` amperes over the span; p[error] is a part of the span.
struct CurrentLoopLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = true;
  double low, high;
  double from, to;
  std::size_t error;
};

template <class P>
inline double forward_of(const CurrentLoopLaw& law, double x, const P& p) {
  return law.low + (fraction_of_span(x, law.from, law.to) + p[law.error]) * (law.high - law.low);
}

template <class P>
inline double inverse_of(const CurrentLoopLaw& law, double out, const P& p) {
  return law.from + (fraction_of_span(out, law.low, law.high) - p[law.error]) * (law.to - law.from);
}

template <class Builder>
void build_part(Builder& b, const model::CurrentLoop& sensor) {
  const auto& span = b.chain().channel.span;
  const Scale of_span{.absolute = 1.0 / span.width(), .span = 1.0};
  b.stage("sensor",
          CurrentLoopLaw{
              .low = sensor.low,
              .high = sensor.high,
              .from = span.low,
              .to = span.high,
              .error = b.deviation("transmitter accuracy", "sensor", sensor.accuracy, "", of_span)},
          "A");
}

// A potentiometer over a supply.

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

// A sensor with a table of its own.

/// Straight between points, and along the outermost pieces beyond them. p[error] is added to the
/// quantity.
struct CurveLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = false;
  std::vector<double> x, y;
  std::size_t error;
};

// One straight piece of a curve; `from` rises or falls throughout.
inline double interpolate(const std::vector<double>& from, const std::vector<double>& to,
                          double x) {
  const bool rises = from.front() < from.back();
  const auto beyond = std::partition_point(from.begin() + 1, from.end() - 1, [&](double point) {
    return rises ? point < x : point > x;
  });
  const auto i = static_cast<std::size_t>(beyond - from.begin());
  return to[i - 1] + fraction_of_span(x, from[i - 1], from[i]) * (to[i] - to[i - 1]);
}

inline double forward_of(const CurveLaw& law, double x, Parameters p) {
  return interpolate(law.x, law.y, x + p[law.error]);
}

inline double inverse_of(const CurveLaw& law, double out, Parameters p) {
  return interpolate(law.y, law.x, out) - p[law.error];
}

template <class Builder>
void build_part(Builder& b, const model::Curve& sensor) {
  const double width = b.chain().channel.span.width();
  const auto error = b.deviation("sensor accuracy", "sensor", sensor.accuracy, "", {.span = width});
  b.stage("sensor", CurveLaw{.x = sensor.x, .y = sensor.y, .error = error}, sensor.output.symbol);
}

using DrivingSensorLaws = std::tuple<LinearSensorLaw, StraightSensorLaw, BridgeLaw, CurrentLoopLaw,
                                     PotentiometerLaw, CurveLaw>;

}  // namespace chain
}  // namespace tamlo
