// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/firmware/c_code.hpp"
#include "tamlo/firmware/plan.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo {
namespace firmware TAMLO_API {

/// Code of a quantity that is computed from the readings of several channels, with its bound.
struct QuantityPlan {
  std::string quantity{};
  std::string identifier{};  ///< its name, as C takes it
  std::string expression{};
  quantity::Unit unit{};
  std::vector<std::string> channels{};  ///< whose readings it takes, in this order
  double bound = 0.0;                   ///< SI: the largest error of the arithmetic
  int operations = 0;                   ///< in floating point
  std::string source{};                 ///< the lines of the function, and what it calls
  bool calls_library = false;           ///< for a root
};

/// Returns the code of a quantity from the plans of its channels: single precision (IEEE 754), in
/// its unit, from readings in counts. `bound` holds while every reading lies in the span of its
/// channel: each operation is given half a unit of its last place, by interval arithmetic (N. J.
/// Higham, Accuracy and Stability of Numerical Algorithms, 2002, 2.2). Formulas have + - * / ^ with
/// whole exponents to 8, brackets, abs, sqrt, min and max. Throws FirmwareError for any other,
/// for a channel without a plan, and for a divisor or a root that may come to nothing or below.
QuantityPlan plan(const model::Board& board, const model::Quantity& quantity,
                  const std::vector<Plan>& plans);

/// Returns NAME.h and NAME.c with `float NAME_value(int32_t READING, ...)`.
CodeFiles c_code(const QuantityPlan& plan, const CodeOptions& options);

}  // namespace firmware
}  // namespace tamlo
