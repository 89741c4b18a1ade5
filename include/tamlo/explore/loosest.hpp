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

/// The largest factor of the limits with which every channel meets its targets and check finds no
/// error, by bisection: larger limits make no reading surer. `board` gives the board with the
/// limits times a factor.
Loosest loosest(const std::function<model::Board(double)>& board,
                const std::vector<std::string>& channels);

}  // namespace explore
}  // namespace tamlo
