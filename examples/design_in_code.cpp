// SPDX-License-Identifier: Apache-2.0
// Which reference and which average meet the target at the least price? Then the firmware's
// integers for that design, with their proven bound.
#include <fmt/format.h>

#include "boards.hpp"
#include "tamlo/tamlo.hpp"

int main() {
  using namespace tamlo;
  const char* const references[] = {"3.3 V ±2 %", "3.3 V ±0.5 %", "3.3 V ±0.1 %"};
  const int averages[] = {1, 16};
  const explore::Space space{.choices = {{.name = "reference",
                                          .keys = {"reference.supply.voltage"},
                                          .options = {{.label = "supply", .amounts = {0.0}},
                                                      {.label = "shunt", .amounts = {0.3}},
                                                      {.label = "precise", .amounts = {1.1}}}},
                                         {.name = "average",
                                          .keys = {"channel.throttle.average"},
                                          .options = {{.label = "1", .amounts = {0.0}},
                                                      {.label = "16", .amounts = {0.0}}}}},
                             .amounts = {{.name = "price"}},
                             .goals = {"price", "error"},
                             .channels = {"throttle"}};
  const auto board_of = [&](const explore::Pick& pick) {
    auto board = throttle_board();
    if (pick[0]) board.references.front().voltage = quantity::volts(references[*pick[0]]);
    if (pick[1]) board.channels.front().average.count = averages[*pick[1]];
    return board;
  };
  const auto found = explore::explore(space, board_of);
  for (const auto& candidate : found.front) {
    fmt::print("{} reference, average of {}: price {:.2f}, uses {:.0f} % of its target\n",
               space.choices[0].options[candidate.pick[0]].label, averages[candidate.pick[1]],
               candidate.amounts[0], 100.0 * candidate.error);
  }
  if (found.front.empty()) return 1;
  const auto& best = found.front.front().pick;
  const auto chain = chain::build(board_of({best[0], best[1]}), "throttle");
  const auto plan = firmware::plan(chain, {.count = 1e-3});
  fmt::print("{}; at most {:.2f} mV off\n", firmware::in_words(plan.arithmetic), 1e3 * plan.bound);
  const auto files = firmware::c_code(plan, {.measures = chain.channel.measures});
  fmt::print("throttle.h of {} lines\n", std::ranges::count(files.header, '\n'));
}
