// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "tamlo/io/readings_file.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/meter/diagnose.hpp"
#include "tamlo/meter/units.hpp"

namespace tamlo {
namespace io TAMLO_API {

/// Readings of one channel of one unit beside a meter of the board, and what they are evidence of.
struct BesideMeter {
  const ChannelReadings& of;
  const model::Meter& meter;
  meter::Evidence evidence;
};
/// Gathers the evidence of a channel or a quantity of the board; the meter is chosen as
/// choose_meter() does. Refers to the board and the readings. Throws what it throws.
BesideMeter beside_meter(const model::Board& board, const std::string& board_path,
                         const std::string& meter, const ReadingsFile& file,
                         const ChannelReadings& readings, double coverage);

/// Takes the units of each channel together, where it has three or more that are named.
std::vector<meter::ChannelUnits> over_units(const std::vector<BesideMeter>& benches);

/// Rows of the other channels of the same unit in the file.
std::vector<meter::OtherChannel> others_of(const model::Board& board, const ReadingsFile& file,
                                           const ChannelReadings& readings);

}  // namespace io
}  // namespace tamlo
