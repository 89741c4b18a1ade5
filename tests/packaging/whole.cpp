// SPDX-License-Identifier: Apache-2.0
// A board in a text, its budget, and that as JSON: io, the core and result through the shared
// library alone, without the headers of any other.
#include <cstdio>

#include "tamlo/budget/budget.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/result/results.hpp"

int main() {
  const auto board = tamlo::io::load_board_text(R"(
format = 1
[reference.supply]
voltage = "3.3 V ±2 %"
[converter.main]
resolution = "10 bit"
reference = "supply"
[channel.battery]
span = "0..14 V"
converter = "main"
frontend = [ { divider = { top = "47 kohm ±1 %", bottom = "10 kohm ±1 %" } } ]
)");
  // What is thrown on that side is caught on this one.
  try {
    tamlo::io::load_board_text("format = 2", "typed");
  } catch (const tamlo::io::BadInput& error) {
    std::printf("%s\n", error.what());
  }
  const auto check = tamlo::check::examine(board, {"battery"});
  std::printf("%s", tamlo::result::write(check, tamlo::result::Format::json).c_str());
  const auto budget =
      tamlo::budget::evaluate(tamlo::chain::build(board, "battery"), {.at = {12.0}});
  std::printf("expanded %.3f V\n", budget.points.front().expanded);
}
