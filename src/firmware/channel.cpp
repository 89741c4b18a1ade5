// SPDX-License-Identifier: Apache-2.0
// A channel without integers of its own, one with those of a plan, and the budget of that.
#include <algorithm>
#include <cmath>

#include "tamlo/budget/budget.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/firmware/detail/planned.hpp"
#include "tamlo/firmware/plan.hpp"

namespace tamlo::firmware {

chain::Chain formula(chain::Chain chain) {
  auto& scaling = chain.channel.scaling;
  scaling.integer.reset();
  scaling.decimals.reset();
  scaling.sensor.reset();
  chain.path.believed.clear();  // new code computes with the sensor's own law
  chain.channel.average.truncated = false;
  return chain;
}

int code_bits(const Plan& plan) {
  const bool is_signed = plan.first_reported < 0;
  const auto largest = std::max(plan.last_reported, -(plan.first_reported + 1));
  const int bits = largest < (is_signed ? 128 : 256)       ? 8
                   : largest < (is_signed ? 32768 : 65536) ? 16
                                                           : 32;
  return is_signed ? -bits : bits;
}

namespace {

// Counts to a number, where it is most.
double steepest(const Arithmetic& arithmetic) {
  double result = 0.0;
  for (const auto& line : arithmetic.lines) {
    result = std::max(result,
                      std::ldexp(std::abs(static_cast<double>(line.multiply)), -arithmetic.shift));
  }
  if (arithmetic.form != Form::polynomial) return result;
  const auto width = std::max<std::int64_t>(1, (arithmetic.last - arithmetic.first) / 64);
  for (auto number = arithmetic.first; number + width <= arithmetic.last; number += width) {
    const auto rise = arithmetic.evaluate(number + width) - arithmetic.evaluate(number);
    result = std::max(result, std::abs(static_cast<double>(rise)) / static_cast<double>(width));
  }
  return result;
}

}  // namespace

model::Channel with_integers(model::Channel channel, const Plan& plan) {
  model::IntegerScaling integer{
      .steps = steps(plan.arithmetic),
      .bits = plan.arithmetic.widest() < (std::int64_t{1} << 31) ? 32 : 64,
      .is_signed = true,
      .count = plan.count,
      .per_code = plan.filter.per_code,
      .corrects = plan.corrected};
  integer.filter_rounding =
      plan.filter.rounding * plan.filter.per_code * plan.count * steepest(plan.arithmetic);
  channel.scaling.integer = std::move(integer);
  channel.scaling.taught.reset();
  channel.scaling.decimals.reset();
  channel.scaling.convention = {};
  channel.average.truncated = false;
  return channel;
}

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
