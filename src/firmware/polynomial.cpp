// SPDX-License-Identifier: Apache-2.0
// A polynomial that follows a slight curve: two or three products in place of a table.
#include <algorithm>
#include <cmath>
#include <functional>
#include <numbers>

#include "tamlo/firmware/arithmetic.hpp"

namespace tamlo::firmware {
namespace {

// Coefficients of powers of z = x / width through the nodes of Chebyshev's polynomial, which leaves
// little more than the least possible error (Trefethen, 2013, chapter 4).
std::vector<double> through_nodes(const Wanted& wanted, int degree, double width) {
  const auto n = static_cast<std::size_t>(degree) + 1;
  std::vector<double> z(n), difference(n);
  const double range = static_cast<double>(wanted.last - wanted.first) / width;
  for (std::size_t i = 0; i < n; ++i) {
    const double node =
        std::cos(std::numbers::pi * (static_cast<double>(i) + 0.5) / static_cast<double>(n));
    const double place = (1.0 - node) / 2.0 * static_cast<double>(wanted.counts.size() - 1);
    const auto at = static_cast<std::size_t>(std::llround(place));
    z[i] = range * static_cast<double>(at) / static_cast<double>(wanted.counts.size() - 1);
    difference[i] = wanted.counts[at];
  }
  for (std::size_t k = 1; k < n; ++k) {  // Newton's divided differences
    for (std::size_t i = n - 1; i >= k; --i) {
      difference[i] = (difference[i] - difference[i - 1]) / (z[i] - z[i - k]);
    }
  }
  std::vector<double> powers(n, 0.0);  // of z, from Newton's form, the innermost bracket first
  for (std::size_t k = n; k-- > 0;) {
    for (std::size_t i = n - 1; i > 0; --i) powers[i] = powers[i - 1] - z[k] * powers[i];
    powers[0] = difference[k] - z[k] * powers[0];
  }
  return powers;
}

bool fits(const Arithmetic& arithmetic, std::int64_t stride = 1) {
  return arithmetic.widest(stride) < (std::int64_t{1} << 30);
}

// Moves c0 so that the error is as large to both sides.
void centre(Arithmetic& steps, const Wanted& wanted) {
  double low = 0.0, high = 0.0;
  for (std::size_t i = 0; i < wanted.counts.size(); ++i) {
    const auto number =
        std::min(wanted.first + static_cast<std::int64_t>(i) * wanted.stride, wanted.last);
    const double error = static_cast<double>(steps.evaluate(number)) - wanted.counts[i];
    low = i == 0 ? error : std::min(low, error);
    high = i == 0 ? error : std::max(high, error);
  }
  steps.coefficients.front() -= std::llround(std::ldexp((low + high) / 2.0, steps.shift));
}

}  // namespace

std::optional<Arithmetic> polynomial(const Wanted& wanted, double allowed) {
  if (wanted.counts.size() < 16) return {};
  int bits = 1;
  while ((std::int64_t{1} << bits) <= wanted.last - wanted.first) ++bits;
  if (bits > 24) return {};
  const double lowest = *std::ranges::min_element(wanted.counts);
  const bool turns = !std::ranges::is_sorted(wanted.counts) &&
                     !std::ranges::is_sorted(wanted.counts, std::greater<>{});
  for (int degree = 2; degree <= 4; ++degree) {
    const auto powers = through_nodes(wanted, degree, std::ldexp(1.0, bits));
    for (int shift = 12; shift >= 0; --shift) {
      Arithmetic made{.form = Form::polynomial,
                      .bits = 32,
                      .first = wanted.first,
                      .last = wanted.last,
                      .shift = shift,
                      .product_shift = bits};
      // What comes before the last shift is not negative.
      const double margin = std::ceil(allowed) + 2.0;
      made.base = lowest >= margin ? 0 : static_cast<std::int64_t>(std::floor(lowest - margin));
      for (const double c : powers) {
        made.coefficients.push_back(std::llround(std::ldexp(c, shift)));
      }
      made.coefficients.front() =
          std::llround(std::ldexp(powers.front() - static_cast<double>(made.base) + 0.5, shift));
      // Most that do not fit show it at a few places; all are looked at last.
      if (!fits(made, wanted.stride * 64)) continue;
      centre(made, wanted);
      const bool follows = worst(made, wanted).error <= allowed && (turns || wrong_step(made) == 0);
      if (!follows) break;  // fewer bits behind the point are no better
      if (fits(made)) return made;
    }
  }
  return {};
}

}  // namespace tamlo::firmware
