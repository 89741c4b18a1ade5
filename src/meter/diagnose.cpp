// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/diagnose.hpp"

#include <fmt/format.h>

#include <utility>

#include "decision.hpp"
#include "row_figures.hpp"
#include "signatures.hpp"

namespace tamlo::meter {

Diagnosis diagnose(const model::Board& board, const Evidence& evidence,
                   const std::vector<OtherChannel>& others) {
  const auto& [chain, meter, readings, coverage, of_all_rows, decision] = evidence.parts();
  Diagnosis result{.agreement = decision.agreement,
                   .fault = !decision.agreement.agrees,
                   .side = decision.side,
                   .suspects = decision.suspects,
                   .together = decision.together};
  result.of_quantity = is_quantity(chain);
  if (result.of_quantity) return result;
  const auto& [rows, figures] = decision.rows;
  const math::InverseCovariance inverse(figures.all());
  const std::vector<OtherChannel> no_others;  // rows that were thinned go with none
  result.signatures =
      signatures({.board = board,
                  .channel = chain.channel.name,
                  .meter = meter,
                  .readings = rows,
                  .others = rows.size() == readings.size() ? others : no_others,
                  .chain = chain,
                  .evidence = figures,
                  .inverse = inverse,
                  .chi_squared = math::chi_squared(figures.unexpected(), figures.all()),
                  .left_by_one = result.together.chi_squared_left,
                  .claimed = result.fault,
                  .coverage = coverage});
  return result;
}

Diagnosis diagnose(const model::Board& board, const std::string& channel, const model::Meter& meter,
                   const std::vector<Reading>& readings, double coverage,
                   const std::vector<OtherChannel>& others) {
  return diagnose(
      board, Evidence(chain_as_metered(board, channel, meter), meter, readings, coverage), others);
}

}  // namespace tamlo::meter
