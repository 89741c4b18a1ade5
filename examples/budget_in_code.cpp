// SPDX-License-Identifier: Apache-2.0
// A board described in C++ instead of a file, and the budget of its one channel. Links tamlo::core
// only: no file is read.
#include <fmt/format.h>

#include "tamlo/budget/budget.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/quantity/notation.hpp"

int main() {
  using namespace tamlo;
  using quantity::Basis;

  const auto value = [](const char* text, const char* unit) {
    return quantity::parse_value(
        text, {.unit = quantity::unit(unit),
               .bases = {Basis::absolute, Basis::relative, Basis::code, Basis::span}});
  };
  model::Board board;
  board.references.push_back({.name = "supply", .voltage = value("3.3 V ±2 %", "V"), .noise = {}});
  board.converters.push_back({.name = "small",
                              .resolution = 10,
                              .reference = "supply",
                              .offset = value("±2 LSB", "V"),
                              .gain = value("±2 LSB", "V"),
                              .inl = value("±2 LSB", "V")});
  model::Channel throttle{.name = "throttle", .measures = "throttle voltage"};
  throttle.span = quantity::parse_range("0..3 V", {.unit = quantity::unit("V")});
  throttle.converter = "small";
  throttle.target.accuracy = value("±1 % of span", "V").limits.front();
  board.channels.push_back(throttle);

  const auto budget = budget::evaluate(chain::build(board, "throttle"), {.at = {1.5, 3.0}});
  for (const auto& point : budget.points) {
    fmt::print("at {:.1f} V: ±{:.1f} mV, of which {} makes {:.0f} %\n", point.at,
               1e3 * point.expanded, budget.sources[by_share(point).front()].name,
               100.0 * point.contributions[by_share(point).front()].share);
  }
  fmt::print("target {}\n", budget.target_met() ? "met" : "missed");
}
