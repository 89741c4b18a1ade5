// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/compare.hpp"

#include <algorithm>
#include <cmath>

#include "tamlo/model/board.hpp"
#include "tamlo/model/detail/accuracy.hpp"

namespace tamlo::meter {
namespace {

bool is_raw(const Reading& r) { return r.repeats == 1 && !r.spread && !r.u_meter && !r.u_reading; }

// The last place of the meter on the range of a row.
double digit_of(const Reading& row, const model::Meter& meter) {
  const auto range = row.meter_range ? row.meter_range : range_for(meter, row.meter);
  return range ? digit(meter.ranges[*range]) : 0.0;
}

bool same_position(const Reading& first, const Reading& next, const model::Meter& meter) {
  if (!is_raw(first) || !is_raw(next) || first.unit != next.unit ||
      first.direction != next.direction || first.meter_range != next.meter_range) {
    return false;
  }
  const double within = 2.0 * digit_of(first, meter);
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

Reading mean_of(const std::vector<Reading>& rows, const model::Meter& by) {
  if (rows.size() == 1) return rows.front();
  const auto n = static_cast<double>(rows.size());
  Reading result = rows.front();
  result.repeats = static_cast<int>(rows.size());
  double meter = 0.0, reading = 0.0, squares = 0.0;
  for (const auto& row : rows) {
    meter += row.meter / n;
    reading += row.reading / n;
  }
  // A last digit that goes to and fro is no noise of the channel; what moves the meter by more than
  // that moves both.
  const auto [low, high] = std::ranges::minmax(rows, {}, &Reading::meter);
  const bool still = high.meter - low.meter <= digit_of(rows.front(), by) * (1.0 + 1e-9);
  for (const auto& row : rows) {
    const double off = row.reading - reading - (still ? 0.0 : row.meter - meter);
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
      result.push_back(mean_of(rows, meter));
      rows.clear();
    }
    rows.push_back(reading);
  }
  if (!rows.empty()) result.push_back(mean_of(rows, meter));
  return result;
}

}  // namespace tamlo::meter
