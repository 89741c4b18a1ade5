// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/diagnose.hpp"

#include <fmt/format.h>

#include <utility>

#include "decision.hpp"
#include "evidence.hpp"
#include "signatures.hpp"

namespace tamlo::meter {

Diagnosis diagnose(const model::Board& board, const std::string& channel, const model::Meter& meter,
                   const std::vector<Reading>& readings, double coverage,
                   const std::vector<OtherChannel>& others) {
  if (readings.empty()) {
    throw CompareError(fmt::format("there are no readings of channel {}", channel));
  }
  const auto chain = chain_as_metered(board, channel, meter);
  const auto of_all_rows = gather(chain, meter, readings, coverage);
  auto decision = decide(chain, meter, readings, of_all_rows, coverage);
  Diagnosis result{.agreement = decision.agreement,
                   .fault = !decision.agreement.agrees,
                   .side = decision.side,
                   .suspects = std::move(decision.suspects),
                   .together = std::move(decision.together)};
  const auto rows = thinned(readings);
  const bool all = rows.size() == readings.size();
  const auto evidence = all ? of_all_rows : gather(chain, meter, rows, coverage);
  const math::InverseCovariance inverse(evidence.all());
  const std::vector<OtherChannel> no_others;  // rows that were thinned go with none
  result.signatures =
      signatures({.board = board,
                  .channel = channel,
                  .meter = meter,
                  .readings = rows,
                  .others = all ? others : no_others,
                  .chain = chain,
                  .evidence = evidence,
                  .inverse = inverse,
                  .chi_squared = math::chi_squared(evidence.unexpected(), evidence.all()),
                  .left_by_one = result.together.chi_squared_left,
                  .claimed = result.fault,
                  .coverage = coverage});
  return result;
}

}  // namespace tamlo::meter
