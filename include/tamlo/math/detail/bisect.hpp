// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>

namespace tamlo::math {

/// Interval that a boundary lies in.
struct Bracket {
  double low = 0.0, high = 0.0;

  double middle() const { return (low + high) / 2.0; }
};

/// Returns the interval after so many halvings; `below(x)` is true on the side of `low`, which may
/// be the greater end.
template <class Below>
Bracket bisect(double low, double high, int halvings, Below below) {
  Bracket bracket{low, high};
  for (int i = 0; i < halvings; ++i) {
    const double middle = bracket.middle();
    (below(middle) ? bracket.low : bracket.high) = middle;
  }
  return bracket;
}

/// Returns the first whole number from `low` on that reaches(number), `high` if none below it does;
/// whatever is above one that reaches does as well.
template <class Reaches>
std::int64_t first_that(std::int64_t low, std::int64_t high, Reaches reaches) {
  while (low < high) {
    const auto middle = low + (high - low) / 2;
    if (reaches(middle)) {
      high = middle;
    } else {
      low = middle + 1;
    }
  }
  return low;
}

}  // namespace tamlo::math
