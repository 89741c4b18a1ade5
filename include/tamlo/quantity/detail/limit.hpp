// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <string_view>

#include "tamlo/export.hpp"
#include "tamlo/quantity/unit.hpp"

namespace tamlo {
namespace quantity TAMLO_API {

/// Distribution of the values inside a limit (JCGM 100, 4.3; JCGM 101, 6.4).
enum class Distribution : std::uint8_t { uniform, normal, triangular, arcsine };

/// Basis of a limit: the value that it is a part of.
enum class Basis : std::uint8_t {
  absolute,  ///< a value with the unit of the nominal
  relative,  ///< a part of the nominal, or of the reading
  code,      ///< LSB of the converter
  digit,     ///< last place of a display
  span,      ///< a part of the channel's span
  range,     ///< a part of a meter's range
};

/// Variable that a limit grows with.
enum class Drift : std::uint8_t { none, temperature, time };

/// "±0.05 %", "±10 ppm/K", "±2 LSB (k=2)", "9 uV rms": half the width of what a value may be off.
struct Limit {
  double size = 0.0;  ///< half-width; SI for an absolute one, else a ratio or a count
  Unit unit{};        ///< as it was written, without what follows "/" for a drift
  Basis basis = Basis::absolute;
  Drift drift = Drift::none;
  double per = 1.0;  ///< drift only: per so many kelvin or seconds
  /// K, drift with temperature by the box method: wherever the temperature lies within a range so
  /// wide, the value is off by no more than the drift over all of it. 0: by the distance.
  double box = 0.0;
  Distribution distribution = Distribution::uniform;
  double coverage_factor = 1.0;  ///< normal only: size / standard uncertainty; 1 for "(typ)"
  bool noise = false;            ///< written as "rms": new at every conversion
  bool with_steps = false;       ///< noise that holds the steps of the codes too, as an SNR does

  bool operator==(const Limit&) const = default;
};

/// Returns a half-width `size` of the limit as it has grown with so many kelvin (with the whole
/// box, where it has one) or seconds; as it is where it does not drift.
double drifted(const Limit& limit, double size, double kelvin, double seconds);

/// Standard uncertainty of a limit of half-width `size`: size/sqrt 3 (uniform), size/sqrt 6
/// (triangular), size/sqrt 2 (arcsine), size/coverage_factor (normal).
double standard_uncertainty(double size, Distribution distribution, double coverage_factor = 1.0);

std::string_view name(Distribution distribution);

}  // namespace quantity
}  // namespace tamlo
