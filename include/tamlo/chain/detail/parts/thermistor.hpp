// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cmath>
#include <cstddef>
#include <variant>

#include "tamlo/chain/detail/signal.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/sensor.hpp"

// A thermistor, by beta or by three coefficients. Temperatures in K.
namespace tamlo {
namespace chain TAMLO_API {

constexpr double t25 = 298.15;

/// Thermistor by beta. p[error] is added to the temperature.
struct BetaLaw {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = false;
  std::size_t r25, beta, error;
};

inline double forward_of(const BetaLaw& law, double x, Parameters p) {
  return p[law.r25] * std::exp(p[law.beta] * (1.0 / (x + p[law.error]) - 1.0 / t25));
}

inline double inverse_of(const BetaLaw& law, double out, Parameters p) {
  return 1.0 / (1.0 / t25 + std::log(out / p[law.r25]) / p[law.beta]) - p[law.error];
}

/// Thermistor by three coefficients: 1/T = a + b ln R + c (ln R)^3 (Steinhart and Hart, 1968).
struct SteinhartHart {
  static constexpr bool resistance_follows_value = false;
  static constexpr bool several_at_once = false;
  double a, b, c;
  std::size_t error;
};

inline double forward_of(const SteinhartHart& law, double x, Parameters p) {
  // The real root of c L^3 + b L + a - 1/T = 0 in L = ln R (Cardano).
  const double half = (law.a - 1.0 / (x + p[law.error])) / law.c / 2.0;
  const double third = law.b / (3.0 * law.c);
  const double root = std::sqrt(third * third * third + half * half);
  return std::exp(std::cbrt(root - half) - std::cbrt(root + half));
}

inline double inverse_of(const SteinhartHart& law, double out, Parameters p) {
  const double l = std::log(out);
  return 1.0 / (law.a + law.b * l + law.c * l * l * l) - p[law.error];
}

template <class Builder>
void build_part(Builder& b, const model::Ntc& sensor) {
  const auto error = b.deviation("sensor accuracy", "sensor", sensor.accuracy, "K", {});
  if (const auto* thermistor = std::get_if<model::Thermistor>(&sensor.law)) {
    b.stage("sensor",
            BetaLaw{.r25 = b.part("sensor r25", "sensor", thermistor->r25, "ohm"),
                    .beta = b.part("sensor beta", "sensor", thermistor->beta, "K"),
                    .error = error},
            "ohm");
  } else {
    const auto& curve = std::get<model::ThermistorCurve>(sensor.law);
    b.stage("sensor", SteinhartHart{.a = curve.a, .b = curve.b, .c = curve.c, .error = error},
            "ohm");
  }
}

}  // namespace chain
}  // namespace tamlo
