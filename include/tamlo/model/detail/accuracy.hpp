// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <optional>
#include <vector>

#include "tamlo/export.hpp"

/// Uncertainty of a reference meter (docs/method.md, "Meter").
namespace tamlo {
namespace model TAMLO_API {

struct Meter;
struct MeterRange;

/// The range that the meter would be on: the lowest that holds the reading (SI), or nothing above
/// the highest.
std::optional<std::size_t> range_for(const model::Meter& meter, double reading);

/// One place of the range's display, SI.
double digit(const model::MeterRange& range);

/// Conditions of a meter's use, which its drifts are multiplied by.
struct MeterUse {
  double kelvin = 0.0;   ///< outside its own range of temperatures
  double seconds = 0.0;  ///< since its accuracy was true
};
/// At a temperature, K. A meter without a range of temperatures is always inside it.
MeterUse use_of(const model::Meter& meter, double temperature);

/// Standard uncertainties of a reading on `range`, SI. A limit of the accuracy is one unknown for
/// the whole range, the same at every reading: it does not average away. The resolution, half a
/// digit either way, is new at every reading.
struct MeterUncertainty {
  std::vector<double> limits{};  ///< one for each limit of the accuracy
  double resolution = 0.0;

  /// Returns the uncertainty of all its parts together.
  double combined() const;
};

MeterUncertainty uncertainty(const model::MeterRange& range, double reading,
                             const MeterUse& use = {});

}  // namespace model
}  // namespace tamlo
