// SPDX-License-Identifier: Apache-2.0
#include "tamlo/quantity/value.hpp"

#include <algorithm>
#include <cmath>

namespace tamlo::quantity {

double Range::farthest(double from) const {
  return std::max(std::abs(low - from), std::abs(high - from));
}

double size_at(const Limit& limit, const Range& span, double at) {
  if (limit.basis == Basis::relative) return limit.size * std::abs(at - span.unit.offset);
  return limit.basis == Basis::span ? limit.size * span.width() : limit.size;
}

}  // namespace tamlo::quantity
