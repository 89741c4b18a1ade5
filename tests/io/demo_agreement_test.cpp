// SPDX-License-Identifier: Apache-2.0
// On the demo board: the closed form, the trials, and virtual units that convert one sample after
// another agree wherever the check of JCGM 101 passes, and elsewhere the tool says so.
#include <gtest/gtest.h>

#include <cmath>

#include "boards.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/simulate/unit.hpp"
#include "tool/process.hpp"

namespace tamlo::testing {
namespace {

// Standard deviation of the error of many units, each somewhere within a code of `x`.
double deviation_of_units(const chain::Chain& chain, double x, int units) {
  const double step = chain::code_width_at(chain, x);
  double sum = 0.0, squares = 0.0;
  for (int i = 0; i < units; ++i) {
    const auto number = static_cast<std::uint64_t>(i);
    const double place = x + step * (math::RandomStream(50, number).uniform() - 0.5);
    math::RandomStream noise(51, number);
    const double error =
        simulate::read(chain, chain, simulate::draw(chain, 52, number), place, noise) - place;
    sum += error;
    squares += error * error;
  }
  return std::sqrt(squares / units - sum * sum / units / units);
}

TEST(DemoBoard, ClosedFormTrialsAndVirtualUnitsAgree) {
  const auto board = io::load_board({demo("board.toml")});
  int valid = 0;
  for (const auto& channel : board.channels) {
    const auto chain = chain::build(board, channel.name);
    const double x = 0.7 * channel.span.high;
    const auto budget = budget::evaluate(
        chain, {.at = {x}, .trials = budget::TrialsRequest{.seed = 9, .count = 400'000 / fewer}});
    const auto& point = budget.points.front();
    if (!point.trials->closed_form_valid) {
      const auto said =
          tamlo({"budget", demo("board.toml"), channel.name, "--trials", "400000", "--seed", "9",
                 "--at", std::to_string(x) + " " + channel.span.unit.symbol});
      EXPECT_NE(said.output.find("differs"), std::string::npos) << said.output;
      continue;
    }
    ++valid;
    const double within = 0.01 * std::sqrt(static_cast<double>(fewer));
    EXPECT_NEAR(point.trials->of.combined / point.combined, 1.0, within) << channel.name;
    EXPECT_NEAR(deviation_of_units(chain, x, 40000 / fewer) / point.combined, 1.0, within)
        << channel.name;
  }
  EXPECT_GE(valid, 2);
}

}  // namespace
}  // namespace tamlo::testing
