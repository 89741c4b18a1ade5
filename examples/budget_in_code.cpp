// SPDX-License-Identifier: Apache-2.0
// How wrong can a reading be? The budget of the one channel of a board that is described in C++.
// Links tamlo::core only: no file is read.
#include <fmt/format.h>

#include "boards.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/chain/chain.hpp"

int main() {
  using namespace tamlo;
  const auto budget =
      budget::evaluate(chain::build(throttle_board(), "throttle"), {.at = {1.5, 3.0}});
  for (const auto& point : budget.points) {
    fmt::print("at {:.1f} V: ±{:.1f} mV, of which {} makes {:.0f} %\n", point.at,
               1e3 * point.expanded, budget.sources[by_share(point).front()].name,
               100.0 * point.contributions[by_share(point).front()].share);
  }
  fmt::print("target {}\n", budget.target_met() ? "met" : "missed");
}
