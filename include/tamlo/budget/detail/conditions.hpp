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

/// A channel's budget as its conditions change. Each figure is of a chain that was built anew.
namespace tamlo {
namespace budget TAMLO_API {

/// The worst place of the span under one condition.
struct UnderCondition {
  double condition = 0.0;  ///< K or s
  double at = 0.0;         ///< the place
  double bias = 0.0;
  double expanded = 0.0;
  double margin = 0.0;  ///< what the target leaves there; 0 without one
};

/// At `count` temperatures over what the board must cover, each held (drift from `specified_at`).
std::vector<UnderCondition> over_temperature(const model::Board& board, const std::string& channel,
                                             int count, double coverage = 0.95);
/// At `count` ages from new to twice what the board must cover; to ten years where it says none.
std::vector<UnderCondition> over_age(const model::Board& board, const std::string& channel,
                                     int count, double coverage = 0.95);

/// The budget at `count` points over the span, ends included, in place of those of the request.
Budget over_span(const chain::Chain& chain, int count, Request request = {});

/// Error that a reading may have at one place, as built and adjusted; SI.
struct SpanPoint {
  double at = 0.0;
  double error = 0.0;
  double worst_case = 0.0;               ///< the larger of both worst
  double zeroed = 0.0, two_point = 0.0;  ///< after ideal adjustments
  std::optional<double> limit{};         ///< that the target allows
};
std::vector<SpanPoint> along_span(const Budget& budget);

}  // namespace budget
}  // namespace tamlo
