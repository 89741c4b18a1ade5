// SPDX-License-Identifier: Apache-2.0
#include "tamlo/simulate/coverage.hpp"

#include <algorithm>

#include "tamlo/budget/budget.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/error.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/simulate/sampler.hpp"
#include "tamlo/simulate/unit.hpp"

namespace tamlo::simulate {
namespace {

constexpr std::uint64_t block_size = 100;
constexpr double confidence = 0.99;
// A coverage factor is itself approximate (JCGM 100, G.1.2), and an interval by trials is one of
// 20 000 units: so many times as many readings outside as claimed are let pass.
constexpr double approximation = 1.1;

}  // namespace

CoverageProof prove_coverage(const chain::Chain& chain, const chain::Chain& firmware,
                             const CoverageRequest& request, const math::BlockDriver& driver,
                             const std::function<bool(double)>& go_on) {
  require(request.units >= 1, "one unit or more");
  CoverageProof result{.claimed = request.coverage};
  const auto budget =
      budget::evaluate(chain, {.at = request.at, .coverage = request.coverage, .search = false});
  for (const auto& point : budget.points)
    result.places.push_back({.at = point.at, .bias = point.bias, .expanded = point.expanded});
  // A reading at the very edge of the interval is within, however its last digit rounds.
  const double edge = 1e-9 * chain.channel.span.width();

  std::vector<UnitReader> readers;
  for (const auto& place : result.places) readers.emplace_back(chain, firmware, place.at);

  // Of each place: readings below, within and above.
  const auto work = [&](std::uint64_t block) {
    std::vector<double> counts(3 * result.places.size(), 0.0);
    const auto begin = block * block_size;
    const auto end = std::min(begin + block_size, request.units);
    for (auto i = begin; i < end; ++i) {
      const auto unit = draw(chain, request.seed, request.first + i);
      auto noise = noise_stream(request.seed, request.first + i, 0);
      for (std::size_t p = 0; p < result.places.size(); ++p) {
        const auto& place = result.places[p];
        const double error = readers[p].read(unit, noise) - place.at - place.bias;
        const double reach = place.expanded + edge;
        counts[3 * p + (error < -reach ? 0 : error > reach ? 2 : 1)] += 1.0;
      }
    }
    return counts;
  };
  const auto take = [&](std::uint64_t, const std::vector<double>& counts) {
    require(counts.size() == 3 * result.places.size(), "counts of another proof");
    for (std::size_t p = 0; p < result.places.size(); ++p) {
      auto& place = result.places[p];
      place.below += static_cast<std::uint64_t>(counts[3 * p]);
      place.within += static_cast<std::uint64_t>(counts[3 * p + 1]);
      place.above += static_cast<std::uint64_t>(counts[3 * p + 2]);
    }
  };
  driver({.count = (request.units + block_size - 1) / block_size,
          .work = work,
          .take = take,
          .go_on = go_on});
  for (auto& place : result.places) {
    result.units = place.below + place.within + place.above;
    if (result.units == 0) continue;
    place.part = static_cast<double>(place.within) / static_cast<double>(result.units);
    place.interval = math::probability_interval(place.within, result.units, confidence);
  }
  return result;
}

bool CoverageProof::holds() const {
  return std::ranges::all_of(places, [&](const PlaceCoverage& place) {
    return units == 0 || 1.0 - place.interval.high <= approximation * (1.0 - claimed);
  });
}

}  // namespace tamlo::simulate
