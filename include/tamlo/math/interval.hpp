// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>

#include "tamlo/export.hpp"

namespace tamlo {
namespace math TAMLO_API {

/// Interval from `low` to `high`.
struct Interval {
  double low = 0.0, high = 0.0;

  /// From end to end.
  double width() const { return high - low; }
  bool operator==(const Interval&) const = default;
  /// The end that lies further from 0, without its sign.
  double size() const { return high > -low ? high : -low; }
};

/// Two of several that go together, by their places.
struct Correlation {
  std::size_t first = 0, second = 0;
  double coefficient = 0.0;
};

}  // namespace math
}  // namespace tamlo
