// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "row_figures.hpp"
#include "tamlo/meter/bench_plan.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo::meter {

/// Returns the visibility of each source, of each limit of the meter and of each known fault in the
/// rows of a plan; the most visible first.
std::vector<FaultSeen> faults_seen(const model::Board& board, const std::string& channel,
                                   const model::Meter& meter, const chain::Chain& chain,
                                   const RowFigures& evidence, double coverage);

}  // namespace tamlo::meter
