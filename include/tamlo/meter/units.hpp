// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/meter/compare.hpp"

/// Several units of one board beside the meter: how far they spread, and how many would do.
namespace tamlo {
namespace meter TAMLO_API {

/// One unit beside the meter.
struct UnitResult {
  std::string unit{};
  double offset = 0.0;  ///< SI, at the zero of the unit of the quantity
  double gain = 0.0;    ///< change of the difference with the quantity
};

/// One figure over the units, beside what the datasheet limits of the budget predict of it.
struct Spread {
  double mean = 0.0;
  double deviation = 0.0;        ///< standard deviation of the units
  double low = 0.0, high = 0.0;  ///< confidence interval of the deviation
  double predicted = 0.0;        ///< by the budget, and the rows' own noise
  double tolerance_low = 0.0,
         tolerance_high = 0.0;  ///< tolerance interval: so much of all units, as sure
  /// 1: the units spread more than the limits allow, -1: they spread less, 0: as predicted.
  int differs = 0;
};

/// Parts of all units, 0 to 1, that would meet the target over the span, were offsets and gains
/// jointly normal as these units have them; those of the units at hand beside it.
struct Share {
  double expected = 0.0;
  int met = 0;  ///< of the units at hand
};

/// Several units: yield and spread.
struct Units {
  std::vector<UnitResult> units{};
  Spread offset{}, gain{};
  bool has_target = false;
  Share as_built{}, after_zero{}, after_two_point{};
  double coverage = 0.95;
};

/// Takes three units or more together, each by its name and at two positions or more, all of one
/// channel. Throws CompareError for fewer.
/// What a single reading's noise adds to the error is in the shares.
Units units(const std::vector<std::pair<std::string, Evidence>>& rows);

/// The units of one channel.
struct ChannelUnits {
  std::string channel{};
  quantity::Unit unit{};
  Units units{};
};

}  // namespace meter
}  // namespace tamlo
