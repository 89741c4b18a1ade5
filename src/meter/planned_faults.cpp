// SPDX-License-Identifier: Apache-2.0
#include "planned_faults.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include "decision.hpp"
#include "signatures.hpp"
#include "tamlo/math/detail/bisect.hpp"
#include "tamlo/math/detail/coverage.hpp"

namespace tamlo::meter {
namespace {

constexpr double sure = 0.95;
const double twenty = 2.0 * std::log(20.0);  // a likelihood ratio of 20, in chi-squared

// The noncentrality that is seen with that probability.
double noncentrality_seen(double value, int dof) {
  const auto unseen = [&](double noncentrality) {
    return math::chi_squared_survival(value, dof, noncentrality) < sure;
  };
  double high = 1.0;
  while (unseen(high)) high *= 2.0;
  return math::bisect(0.0, high, 60, unseen).high;
}

// A shift of the rows, and how large it is against what sound rows vary.
struct Shift {
  FaultSeen of{};
  std::vector<double> rows{};
  std::vector<double> answer{};  // V^-1 rows
  double information = 0.0;      // rows^T V^-1 rows
  double noncentrality = 0.0;    // at the size that is seen, or its own
};

}  // namespace

std::vector<FaultSeen> faults_seen(const model::Board& board, const std::string& channel,
                                   const model::Meter& meter, const chain::Chain& chain,
                                   const RowFigures& evidence, double coverage) {
  const math::InverseCovariance inverse(evidence.all());
  const auto dof = static_cast<int>(evidence.rows());
  const double rare = (1.0 - coverage) / 2.0;
  const double threshold = math::chi_squared_quantile(1.0 - rare, dof);
  const double seen = noncentrality_seen(threshold, dof);

  std::vector<Shift> shifts;
  const auto add = [&](std::string name, std::vector<double> rows) -> Shift& {
    Shift shift{.of = {.fault = std::move(name)}, .rows = std::move(rows)};
    shift.answer = inverse.times(shift.rows);
    shift.information = dot(shift.answer, shift.rows);
    shifts.push_back(std::move(shift));
    return shifts.back();
  };
  for (const auto& cause : possible_causes(chain, meter, evidence)) {
    auto& shift = add(cause.named.name, cause.effect);
    const double limits = std::sqrt(seen / shift.information) * cause.standard_in_limits;
    // Beyond a thousand of its limits it is another part, and another fault.
    if (limits < 1000.0) shift.of.limits = limits;
    shift.noncentrality = seen;
  }
  std::vector<Reading> readings;
  for (const double x : evidence.at) readings.push_back({.meter = x, .reading = x});
  const std::vector<OtherChannel> no_others;
  const DiagnosisContext context{.board = board,
                                 .channel = channel,
                                 .meter = meter,
                                 .readings = readings,
                                 .others = no_others,
                                 .chain = chain,
                                 .evidence = evidence,
                                 .inverse = inverse,
                                 .chi_squared = 0.0,
                                 .left_by_one = 0.0,
                                 .claimed = true,
                                 .coverage = coverage};
  for (auto& [fault, rows] : known_shifts(context)) {
    auto& shift = add(std::move(fault), std::move(rows));
    shift.noncentrality = shift.information;
    shift.of.probability =
        shift.information > 2000.0
            ? 1.0
            : math::chi_squared_survival(threshold, dof, std::max(shift.information, 0.0));
  }
  const auto visible = [](const Shift& shift) { return shift.of.limits || shift.of.probability; };
  for (auto& one : shifts) {
    // What is not seen is not told apart, either.
    if (!visible(one)) continue;
    for (const auto& other : shifts) {
      if (&other == &one || !visible(other)) continue;
      const double together = dot(one.answer, other.rows);
      const double along = together * together / (one.information * other.information);
      if (one.noncentrality * (1.0 - along) < twenty) one.of.like.push_back(other.of.fault);
    }
  }
  std::vector<FaultSeen> result;
  for (auto& shift : shifts) result.push_back(std::move(shift.of));
  // Known faults first, then sources by how small a fault of theirs is seen.
  std::ranges::stable_sort(result, {}, [](const FaultSeen& fault) {
    return fault.probability ? -*fault.probability
                             : fault.limits.value_or(std::numeric_limits<double>::infinity());
  });
  return result;
}

}  // namespace tamlo::meter
