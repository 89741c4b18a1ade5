// SPDX-License-Identifier: Apache-2.0
#include "tamlo/quantity/detail/preferred.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "tamlo/math/detail/power_of_ten.hpp"

namespace tamlo::quantity {

std::vector<double> preferred_numbers(int count) {
  constexpr std::array e24{1.0, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2.0, 2.2, 2.4, 2.7, 3.0,
                           3.3, 3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8, 7.5, 8.2, 9.1};
  std::vector<double> result;
  if (count == 3 || count == 6 || count == 12 || count == 24) {
    for (std::size_t i = 0; i < e24.size(); i += 24 / static_cast<std::size_t>(count)) {
      result.push_back(e24.at(i));
    }
  } else if (count == 48 || count == 96 || count == 192) {
    for (int i = 0; i < count; ++i) {
      const double exact = std::round(100.0 * std::pow(10.0, static_cast<double>(i) / count));
      // The one that the standard has otherwise: 9.20 of 192.
      result.push_back((exact == 919.0 ? 920.0 : exact) / 100.0);
    }
  }
  return result;
}

std::vector<double> preferred_between(int count, double low, double high) {
  std::vector<double> result;
  if (!(low > 0.0) || !(high >= low) || !std::isfinite(high)) return result;
  const auto series = preferred_numbers(count);
  for (double decade = math::power_of_ten(math::decade_of(low) - 1); decade <= high;
       decade *= 10.0) {
    for (const double number : series) {
      const double value = number * decade;
      if (value >= low * (1.0 - 1e-9) && value <= high * (1.0 + 1e-9)) result.push_back(value);
    }
  }
  std::ranges::sort(result);
  const auto same = [](double a, double b) { return std::abs(a - b) <= 1e-9 * b; };
  result.erase(std::unique(result.begin(), result.end(), same), result.end());
  return result;
}

}  // namespace tamlo::quantity
