// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/drift.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>

#include "decision.hpp"
#include "tamlo/budget/budget.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/meter/calibrate.hpp"

namespace tamlo::meter {
namespace {

Calibration line_of(const Evidence& evidence) {
  const auto& parts = evidence.parts();
  const auto [low, high] = std::ranges::minmax(parts.readings, {}, &Reading::meter);
  const auto model = low.meter < high.meter ? Model::weighted_line : Model::offset;
  return calibrate(evidence, {.model = model, .coverage = parts.coverage});
}

// Variance of the change of two corrections at a reading: the rows of both, and of the meter's own
// limits what the one has and the other has not.
double variance_of_change(const Calibration& earlier, const Calibration& later, double reading) {
  const auto before = earlier.weights_at(reading), now = later.weights_at(reading);
  double variance = 0.0;
  for (std::size_t i = 0; i < before.size(); ++i)
    variance += squared(before[i]) * earlier.random[i];
  for (std::size_t i = 0; i < now.size(); ++i) variance += squared(now[i]) * later.random[i];
  std::map<std::pair<std::size_t, std::size_t>, double> meter;
  for (std::size_t j = 0; j < earlier.shared.size(); ++j) {
    meter[earlier.shared_limits[j]] -= dot(before, earlier.shared[j]);
  }
  for (std::size_t j = 0; j < later.shared.size(); ++j) {
    meter[later.shared_limits[j]] += dot(now, later.shared[j]);
  }
  for (const auto& [limit, off] : meter) variance += squared(off);
  return variance;
}

// Until |error + rate t| + uncertainty reaches the limit.
std::optional<double> until(double error, double rate, double uncertainty, double limit) {
  const double room = limit - uncertainty;
  if (std::abs(error) > room) return 0.0;
  if (rate == 0.0) return {};
  return (room - error * std::copysign(1.0, rate)) / std::abs(rate);
}

}  // namespace

Drift drift(const Evidence& earlier, const Evidence& later, double elapsed) {
  const auto& chain = later.parts().chain;
  const double coverage = later.parts().coverage;
  const auto before = line_of(earlier), now = line_of(later);
  const auto budget = budget::evaluate(chain, {.coverage = coverage, .search = false});
  const double k = math::coverage_factor(coverage, std::numeric_limits<double>::infinity());
  const double years = chain.conditions.age > 0.0 ? elapsed / chain.conditions.age : 0.0;
  Drift result{.elapsed = elapsed};
  for (const auto& point : budget.points) {
    const double x = point.at;
    Change change{.at = x,
                  .earlier = x - chain::corrected(before.correction, x),
                  .later = x - chain::corrected(now.correction, x),
                  .limit = point.limit};
    change.change = change.later - change.earlier;
    change.expanded = k * std::sqrt(variance_of_change(before, now, x));
    double ageing = 0.0;
    for (std::size_t s = 0; s < budget.sources.size(); ++s) {
      if (budget.sources[s].kind() != chain::Kind::ageing) continue;
      ageing += squared(point.contributions[s].contribution * years);
    }
    change.ageing = k * std::sqrt(ageing);
    result.significant = result.significant || std::abs(change.change) > change.expanded;
    if (std::abs(change.change) > std::hypot(change.expanded, change.ageing))
      result.within_ageing = false;
    // What cannot be told from nothing is not carried on.
    if (change.limit && std::abs(change.change) > change.expanded) {
      const auto left =
          until(change.later, change.change / elapsed, k * now.standard_at(x), *change.limit);
      if (left && (!result.until_missed || *left < *result.until_missed)) {
        result.until_missed = left;
        result.missed_at = x;
      }
    }
    result.places.push_back(change);
  }
  return result;
}

std::optional<double> elapsed_between(const std::vector<Reading>& earlier,
                                      const std::vector<Reading>& later) {
  const auto mean = [](const std::vector<Reading>& rows) -> std::optional<double> {
    double sum = 0.0;
    for (const auto& row : rows) {
      if (!row.time) return {};
      sum += *row.time;
    }
    return rows.empty() ? std::nullopt : std::optional(sum / static_cast<double>(rows.size()));
  };
  const auto a = mean(earlier), b = mean(later);
  if (!a || !b) return {};
  return *b - *a;
}

}  // namespace tamlo::meter
