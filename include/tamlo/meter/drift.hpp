// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/meter/compare.hpp"

/// One unit beside the same meter at two dates: what has changed, and how long it will do.
namespace tamlo {
namespace meter TAMLO_API {

/// At one place of the span; expanded uncertainties, SI.
struct Change {
  double at = 0.0;
  double earlier = 0.0, later = 0.0;  ///< difference of the channel from the meter, of the fits
  double change = 0.0;                ///< later - earlier
  double expanded = 0.0;  ///< of the change: rows of both; what the meter is off cancels
  double ageing = 0.0;    ///< expanded, that the budget allows for the time between
  std::optional<double> limit{};
};

/// Change of a channel between two times.
struct Drift {
  double elapsed = 0.0;          ///< s
  std::vector<Change> places{};  ///< both ends of the span, its zero and its middle
  bool significant = false;      ///< some change is larger than its uncertainty
  bool within_ageing = true;     ///< no change is larger than ageing and its uncertainty explain
  /// From the later date until some place misses the target at the rate observed; none where no
  /// change is significant or it never does, or there is no target. 0: it is missed already.
  std::optional<double> until_missed{};
  double missed_at = 0.0;
};

/// Lines (offsets, where all rows are at one position) through the rows of both dates. Rows that
/// group() has made one a position; `elapsed` above 0. Throws CompareError as compare() does.
Drift drift(const Evidence& earlier, const Evidence& later, double elapsed);

/// From the mean time of the one to that of the other; nothing where a row has none.
std::optional<double> elapsed_between(const std::vector<Reading>& earlier,
                                      const std::vector<Reading>& later);

}  // namespace meter
}  // namespace tamlo
