// SPDX-License-Identifier: Apache-2.0
#include "tamlo/quantity/value.hpp"

#include <algorithm>
#include <cmath>

namespace tamlo::quantity {

double Range::farthest(double from) const {
  return std::max(std::abs(low - from), std::abs(high - from));
}

}  // namespace tamlo::quantity
