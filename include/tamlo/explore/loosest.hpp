// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "tamlo/export.hpp"

namespace tamlo::model {
struct Board;
}  // namespace tamlo::model

namespace tamlo {
namespace explore TAMLO_API {

/// By how much tolerances may grow together.
struct Loosest {
  bool meets = false;      ///< all targets are met at some factor from 1/1024 to 1024
  bool unlimited = false;  ///< at 1024 too: the targets do not depend on them
  double factor = 0.0;     ///< the largest that meets them, to 0.1 %
  double error = 0.0;      ///< the largest part of what a target allows, there
};

/// Returns the largest factor, 1/1024 to 1024 and to 0.1 %, by which tolerances may grow while
/// every channel meets its targets and check finds no error. By bisection: larger limits make no
/// reading surer. `board` gives the board with the limits times a factor; what it throws passes
/// through.
Loosest loosest(const std::function<model::Board(double)>& board,
                const std::vector<std::string>& channels);

}  // namespace explore
}  // namespace tamlo
