// SPDX-License-Identifier: Apache-2.0
#include "tamlo/quantity/value.hpp"

#include <algorithm>
#include <cmath>

#include "tamlo/names.hpp"
#include "tamlo/quantity/detail/limit.hpp"

namespace tamlo::quantity {

double Range::farthest(double from) const {
  return std::max(std::abs(low - from), std::abs(high - from));
}

double size_at(const Limit& limit, const Range& span, double at) {
  if (limit.basis == Basis::relative) return limit.size * std::abs(at - span.unit.offset);
  return limit.basis == Basis::span ? limit.size * span.width() : limit.size;
}

double drifted(const Limit& limit, double size, double kelvin, double seconds) {
  switch (limit.drift) {
    case Drift::none:
      return size;
    case Drift::temperature:
      return size * (limit.box > 0.0 ? limit.box : kelvin) / limit.per;
    case Drift::time:
      return size * seconds / limit.per;
  }
  return size;
}

double standard_uncertainty(double size, Distribution distribution, double coverage_factor) {
  switch (distribution) {
    case Distribution::uniform:
      return size / std::sqrt(3.0);
    case Distribution::triangular:
      return size / std::sqrt(6.0);
    case Distribution::arcsine:
      return size / std::sqrt(2.0);
    case Distribution::normal:
      return size / coverage_factor;
  }
  return size;
}

std::string_view name(Distribution distribution) {
  return name_in({"uniform", "normal", "triangular", "arcsine"}, distribution);
}

}  // namespace tamlo::quantity
