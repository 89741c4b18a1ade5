// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/quantity/detail/limit.hpp"
#include "tamlo/quantity/unit.hpp"

namespace tamlo {
namespace quantity TAMLO_API {

/// A nominal with its limits: "2.5 V ±0.05 % ±10 ppm/K". Limits alone ("±2 LSB ±2 ppm/K") and
/// noise alone ("9 uV rms") have no nominal.
struct Value {
  std::optional<double> nominal{};  ///< SI
  Unit unit{};                      ///< as the nominal was written
  std::vector<Limit> limits{};

  bool operator==(const Value&) const = default;
  /// The nominal, or 0 where only limits are given.
  double or_zero() const { return nominal.value_or(0.0); }
};

/// "15..45 degC": low < high, both SI.
struct Range {
  double low = 0.0;
  double high = 0.0;
  Unit unit{};

  bool operator==(const Range&) const = default;
  /// From end to end.
  double width() const { return high - low; }
  /// Between the ends.
  double middle() const { return low + (high - low) / 2.0; }
  /// Tells whether a value lies in it, the ends too.
  bool holds(double value) const { return low <= value && value <= high; }
  /// The zero of its unit; the low end where it does not hold that.
  double zero() const { return holds(unit.offset) ? unit.offset : low; }
  /// The largest distance of a point of the range from `from`.
  double farthest(double from) const;
};

/// Size of a limit at a value of its span, SI: a part of the value, a part of the span, or
/// absolute.
double size_at(const Limit& limit, const Range& span, double at);

}  // namespace quantity
}  // namespace tamlo
