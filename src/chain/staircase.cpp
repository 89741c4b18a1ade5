// SPDX-License-Identifier: Apache-2.0
// The steps in which a reading moves, where the firmware's own are coarser than the codes.
#include <algorithm>
#include <cmath>
#include <limits>
#include <optional>

#include "tamlo/chain/chain.hpp"

namespace tamlo::chain {
namespace {

// Register values that nominally read the same, and what the readings on either side are off by.
struct Plateau {
  std::int64_t from = 0, to = 0;
  std::optional<double> below{}, above{};
};

Plateau plateau_at(const Chain& chain, double x) {
  const auto code_here = register_value(chain, code(chain, x, chain.nominal));
  const double shown = reading(chain, static_cast<double>(code_here));
  // The last value that way which reads the same, by steps that double and then halve.
  const auto same_until = [&](std::int64_t sign, std::int64_t end) {
    std::int64_t same = code_here, stride = 1;
    while (stride > 0) {
      const auto next = same + sign * stride;
      const bool inside = sign > 0 ? next <= end : next >= end;
      if (inside && reading(chain, static_cast<double>(next)) == shown) {
        same = next;
        stride *= 2;
      } else {
        stride /= 2;
      }
    }
    return same;
  };
  const auto& report = chain.report;
  Plateau result{.from = same_until(-1, report.first_reported),
                 .to = same_until(1, report.last_reported)};
  const auto step = [&](std::int64_t value) {
    return std::abs(reading(chain, static_cast<double>(value)) - shown);
  };
  if (result.from > report.first_reported) result.below = step(result.from - 1);
  if (result.to < report.last_reported) result.above = step(result.to + 1);
  return result;
}

bool coarser_than_codes(const Chain& chain) {
  return chain.channel.scaling.integer || chain.channel.scaling.decimals;
}

}  // namespace

double step_at(const Chain& chain, double x) {
  if (!coarser_than_codes(chain)) return chain.report.step * code_width_at(chain, x);
  const auto plateau = plateau_at(chain, x);
  return std::max(plateau.below.value_or(0.0), plateau.above.value_or(0.0));
}

double plateau_width_at(const Chain& chain, double x) {
  if (!coarser_than_codes(chain)) return step_at(chain, x);
  const auto plateau = plateau_at(chain, x);
  if (!plateau.below || !plateau.above) return std::numeric_limits<double>::infinity();
  const auto low = codes_reported_as(chain.report, plateau.from).first;
  const auto high = codes_reported_as(chain.report, plateau.to).last;
  return std::abs(quantity_at(chain, static_cast<double>(high) + 0.5) -
                  quantity_at(chain, static_cast<double>(low) - 0.5));
}

}  // namespace tamlo::chain
