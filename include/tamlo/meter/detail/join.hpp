// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <optional>
#include <vector>

#include "tamlo/export.hpp"

/// Readings and the values of a meter that were logged by two clocks, brought together.
namespace tamlo {
namespace meter TAMLO_API {

/// One value of a log, at its moment by the clock of that log.
struct Logged {
  double time = 0.0;  ///< s
  double value = 0.0;
};

/// Facts about the two logs that are told; those that are not are found.
struct JoinRequest {
  std::optional<double> offset{};  ///< s, that the meter's clock is ahead at the first reading
  std::optional<double> drift{};   ///< part by which the meter's clock runs faster
  double place = 0.0;              ///< last place of the meter
  std::optional<double> rest{};    ///< the most that a meter at rest moves
  double settling = 0.0;           ///< s, until readings show a change
};

/// Readings with the values of the meter at their moments.
struct Join {
  double offset = 0.0;  ///< s, as in the request
  double drift = 0.0;
  double within = 0.0;  ///< s, that a found offset may be off; 0 of a told one
  double rest = 0.0;    ///< that was allowed
  std::vector<std::optional<double>> values{};  ///< of each reading, in its order
  std::size_t outside = 0;                      ///< readings before or after the meter's log
  std::size_t in_gaps = 0;  ///< between values that lie more than three usual distances apart
  std::size_t moving = 0;   ///< while the meter moved, or before readings had settled
};

/// Returns for each reading the value of the meter at its moment, straight between the two values
/// about it, where these are at rest. Both logs by rising times, in one unit. An offset that is not
/// told is the one at which the two logs agree best, by the coefficient of Lin (1989); it is found
/// where that is 0.95 or more, and no other offset does as well. A drift is looked for with it,
/// where both halves of the readings move. Throws DataError for fewer than eight values, times that
/// do not rise, and logs that do not tell their offset.
Join join(const std::vector<Logged>& readings, const std::vector<Logged>& meter,
          const JoinRequest& request);

}  // namespace meter
}  // namespace tamlo
