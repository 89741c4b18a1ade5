// SPDX-License-Identifier: Apache-2.0
#include "tamlo/firmware/detail/planned.hpp"

#include <algorithm>

#include "tamlo/budget/budget.hpp"

namespace tamlo::firmware {

ChannelFirmware plan_with_budget(const model::Board& board, const chain::Chain& chain,
                                 const PlanRequest& request) {
  const auto& channel = chain.channel.name;
  ChannelFirmware result{.plan = plan(chain, request)};
  // A multiplication and an addition; a curve takes a logarithm or a power besides.
  result.float_operations = result.plan.arithmetic.form == Form::straight ? 2 : 104;
  auto changed = board;
  auto& own = *std::ranges::find(changed.channels, channel, &model::Channel::name);
  own = with_integers(own, result.plan);
  const auto budget = budget::evaluate(chain::build(changed, channel), {.details = false});
  const auto& worst = budget.worst_place;
  if (worst.limit) result.target_met = budget.target_met();
  result.error = worst.error();
  result.limit = worst.limit;
  return result;
}

}  // namespace tamlo::firmware
