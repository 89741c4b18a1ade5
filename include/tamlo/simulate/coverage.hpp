// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/math/detail/blocks.hpp"
#include "tamlo/math/interval.hpp"

namespace tamlo::chain {
struct Chain;
}  // namespace tamlo::chain

namespace tamlo {
namespace simulate TAMLO_API {

/// Places, units and seed of a proof.
struct CoverageRequest {
  std::vector<double> at{};                 ///< SI, inside the span; none asks for those of budget
  std::uint64_t first = 1, units = 10'000;  ///< numbers of the units, as draw() has them
  std::uint64_t seed = 1;
  double coverage = 0.95;  ///< that the budget claims
};

/// Counts of readings within what the budget says of one place, and outside of it.
struct PlaceCoverage {
  double at = 0.0;
  double bias = 0.0, expanded = 0.0;  ///< of the budget
  std::uint64_t within = 0, below = 0, above = 0;
  double part = 0.0;          ///< within, of all
  math::Interval interval{};  ///< of the probability, 99 % of the time
};

/// Counts of the units that lie within U, place by place.
struct CoverageProof {
  double claimed = 0.0;
  std::uint64_t units = 0;  ///< that were read
  std::vector<PlaceCoverage> places{};

  /// Tells whether at every place at most 1.1 times the claimed part of the readings lies outside,
  /// as far as this number of units can tell: a coverage factor is approximate (JCGM 100, G.1.2).
  bool holds() const;
};

/// Reads virtual units once at each place, and counts how many lie within bias ± U of the budget.
/// Readings are drawn by UnitReader. Units are done in blocks of 100; counts add, so the result
/// does not depend on who does them. `firmware` scales; it is `chain` itself unless the firmware
/// differs. Where go_on ends it, the result is that of the units that were read. Throws
/// ArgumentError for no units.
CoverageProof prove_coverage(const chain::Chain& chain, const chain::Chain& firmware,
                             const CoverageRequest& request,
                             const math::BlockDriver& driver = math::by_threads(1),
                             const std::function<bool(double)>& go_on = {});

}  // namespace simulate
}  // namespace tamlo
