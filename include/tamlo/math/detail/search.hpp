// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <algorithm>
#include <cstdint>
#include <utility>

#include "tamlo/export.hpp"

namespace tamlo {
namespace math TAMLO_API {

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

/// The place of the largest value of `f` between `low` and `high`, of those looked at: after n
/// rounds within a part 0.618^n of the stretch, where `f` has one maximum there.
template <class F>
std::pair<double, double> golden_section(F f, double low, double high, int rounds) {
  constexpr double ratio = 0.6180339887498949;  // (sqrt 5 - 1) / 2
  double a = high - ratio * (high - low), b = low + ratio * (high - low);
  double of_a = f(a), of_b = f(b);
  std::pair<double, double> best = of_a < of_b ? std::pair{b, of_b} : std::pair{a, of_a};
  for (int i = 0; i < rounds; ++i) {
    // One of the two inner places stays, and is the other's neighbour in the next round.
    if (of_a < of_b) {
      low = std::exchange(a, b);
      of_a = of_b;
      b = low + ratio * (high - low);
      of_b = f(b);
      if (of_b > best.second) best = {b, of_b};
    } else {
      high = std::exchange(b, a);
      of_b = of_a;
      a = high - ratio * (high - low);
      of_a = f(a);
      if (of_a > best.second) best = {a, of_a};
    }
  }
  return best;
}

/// The place of the largest value of `f` from `low` to `high`: of a grid of so many cells, then by
/// golden section about its best, where that finds a larger one by more than rounding.
template <class F>
double highest(F f, double low, double high, int cells, int rounds) {
  const auto place = [&](int i) { return i == cells ? high : low + (high - low) * i / cells; };
  int best = 0;
  double most = f(low);
  for (int i = 1; i <= cells; ++i) {
    const double value = f(place(i));
    if (!(value > most)) continue;
    most = value;
    best = i;
  }
  const auto [found, value] =
      golden_section(f, place(std::max(0, best - 1)), place(std::min(cells, best + 1)), rounds);
  return value > most * (1.0 + 1e-9) ? found : place(best);
}

}  // namespace math
}  // namespace tamlo
