// SPDX-License-Identifier: Apache-2.0
#include "tables.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "tamlo/budget/budget.hpp"
#include "tamlo/budget/quantity_budget.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/check/check.hpp"
#include "tamlo/error.hpp"
#include "tamlo/explore/explore.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/names.hpp"

namespace tamlo::explore {

std::string_view name(Adjustment adjustment) {
  return name_in({"none", "zero", "two-point", "calibrated"}, adjustment);
}

namespace {

// What a point uses up of what it is allowed.
double used(const budget::Point& point, Adjustment adjustment) {
  if (!point.limit) return 0.0;
  // What an adjustment leaves of a worst case is not known: it is given no credit.
  if (adjustment == Adjustment::none || model::takes_worst_case(point.by))
    return point.error() / *point.limit;
  double bias = point.bias, expanded = point.expanded;
  if (adjustment == Adjustment::zero) {
    bias = point.adjusted_bias.zero, expanded = point.adjusted.zero;
  } else if (adjustment == Adjustment::two_point) {
    bias = point.adjusted_bias.two_point, expanded = point.adjusted.two_point;
  } else if (adjustment == Adjustment::calibrated) {
    bias = point.calibrated.value().bias, expanded = point.calibrated.value().expanded;
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

void Figures::pack(std::vector<double>& into) const {
  double met = 0.0;
  for (std::size_t i = 0; i < adjustments; ++i) met += meets[i] ? std::ldexp(1.0, int(i)) : 0.0;
  into.insert(into.end(), {static_cast<double>(state), latency, noise_free, met});
  into.insert(into.end(), error.begin(), error.end());
}

Figures Figures::unpack(const double* from) {
  Figures result{.state = static_cast<State>(from[0]), .latency = from[1], .noise_free = from[2]};
  const auto met = static_cast<unsigned>(from[3]);
  for (std::size_t i = 0; i < adjustments; ++i) {
    result.meets[i] = (met >> i & 1U) != 0;
    result.error[i] = from[4 + i];
  }
  return result;
}

namespace {

Figures figures_of(const model::Board& board, const model::Quantity& quantity) {
  const Figures unsound{.state = Figures::State::not_sound};
  Figures result{.state = Figures::State::sound};
  std::vector<chain::Chain> chains;
  for (const auto& name : model::channels_of(board, quantity)) {
    const auto& chain = chains.emplace_back(chain::build(board, name));
    if (check::has_error(board, chain)) return unsound;
    result.latency = std::max(result.latency, chain::dynamics(chain).latency);
  }
  const auto budget = budget::evaluate(quantity, chains);
  const auto& worst = budget.worst();
  const double error = worst.limit ? worst.error() / *worst.limit : 0.0;
  if (!std::isfinite(error) || !std::isfinite(result.latency)) return unsound;
  result.error.fill(error);
  result.meets.fill(error <= 1.0);
  return result;
}

}  // namespace

const model::Target& target_of(const model::Board& board, const std::string& name) {
  const auto* channel = model::find(board.channels, name);
  const auto* quantity = model::find(board.quantities, name);
  require(channel != nullptr || quantity != nullptr, "a channel or a quantity of the board");
  return channel != nullptr ? channel->target : quantity->target;
}

namespace {

constexpr std::array every_adjustment{Adjustment::none, Adjustment::zero, Adjustment::two_point,
                                      Adjustment::calibrated};

// The places of the span, for what no single reading has to say of an error: without an adjustment
// no error there is asked for.
std::vector<budget::Point> adjusted_points(const chain::Chain& chain, bool adjustable) {
  budget::Request request{
      .at = adjusted_places(chain.channel.span), .search = false, .calibrated = adjustable};
  if (!adjustable) request.rough_units = 2, request.check_units = 0, request.details = false;
  return budget::evaluate(chain, request).points;
}

}  // namespace

Figures figures_of(const model::Board& board, const std::string& channel, bool adjustable) {
  const Figures unsound{.state = Figures::State::not_sound};
  try {
    if (const auto* quantity = model::find(board.quantities, channel))
      return figures_of(board, *quantity);
    const auto chain = chain::build(board, channel);
    if (check::has_error(board, chain)) return unsound;
    const auto worst = budget::worst_place(chain);
    const auto& target = chain.channel.target;
    Figures result{.state = Figures::State::sound,
                   .latency = chain::dynamics(chain).latency,
                   .noise_free = worst.resolution.noise_free};
    bool overflows = worst.overflows();
    for (const auto& point : adjusted_points(chain, adjustable)) {
      overflows = overflows || point.overflows();
      result.noise_free = std::min(result.noise_free, point.resolution.noise_free);
      for (std::size_t i = 1; adjustable && i < every_adjustment.size(); ++i)
        result.error[i] = std::max(result.error[i], used(point, every_adjustment[i]));
    }
    result.error.front() = used(worst, Adjustment::none);
    const bool in_time = !target.latency || result.latency <= *target.latency;
    const bool steady = !target.noise_free || !(result.noise_free < *target.noise_free);
    for (std::size_t i = 0; i < every_adjustment.size(); ++i) {
      if (!std::isfinite(result.error[i]) || !std::isfinite(result.latency)) return unsound;
      result.meets[i] = !overflows && result.error[i] <= 1.0 && in_time && steady;
    }
    return result;
  } catch (const Error&) {
    return unsound;
  }
}

Figures figures_of(const Space& space, const BoardOf& board, const Pick& pick,
                   const std::string& channel) {
  const bool adjustable =
      std::ranges::any_of(space.choices, [](const Choice& one) { return one.keys.empty(); });
  try {
    return figures_of(board(pick), channel, adjustable);
  } catch (const Error&) {
    return {.state = Figures::State::not_sound};
  }
}

Loosest loosest(const std::function<model::Board(double)>& board,
                const std::vector<std::string>& channels) {
  double error = 0.0;
  const auto meets = [&](double power) {
    error = 0.0;
    try {
      const auto with = board(std::exp2(power));
      return std::ranges::all_of(channels, [&](const std::string& channel) {
        const auto figures = figures_of(with, channel);
        error = std::max(error, figures.error.front());
        return figures.meets.front();
      });
    } catch (const Error&) {
      return false;  // no such part: a limit of more than the value
    }
  };
  constexpr double least = -10.0, most = 10.0;
  if (!meets(least)) return {.error = error};
  if (meets(most))
    return {.meets = true, .unlimited = true, .factor = std::exp2(most), .error = error};
  double low = least, high = most;
  while (high - low > 1e-3) {
    const double middle = (low + high) / 2.0;
    (meets(middle) ? low : high) = middle;
  }
  meets(low);
  return {.meets = true, .factor = std::exp2(low), .error = error};
}

}  // namespace tamlo::explore
