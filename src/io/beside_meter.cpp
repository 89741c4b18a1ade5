// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/detail/beside_meter.hpp"

#include <algorithm>

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

std::vector<meter::ChannelUnits> over_units(const std::vector<BesideMeter>& benches) {
  std::vector<meter::ChannelUnits> result;
  std::vector<std::string> done_with;
  for (const auto& bench : benches) {
    const auto& channel = bench.of.channel;
    if (std::ranges::find(done_with, channel) != done_with.end() || bench.evidence.of_quantity())
      continue;
    done_with.push_back(channel);
    std::vector<std::pair<std::string, meter::Evidence>> rows;
    for (const auto& other : benches) {
      if (other.of.channel != channel || other.of.unit.empty()) continue;
      rows.emplace_back(other.of.unit, other.evidence);
    }
    if (rows.size() < 3) continue;
    result.push_back({.channel = channel,
                      .unit = bench.evidence.chain().channel.span.unit,
                      .units = meter::units(rows)});
  }
  return result;
}

}  // namespace tamlo::io
