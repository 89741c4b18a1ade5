// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/reading.hpp"

#include <cmath>

#include "tamlo/model/board.hpp"
#include "tamlo/model/detail/accuracy.hpp"

namespace tamlo::meter {
namespace {

bool is_raw(const Reading& r) { return r.repeats == 1 && !r.spread && !r.u_meter && !r.u_reading; }

bool same_position(const Reading& first, const Reading& next, const model::Meter& meter) {
  if (!is_raw(first) || !is_raw(next) || first.unit != next.unit ||
      first.direction != next.direction || first.meter_range != next.meter_range) {
    return false;
  }
  const auto range = first.meter_range ? first.meter_range : range_for(meter, first.meter);
  const double within = range ? 2.0 * digit(meter.ranges[*range]) : 0.0;
  return std::abs(next.meter - first.meter) <= within * (1.0 + 1e-9);
}

// The mean of what several rows have; nothing where one of them has nothing.
std::optional<double> mean_of(const std::vector<Reading>& rows,
                              std::optional<double> Reading::*column) {
  double sum = 0.0;
  for (const auto& row : rows) {
    if (!(row.*column)) return {};
    sum += *(row.*column);
  }
  return sum / static_cast<double>(rows.size());
}

Reading mean_of(const std::vector<Reading>& rows) {
  if (rows.size() == 1) return rows.front();
  const auto n = static_cast<double>(rows.size());
  Reading result = rows.front();
  result.repeats = static_cast<int>(rows.size());
  double meter = 0.0, reading = 0.0, squares = 0.0;
  for (const auto& row : rows) {
    meter += row.meter / n;
    reading += row.reading / n;
  }
  for (const auto& row : rows) {
    const double off = (row.reading - reading) - (row.meter - meter);
    squares += off * off;
  }
  result.meter = meter;
  result.reading = reading;
  result.spread = std::sqrt(squares / (n - 1.0));
  result.temperature = mean_of(rows, &Reading::temperature);
  result.time = mean_of(rows, &Reading::time);
  return result;
}

}  // namespace

std::vector<Reading> group(const std::vector<Reading>& readings, const model::Meter& meter) {
  std::vector<Reading> result, rows;
  for (const auto& reading : readings) {
    if (!rows.empty() && !same_position(rows.front(), reading, meter)) {
      result.push_back(mean_of(rows));
      rows.clear();
    }
    rows.push_back(reading);
  }
  if (!rows.empty()) result.push_back(mean_of(rows));
  return result;
}

}  // namespace tamlo::meter
