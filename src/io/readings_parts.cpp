// SPDX-License-Identifier: Apache-2.0
// A log of the firmware and one of the meter, each by its own clock.
#include "readings_parts.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <utility>

#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/error.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/meter/detail/join.hpp"
#include "tamlo/quantity/format.hpp"
#include "tamlo/quantity/notation.hpp"

namespace tamlo::io {
namespace {

const std::vector<std::string> roles{
    "channel", "meter",  "reading",   "code",        "u_meter", "u_reading", "meter_range",
    "repeats", "spread", "direction", "temperature", "time",    "unit",      "meter_repeats"};
const std::vector<std::string> with_unit{"meter",     "reading", "u_meter",
                                         "u_reading", "spread",  "temperature"};

bool among(const std::vector<std::string>& list, const std::string& word) {
  return std::ranges::find(list, word) != list.end();
}

}  // namespace

ReadingsHeadings::ReadingsHeadings(const std::vector<std::string>& renamed) {
  for (const auto& text : renamed) {
    const auto equals = text.find('=');
    const auto name = std::string(trimmed(std::string_view(text).substr(0, equals)));
    const auto column = heading_of({.text = name});
    if (equals == std::string::npos || !known(column.name)) {
      refuse("--column", fmt::format("\"{}\"", text),
             one_of(column.name, roles, "NAME=HEADING with the name "));
    }
    renamed_.emplace_back(trimmed(std::string_view(text).substr(equals + 1)), column);
  }
}

Heading ReadingsHeadings::of(const Cell& cell) const {
  auto own = heading_of(cell);
  for (const auto& [heading, column] : renamed_) {
    if (heading != cell.text && heading != own.name) continue;
    return {.name = column.name, .unit = column.unit.empty() ? own.unit : column.unit};
  }
  return own;
}

bool ReadingsHeadings::are_of(LogOf what, const std::vector<Cell>& cells) const {
  std::vector<std::string> names;
  for (const auto& cell : cells) names.push_back(of(cell).name);
  const bool of_readings = among(names, "reading") || among(names, "code");
  if (what == LogOf::both) return among(names, "meter") && of_readings;
  return among(names, "time") && (what == LogOf::meter ? among(names, "meter") : of_readings);
}

bool ReadingsHeadings::known(const std::string& name) { return among(roles, name); }

bool ReadingsHeadings::has_unit(const std::string& name) { return among(with_unit, name); }

namespace {

using quantity::engineering;

void refuse_log(const std::string& file, std::string problem, std::string hint) {
  FileProblems problems(file);
  problems.add({}, "time", std::move(problem), std::move(hint));
  problems.refuse_any();
}

std::string seconds(double s) { return engineering(s, quantity::unit("s"), 4); }

double rest_of(const ReadingsForm& form, const quantity::Unit& unit) {
  try {
    const auto value = quantity::parse_value(form.rest, {.unit = unit, .difference = true});
    if (value.nominal && value.limits.empty() && *value.nominal > 0.0) return *value.nominal;
  } catch (const quantity::NotationError&) {
    // What is no value at all is refused as one that does not fit is.
  }
  refuse("--rest", "\"" + form.rest + "\"",
         "a change of what the meter shows, such as \"20 m" + unit.symbol + "\"");
}

std::string note_of(const meter::Join& join, const ReadingsForm& form, const quantity::Unit& unit,
                    double settling) {
  const auto all = join.values.size();
  const auto left = all - join.outside - join.in_gaps - join.moving;
  const auto clock =
      fmt::format("its clock is {} {}{}", seconds(std::abs(join.offset)),
                  join.offset < 0.0 ? "behind" : "ahead",
                  form.clock_offset ? ", as told" : ", found within " + seconds(join.within));
  const auto drift = join.drift == 0.0
                         ? std::string()
                         : fmt::format(" and runs {:.4g} ppm {}{}", std::abs(join.drift) * 1e6,
                                       join.drift < 0.0 ? "slower" : "faster",
                                       form.clock_drift ? ", as told" : "");
  return fmt::format(
      "joined with {}: {}{}; {} of {} readings have a value of the meter: {} lie outside of its "
      "log, {} in its gaps, and {} less than {} from where it moved by more than {}",
      form.meter_log, clock, drift, left, all, join.outside, join.in_gaps, join.moving,
      seconds(settling), engineering(join.rest, quantity::difference_unit(unit), 3));
}

template <class Value>
std::vector<meter::Logged> log_of(const ChannelReadings& rows, Value value) {
  std::vector<meter::Logged> result;
  for (const auto& row : rows.readings) result.push_back({*row.time, value(row)});
  return result;
}

}  // namespace

ReadingsFile joined(ReadingsFile readings, const ReadingsFile& meter, const model::Board& board,
                    const ReadingsForm& form) {
  for (auto& rows : readings.channels) {
    const auto of_meter =
        std::ranges::find(meter.channels, rows.channel, &ChannelReadings::channel);
    if (of_meter == meter.channels.end())
      refuse_log(meter.path, "no row of " + rows.channel, "the meter's rows of the same channel");
    if (model::find(board.channels, rows.channel) == nullptr)
      refuse_log(readings.path, rows.channel + ", a quantity of several channels", "a channel");
    const auto chain = chain::build(board, rows.channel);
    // Of a meter at the pin both are taken as the quantity.
    const auto quantity_of = [&](double shown) {
      return of_meter->at_pin ? chain::quantity_at_voltage(chain, shown) : shown;
    };
    const auto& unit = chain.channel.span.unit;
    meter::JoinRequest request{.offset = form.clock_offset,
                               .drift = form.clock_drift,
                               .place = of_meter->at_pin ? 0.0 : of_meter->meter_place,
                               .settling = chain::dynamics(chain).latency};
    if (!form.rest.empty()) request.rest = rest_of(form, unit);
    meter::Join join;
    try {
      join = meter::join(log_of(rows, [](const auto& row) { return row.reading; }),
                         log_of(*of_meter, [&](const auto& row) { return quantity_of(row.meter); }),
                         request);
    } catch (const DataError& error) {
      refuse_log(form.meter_log, error.what(),
                 "--clock-offset \"1.5 s\", or logs in which the quantity steps");
    }
    readings.notes.push_back(rows.channel + ": " +
                             note_of(join, form, unit, request.settling + join.within));
    ChannelReadings left{.channel = rows.channel,
                         .unit = rows.unit,
                         .at_pin = of_meter->at_pin,
                         .meter_place = of_meter->meter_place};
    for (std::size_t i = 0; i < rows.readings.size(); ++i) {
      if (!join.values[i]) continue;
      auto& row = left.readings.emplace_back(rows.readings[i]);
      row.meter = of_meter->at_pin ? chain::voltage(chain, *join.values[i], chain.nominal)
                                   : *join.values[i];
      left.ranges.push_back({});
      left.places.push_back(rows.places[i]);
    }
    if (left.readings.empty())
      refuse_log(readings.path, readings.notes.back(),
                 "a larger --rest, or logs of positions at rest");
    rows = std::move(left);
  }
  return readings;
}

}  // namespace tamlo::io
