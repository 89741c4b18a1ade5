// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/units.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "decision.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/math/random.hpp"
#include "tamlo/quantity/format.hpp"

namespace tamlo::meter {
namespace {

constexpr int drawn = 20000;
constexpr std::uint64_t seed = 1;

Spread spread_of(const std::vector<double>& values, double predicted, double coverage) {
  const auto n = static_cast<int>(values.size());
  Spread result{.predicted = predicted};
  for (const double v : values) result.mean += v / n;
  double squares = 0.0;
  for (const double v : values) squares += squared(v - result.mean);
  const int dof = n - 1;
  result.deviation = std::sqrt(squares / dof);
  const double tail = (1.0 - coverage) / 2.0;
  const auto interval = math::deviation_interval(result.deviation, dof, coverage);
  result.low = interval.low;
  result.high = interval.high;
  const double half = math::tolerance_factor(n, coverage, coverage) * result.deviation;
  result.tolerance_low = result.mean - half;
  result.tolerance_high = result.mean + half;
  // About the nominal, not about their own mean: a common shift is outside the limits as well.
  const double about = squares + n * squared(result.mean);
  const double chi = about / squared(predicted);
  if (math::chi_squared_survival(chi, n) < tail) result.differs = 1;
  if (1.0 - math::chi_squared_survival(chi, n) < tail) result.differs = -1;
  return result;
}

// What is left of a unit's straight error at a place after each adjustment.
struct Place {
  double x = 0.0, noise = 0.0, limit = 0.0;
};

bool meets(const std::vector<Place>& places, double offset, double gain) {
  return std::ranges::all_of(
      places, [&](const Place& p) { return std::abs(offset + gain * p.x) + p.noise <= p.limit; });
}

}  // namespace

Units units(const std::vector<std::pair<std::string, Evidence>>& rows) {
  if (rows.size() < 3) {
    throw CompareError(fmt::format("the spread of {} unit{}: at least three are needed",
                                   rows.size(), quantity::plural(rows.size())));
  }
  for (const auto& [unit, evidence] : rows) require_channel(evidence);
  const auto& chain = rows.front().second.parts().chain;
  const double coverage = rows.front().second.parts().coverage;
  Units result{.coverage = coverage};
  std::vector<double> offsets, gains;
  double offset_variance = 0.0, gain_variance = 0.0;
  const auto count = static_cast<double>(rows.size());
  for (const auto& [unit, evidence] : rows) {
    const auto summary = compare(evidence).summary;
    if (!summary.gain) {
      throw CompareError(fmt::format("unit {}: all its readings are at one position", unit));
    }
    const auto& gain = *summary.gain;
    result.units.push_back({unit, summary.offset.value, gain.value});
    offsets.push_back(summary.offset.value - summary.offset.expected);
    gains.push_back(gain.value - gain.expected);
    offset_variance +=
        (squared(summary.offset.standard_uncertainty) + squared(summary.offset.budgeted)) / count;
    gain_variance += (squared(gain.standard_uncertainty) + squared(gain.budgeted)) / count;
  }
  result.offset = spread_of(offsets, std::sqrt(offset_variance), coverage);
  result.gain = spread_of(gains, std::sqrt(gain_variance), coverage);

  const auto& accuracy = chain.channel.target.accuracy;
  result.has_target = accuracy.has_value();
  if (!accuracy) return result;
  const auto& span = chain.channel.span;
  const double k = math::coverage_factor(coverage, std::numeric_limits<double>::infinity());
  std::vector<Place> places;
  for (const double x : budget::default_points(span)) {
    places.push_back({.x = x - span.unit.offset,
                      .noise = k * chain::reading_noise(chain, x),
                      .limit = chain::allowed_at(chain, *accuracy, x)});
  }
  for (const auto& unit : result.units) {
    result.as_built.met += meets(places, unit.offset, unit.gain) ? 1 : 0;
    result.after_zero.met += meets(places, 0.0, unit.gain) ? 1 : 0;
    result.after_two_point.met += meets(places, 0.0, 0.0) ? 1 : 0;
  }
  double together = 0.0;
  for (std::size_t i = 0; i < offsets.size(); ++i) {
    together += (offsets[i] - result.offset.mean) * (gains[i] - result.gain.mean) / (count - 1.0);
  }
  const double spreads = result.offset.deviation * result.gain.deviation;
  const double r = spreads > 0.0 ? std::clamp(together / spreads, -1.0, 1.0) : 0.0;
  math::RandomStream stream(seed, 0);
  const double bias_offset = result.units[0].offset - offsets[0],
               bias_gain = result.units[0].gain - gains[0];
  int as_built = 0, zero = 0, two_point = 0;
  for (int i = 0; i < drawn; ++i) {
    const double a = stream.normal(), b = r * a + std::sqrt(1.0 - r * r) * stream.normal();
    const double offset = bias_offset + result.offset.mean + a * result.offset.deviation;
    const double gain = bias_gain + result.gain.mean + b * result.gain.deviation;
    as_built += meets(places, offset, gain) ? 1 : 0;
    zero += meets(places, 0.0, gain) ? 1 : 0;
    two_point += meets(places, 0.0, 0.0) ? 1 : 0;
  }
  result.as_built.expected = static_cast<double>(as_built) / drawn;
  result.after_zero.expected = static_cast<double>(zero) / drawn;
  result.after_two_point.expected = static_cast<double>(two_point) / drawn;
  return result;
}

}  // namespace tamlo::meter
