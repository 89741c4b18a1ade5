// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "tamlo/budget/budget.hpp"
#include "tamlo/export.hpp"

namespace tamlo::model {
struct Board;
}  // namespace tamlo::model

/// Suggestions of what to change first. Every figure is computed on a changed chain; none is a rule
/// of thumb.
namespace tamlo {
namespace budget TAMLO_API {

/// One of the leading sources: how small it would have to become, all else as it is.
struct Shrink {
  std::string source{};
  double share = 0.0;
  /// Part of its limit at which the target is just met at the worst place; none if not even its
  /// absence suffices. 1 or more where the target is met already.
  std::optional<double> part{};
};

/// A change of the board or of the firmware.
struct Lever {
  std::string change{};  ///< as one would write it: "average = 64"
  double at = 0.0;       ///< worst place of the changed channel
  double error = 0.0;    ///< |bias| + expanded uncertainty there
  std::optional<double> limit{};
  bool suffices = false;  ///< the target is met over the whole span
  double latency = 0.0;   ///< s, of the changed channel; 0: unknown
  double latency_before = 0.0;
};

/// Changes that reduce the error of a channel most, each with its effect.
struct Advice {
  std::vector<Shrink> shrinks{};  ///< the three leading sources
  std::vector<Lever> levers{};    ///< those that help, the best first
  /// False where one reading takes so many conversions that no change was run.
  bool tried = true;
};

/// Levers tried: a zero and a two-point adjustment, every other attenuation and gain, sixteen times
/// the averaging, a ratiometric supply of the sensor. Kept is what makes the worst place better by
/// more than a hundredth.
Advice advise(const model::Board& board, const std::string& channel, double coverage = 0.95);

}  // namespace budget
}  // namespace tamlo
