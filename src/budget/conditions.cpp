// SPDX-License-Identifier: Apache-2.0
#include "tamlo/budget/detail/conditions.hpp"
#include "tamlo/chain/chain.hpp"

namespace tamlo::budget {
namespace {

constexpr double year = 31557600.0;

double along(double low, double high, int i, int count) {
  return count > 1 ? low + (high - low) * i / (count - 1) : low;
}

UnderCondition worst_of(const model::Board& board, const std::string& channel, double condition,
                        double coverage) {
  const auto worst = worst_place(chain::build(board, channel), {.coverage = coverage});
  return {.condition = condition,
          .at = worst.at,
          .bias = worst.bias,
          .expanded = worst.expanded,
          .margin = worst.margin().value_or(0.0)};
}

}  // namespace

std::vector<UnderCondition> over_temperature(const model::Board& board, const std::string& channel,
                                             int count, double coverage) {
  std::vector<UnderCondition> result;
  const auto range = board.conditions.temperature;
  auto changed = board;
  for (int i = 0; i < count; ++i) {
    const double t = along(range.low, range.high, i, count);
    changed.conditions.temperature.low = changed.conditions.temperature.high = t;
    result.push_back(worst_of(changed, channel, t, coverage));
  }
  return result;
}

std::vector<UnderCondition> over_age(const model::Board& board, const std::string& channel,
                                     int count, double coverage) {
  std::vector<UnderCondition> result;
  const double most = board.conditions.age > 0.0 ? 2.0 * board.conditions.age : 10.0 * year;
  auto changed = board;
  for (int i = 0; i < count; ++i) {
    changed.conditions.age = along(0.0, most, i, count);
    result.push_back(worst_of(changed, channel, changed.conditions.age, coverage));
  }
  return result;
}

Budget over_span(const chain::Chain& chain, int count, Request request) {
  const auto& span = chain.channel.span;
  request.at.clear();
  for (int i = 0; i < count; ++i) request.at.push_back(along(span.low, span.high, i, count));
  return evaluate(chain, request);
}

std::vector<SpanPoint> along_span(const Budget& budget) {
  std::vector<SpanPoint> result;
  for (const auto& p : budget.points) {
    result.push_back({.at = p.at,
                      .error = p.error(),
                      .worst_case = p.worst_case.size(),
                      .zeroed = std::abs(p.adjusted_bias.zero) + p.adjusted.zero,
                      .two_point = std::abs(p.adjusted_bias.two_point) + p.adjusted.two_point,
                      .limit = p.limit});
  }
  return result;
}

}  // namespace tamlo::budget
