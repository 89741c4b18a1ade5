// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <array>
#include <string>

#include "tamlo/explore/explore.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo::explore {

/// Of a channel as built, and after each adjustment.
using AdjustedFigures = std::array<ChannelFigures, 3>;

/// Throws nothing: a channel that cannot be built is not sound.
AdjustedFigures figures_of(const model::Board& board, const std::string& channel);

}  // namespace tamlo::explore
