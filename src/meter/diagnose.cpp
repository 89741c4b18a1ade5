// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/diagnose.hpp"

#include <fmt/format.h>

#include <utility>

#include "decision.hpp"
#include "evidence.hpp"
#include "signatures.hpp"

namespace tamlo::meter {

Diagnosis diagnose(const model::Board& board, const std::string& channel, const model::Meter& meter,
                   const std::vector<Reading>& readings, double coverage) {
  if (readings.empty()) {
    throw CompareError(fmt::format("there are no readings of channel {}", channel));
  }
  const auto chain = chain_as_metered(board, channel, meter);
  const auto of_all_rows = gather(chain, meter, readings, coverage);
  auto decision = decide(chain, meter, readings, of_all_rows, coverage);
  Diagnosis result{.agreement = decision.agreement,
                   .fault = !decision.agreement.agrees,
                   .side = decision.side,
                   .suspects = std::move(decision.suspects)};
  const auto rows = thinned(readings);
  const bool all = rows.size() == readings.size();
  const auto evidence = all ? of_all_rows : gather(chain, meter, rows, coverage);
  const math::InverseCovariance inverse(evidence.all());
  result.signatures =
      signatures({.board = board,
                  .channel = channel,
                  .meter = meter,
                  .readings = rows,
                  .chain = chain,
                  .evidence = evidence,
                  .inverse = inverse,
                  .chi_squared = math::chi_squared(evidence.unexpected(), evidence.all()),
                  .claimed = result.fault,
                  .coverage = coverage});
  return result;
}

}  // namespace tamlo::meter
