// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <span>
#include <vector>

#include "tamlo/export.hpp"

/// The answer to a step (IEC 60748-4-3; IEEE 181 for the terms of a transition).
namespace tamlo {
namespace signal TAMLO_API {

/// Times are in samples, between samples by the straight line.
struct StepFigures {
  double before = 0.0, after = 0.0;  ///< levels: medians of what lies before and of the last part
  double noise = 0.0;                ///< standard deviation before the step
  double step_at = 0.0;              ///< the moment all times below count from
  double delay = 0.0;                ///< to half the height
  double rise = 0.0;                 ///< from 10 % to 90 % of the height
  double overshoot = 0.0;            ///< part of the height; 0 where noise hides it
  /// When it stays within a band for good.
  struct Settling {
    double band = 0.0;             ///< part of the height
    std::optional<double> time{};  ///< for good; none where the record or its noise cannot tell
  };
  std::vector<Settling> settling{};
};

/// Returns the figures of a record with one step in it, up or down. `begins` is the sample at which
/// the input changed; without one it is where the values leave the level before. Throws DataError
/// for a record of less than 16 samples, or without a step that stands out of its noise.
StepFigures step(std::span<const double> values, std::optional<double> step_at,
                 std::span<const double> bands);

}  // namespace signal
}  // namespace tamlo
