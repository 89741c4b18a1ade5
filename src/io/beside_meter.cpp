// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/detail/beside_meter.hpp"

#include "tamlo/chain/chain.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo::io {

BesideMeter beside_meter(const model::Board& board, const std::string& board_path,
                         const std::string& meter, const ReadingsFile& file,
                         const ChannelReadings& readings, double coverage) {
  const auto& chosen = choose_meter(board, board_path, meter, file, readings);
  auto rows = rows_of(readings, chosen);
  if (const auto* quantity = model::find(board.quantities, readings.channel)) {
    std::vector<chain::Chain> chains;
    for (const auto& channel : model::channels_of(board, *quantity))
      chains.push_back(chain::build(board, channel));
    return {.of = readings,
            .meter = chosen,
            .evidence = meter::evidence_of(*quantity, chains, chosen, std::move(rows), coverage)};
  }
  return {.of = readings,
          .meter = chosen,
          .evidence = {meter::chain_as_metered(board, readings.channel, chosen), chosen,
                       std::move(rows), coverage}};
}

std::vector<meter::OtherChannel> others_of(const model::Board& board, const ReadingsFile& file,
                                           const ChannelReadings& readings) {
  std::vector<meter::OtherChannel> result;
  for (const auto& other : file.channels) {
    if (other.channel == readings.channel || other.unit != readings.unit || other.at_pin ||
        readings.at_pin)
      continue;
    const auto* meter = meter_that_shows(board, other);
    if (meter != nullptr)
      result.push_back({.name = other.channel, .readings = rows_of(other, *meter)});
  }
  return result;
}

}  // namespace tamlo::io
