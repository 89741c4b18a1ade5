// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <utility>

#include "tamlo/io/diagnostics.hpp"
#include "tamlo/io/readings_file.hpp"
#include "tamlo/meter/accuracy.hpp"
#include "tamlo/quantity/format.hpp"
#include "tamlo/quantity/notation.hpp"

namespace tamlo::io {
namespace {

bool reads(const model::Meter& meter, const quantity::Unit& unit) {
  return !meter.ranges.empty() && meter.ranges.front().full_scale.unit.dimension == unit.dimension;
}

}  // namespace

const model::Meter& choose_meter(const model::Board& board, const std::string& board_path,
                                 const std::string& name, const ReadingsFile& file,
                                 const ChannelReadings& readings) {
  const auto& unit = model::find(board.channels, readings.channel)->span.unit;
  std::vector<std::string> fitting;
  for (const auto& meter : board.meters) {
    if (reads(meter, unit)) fitting.push_back(meter.name);
  }
  const auto fail = [&](std::string found, std::string allowed) {
    throw BadInput({{.file = board_path,
                     .line = 1,
                     .column = 1,
                     .key = "meter",
                     .found = std::move(found),
                     .allowed = std::move(allowed)}});
  };
  if (fitting.empty()) {
    fail(fmt::format("no meter that reads {}", unit.symbol),
         fmt::format("a [meter.NAME] section with ranges in {}", unit.symbol));
  }
  if (name.empty() && fitting.size() > 1) {
    fail("several meters", fmt::format("--meter with {}", one_of(name, fitting)));
  }
  const auto& wanted = name.empty() ? fitting.front() : name;
  if (std::ranges::find(fitting, wanted) == fitting.end()) {
    fail(fmt::format("--meter \"{}\"", wanted), one_of(wanted, fitting));
  }
  const auto& meter = *model::find(board.meters, wanted);

  std::vector<Diagnostic> above;
  for (std::size_t i = 0; i < readings.readings.size(); ++i) {
    const auto& reading = readings.readings[i];
    if (reading.u_meter || meter::range_for(meter, reading.meter)) continue;
    above.push_back(
        {.file = file.path,
         .line = readings.places[i].line,
         .column = readings.places[i].column,
         .key = "meter",
         .found = quantity::engineering(reading.meter, unit, 6),
         .allowed = fmt::format("up to {}, the highest range of meter {}",
                                quantity::to_string(meter.ranges.back().full_scale), meter.name)});
  }
  if (!above.empty()) throw BadInput(std::move(above));
  return meter;
}

}  // namespace tamlo::io
