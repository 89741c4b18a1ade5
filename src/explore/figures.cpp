// SPDX-License-Identifier: Apache-2.0
#include "figures.hpp"

#include <algorithm>
#include <cmath>

#include "tamlo/budget/budget.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/check/check.hpp"
#include "tamlo/error.hpp"

namespace tamlo::explore {

std::string_view name(Adjustment adjustment) {
  switch (adjustment) {
    case Adjustment::none:
      return "none";
    case Adjustment::zero:
      return "zero";
    case Adjustment::two_point:
      return "two-point";
  }
  return "";
}

namespace {

// What a point uses up of what it is allowed.
double used(const budget::Point& point, Adjustment adjustment) {
  if (!point.limit) return 0.0;
  double bias = point.bias, expanded = point.expanded;
  if (adjustment == Adjustment::zero) {
    bias = point.adjusted_bias.zero, expanded = point.adjusted.zero;
  } else if (adjustment == Adjustment::two_point) {
    bias = point.adjusted_bias.two_point, expanded = point.adjusted.two_point;
  }
  return (std::abs(bias) + expanded) / *point.limit;
}

}  // namespace

std::vector<double> adjusted_places(const quantity::Range& span) {
  std::vector<double> places;
  for (const double part : {0.02, 0.26, 0.5, 0.74, 0.98})
    places.push_back(std::lerp(span.low, span.high, part));
  return places;
}

AdjustedFigures figures_of(const model::Board& board, const std::string& channel) {
  AdjustedFigures result{};
  try {
    const auto chain = chain::build(board, channel);
    if (check::has_error(board, chain)) return result;
    const auto budget = budget::evaluate(chain, {.at = adjusted_places(chain.channel.span)});
    const auto dynamics = chain::dynamics(chain);
    const auto& target = chain.channel.target;
    for (const auto adjustment : {Adjustment::none, Adjustment::zero, Adjustment::two_point}) {
      auto& of = result.at(static_cast<std::size_t>(adjustment));
      of = {.sound = true, .meets = true, .latency = dynamics.latency};
      const bool as_built = adjustment == Adjustment::none;
      of.error = as_built ? used(budget.worst_place, adjustment) : 0.0;
      bool overflows = budget.worst_place.overflows();
      double noise_free = budget.worst_place.resolution.noise_free;
      for (const auto& point : budget.points) {
        if (!as_built) of.error = std::max(of.error, used(point, adjustment));
        overflows = overflows || point.overflows();
        noise_free = std::min(noise_free, point.resolution.noise_free);
      }
      of.meets = !overflows && std::isfinite(of.error) && of.error <= 1.0 &&
                 !(target.noise_free && noise_free < *target.noise_free) &&
                 !(target.latency && !(dynamics.latency <= *target.latency));
      of.sound = std::isfinite(of.error) && std::isfinite(of.latency);
    }
  } catch (const Error&) {
    return {};
  }
  return result;
}

}  // namespace tamlo::explore
