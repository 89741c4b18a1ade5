// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/detail/beside_meter.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <utility>

#include "tamlo/chain/chain.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/io/readings_file.hpp"
#include "tamlo/math/detail/power_of_ten.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/model/detail/accuracy.hpp"
#include "tamlo/quantity/format.hpp"
#include "tamlo/quantity/notation.hpp"

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

namespace {

// A meter at the pin may have shown volts; one at the quantity, its unit.
bool reads(const model::Meter& meter, const quantity::Unit& unit, bool at_pin) {
  if (meter.ranges.empty()) return false;
  const auto dimension = meter.ranges.front().full_scale.unit.dimension;
  if (meter.touches == model::Touches::pin) {
    return at_pin || unit.dimension == quantity::unit("V").dimension;
  }
  return !at_pin && dimension == unit.dimension;
}

// The range that a row was on, by its full scale.
std::optional<std::size_t> range_of(const model::Meter& meter, double full_scale) {
  for (std::size_t i = 0; i < meter.ranges.size(); ++i) {
    const double top = meter.ranges[i].full_scale.or_zero();
    if (std::abs(top - full_scale) <= 1e-9 * std::abs(top)) return i;
  }
  return {};
}

}  // namespace

bool has_meter_for(const model::Board& board, const ChannelReadings& readings) {
  const auto& unit = model::span_named(board, readings.channel)->unit;
  return std::ranges::any_of(
      board.meters, [&](const auto& meter) { return reads(meter, unit, readings.at_pin); });
}

const model::Meter* meter_that_shows(const model::Board& board, const ChannelReadings& readings) {
  const auto& unit = model::span_named(board, readings.channel)->unit;
  const auto found = std::ranges::find_if(
      board.meters, [&](const auto& meter) { return reads(meter, unit, readings.at_pin); });
  return found == board.meters.end() ? nullptr : &*found;
}

model::Meter undescribed_meter(const ChannelReadings& readings, const quantity::Unit& of_channel,
                               const std::string& accuracy) {
  const auto unit = readings.at_pin ? quantity::unit("V") : of_channel;
  double largest = 0.0;
  for (const auto& row : readings.readings)
    largest = std::max(largest, std::abs(quantity::in_unit(row.meter, unit)));
  // 1 where no reading has digits of its own, nine decimals at most.
  const double place = readings.meter_place / unit.scale();
  const double decimals =
      std::isfinite(place) ? std::clamp(std::round(-std::log10(place)), -9.0, 9.0) : 0.0;
  // Its ranges are not known: one that holds all, whose digit is that last place.
  const double top = math::power_of_ten(std::ceil(std::log10(std::max(largest, 1e-9))) + 3.0);
  model::MeterRange range{.full_scale = {.nominal = unit.offset + top * unit.scale(), .unit = unit},
                          .digits = top * math::power_of_ten(decimals)};
  if (!accuracy.empty()) {
    range.accuracy = quantity::parse_value(
        accuracy,
        {.unit = quantity::difference_unit(unit),
         .bases = {quantity::Basis::absolute, quantity::Basis::relative, quantity::Basis::digit}});
    if (range.accuracy.nominal || range.accuracy.limits.empty()) {
      throw quantity::NotationError(1, fmt::format("\"{}\"", accuracy),
                                    "limits alone, such as \"±0.5 % ±2 digits\"");
    }
  }
  return {.name = fmt::format("{} [{}]", accuracy.empty() ? "taken as exact" : "of " + accuracy,
                              unit.symbol),
          .ranges = {std::move(range)},
          .touches = readings.at_pin ? model::Touches::pin : model::Touches::quantity};
}

const model::Meter& choose_meter(const model::Board& board, const std::string& board_path,
                                 const std::string& name, const ReadingsFile& file,
                                 const ChannelReadings& readings) {
  const auto& unit = model::span_named(board, readings.channel)->unit;
  std::vector<std::string> fitting;
  for (const auto& meter : board.meters) {
    if (reads(meter, unit, readings.at_pin)) fitting.push_back(meter.name);
  }
  const auto fail = [&](std::string found, std::string allowed) {
    FileProblems problems(board_path);
    problems.add({}, "meter", std::move(found), std::move(allowed));
    problems.refuse_any();
  };
  if (fitting.empty()) {
    if (readings.at_pin) {
      fail("no meter that touches the pin, and readings in V",
           "a [meter.NAME] section with touches = \"pin\" and ranges in V");
    }
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

  FileProblems above(file.path);
  for (std::size_t i = 0; i < readings.readings.size(); ++i) {
    const auto& reading = readings.readings[i];
    if (const auto& given = readings.ranges[i]; given && !range_of(meter, *given)) {
      std::vector<std::string> known;
      for (const auto& range : meter.ranges) known.push_back(quantity::to_string(range.full_scale));
      above.add({readings.places[i].line, 1}, "meter_range",
                quantity::engineering(*given, meter.ranges[0].full_scale.unit, 6),
                fmt::format("a range of meter {}: {}", meter.name, fmt::join(known, ", ")));
    }
    if (reading.u_meter || model::range_for(meter, reading.meter)) continue;
    above.add(readings.places[i], "meter", quantity::engineering(reading.meter, unit, 6),
              fmt::format("up to {}, the highest range of meter {}",
                          quantity::to_string(meter.ranges.back().full_scale), meter.name));
  }
  above.refuse_any();
  return meter;
}

std::vector<meter::Reading> rows_of(const ChannelReadings& readings, const model::Meter& meter) {
  auto rows = readings.readings;
  for (std::size_t i = 0; i < rows.size(); ++i) {
    if (readings.ranges[i]) rows[i].meter_range = range_of(meter, *readings.ranges[i]);
  }
  return meter::group(rows, meter);
}

}  // namespace tamlo::io
