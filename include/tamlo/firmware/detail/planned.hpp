// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "tamlo/chain/chain.hpp"
#include "tamlo/export.hpp"
#include "tamlo/firmware/c_code.hpp"
#include "tamlo/firmware/plan.hpp"
#include "tamlo/model/board.hpp"

/// The integers of a channel beside its budget.
namespace tamlo {
namespace firmware TAMLO_API {

/// The integers of one channel, and what its budget says with them.
struct ChannelFirmware {
  Plan plan{};
  int float_operations = 0;  ///< of the plain formula, a logarithm or power as 100
  std::optional<bool> target_met{};
  double error = 0.0;             ///< SI: |bias| and expanded uncertainty at the worst place
  std::optional<double> limit{};  ///< SI: that the target sets there
  std::vector<std::string> files{};
  std::optional<UnitData> unit{};  ///< where a unit's correction was given
};
/// Plans the integers of a channel and evaluates its budget with them; `chain` is the channel's as
/// the board has it. Throws as plan() does.
ChannelFirmware plan_with_budget(const model::Board& board, const chain::Chain& chain,
                                 const PlanRequest& request);

}  // namespace firmware
}  // namespace tamlo
