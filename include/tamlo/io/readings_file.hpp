// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "tamlo/meter/compare.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo::io {

/// The readings of one channel, in the order of the file.
struct ChannelReadings {
  std::string channel{};
  std::vector<meter::Reading> readings{};
};

struct ReadingsFile {
  std::vector<ChannelReadings> channels{};  ///< in the order of their first row
  std::vector<std::string> ignored{};       ///< columns that mean nothing to Tamlo
};

/// Reads a readings file (docs/readings-file.md) against its board: channels exist, units are those
/// of the channel, codes exist. Throws BadInput with everything that is wrong.
ReadingsFile load_readings(const std::string& path, const model::Board& board);

/// The meter of that name; without a name the only one that reads `unit`. It must hold every one of
/// the readings of the channel. Throws BadInput with what the board offers.
const model::Meter& choose_meter(const model::Board& board, const std::string& board_path,
                                 const std::string& name, const quantity::Unit& unit);

}  // namespace tamlo::io
