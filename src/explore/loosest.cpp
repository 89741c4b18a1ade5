// SPDX-License-Identifier: Apache-2.0
#include "tamlo/explore/explore.hpp"

#include <algorithm>
#include <cmath>

#include "figures.hpp"
#include "tamlo/error.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo::explore {

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
