// SPDX-License-Identifier: Apache-2.0
#include "tamlo/meter/detail/pairing.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include "tamlo/chain/chain.hpp"
#include "tamlo/error.hpp"
#include "tamlo/meter/compare.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/model/detail/accuracy.hpp"
#include "tamlo/names.hpp"

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

std::string_view name(Waits waits) {
  return name_in({"nothing", "channel", "meter", "meter overload", "code at an end"}, waits);
}

namespace {

// Of what rests for long, the last is taken.
constexpr std::ptrdiff_t most_blocks = 1024;

}  // namespace

SettlingRule settling_rule(const model::Meter& meter, double reading, double uncertainty) {
  require(!meter.ranges.empty(), "a meter with a range");
  const auto range = range_for(meter, reading).value_or(meter.ranges.size() - 1);
  const double last_place = digit(meter.ranges[range]);
  return {.window = 4,
          .allowed = std::max(uncertainty / 4.0, last_place),
          .noise = last_place / std::sqrt(12.0),
          .keeps = 0.5};
}

Pairing::Pairing(chain::Chain chain, const model::Meter& meter, double uncertainty)
    : meter_(meter), channel_(std::move(chain), uncertainty), uncertainty_(uncertainty) {}

void Pairing::add_code(double code, double seconds) {
  at_end_ = at_end_ || is_end(channel_.chain(), code);
  channel_.add_code(code, seconds);
  count_channel();
}

void Pairing::add_reading(double reading, double seconds) {
  channel_.add_reading(reading, seconds);
  count_channel();
}

void Pairing::count_channel() {
  if (channel_.readings() == counted_) return;
  counted_ = channel_.readings();
  const double last = channel_.last();
  next_.channel.add({&last, 1});
}

// Where the channel rests while the meter does too.
std::optional<double> Pairing::rest() const {
  if (overload_ || !meter_settling_ || !meter_settling_->settled()) return {};
  const auto settled = channel_.settled();
  return settled ? std::optional(settled->value) : std::nullopt;
}

void Pairing::add_shown(double shown, double place) {
  if (place > 0.0) place_ = place_ > 0.0 ? std::min(place_, place) : place;
  overload_ = !range_for(meter_, shown);
  if (!meter_settling_) {
    meter_settling_.emplace(settling_rule(meter_, shown, uncertainty_));
  }
  meter_settling_->add(shown);
  shown_ = shown;
  // Late readings in one piece may hold a whole step: a block begins and ends at one rest.
  const auto before = std::exchange(rested_, rest());
  if (!before || !rested_ || std::abs(*rested_ - *before) > uncertainty_) {
    blocks_.clear();
    next_ = {};
    at_end_ = false;
    return;
  }
  // A meter that is faster than the channel is waited for.
  if (next_.channel.count() == 0) return;
  next_.shown = shown;
  blocks_.push_back(std::exchange(next_, {}));
  if (std::ssize(blocks_) > most_blocks)
    blocks_.erase(blocks_.begin(), blocks_.begin() + most_blocks / 2);
}

void Pairing::add_overload() {
  overload_ = true;
  shown_.reset();
  blocks_.clear();
  if (meter_settling_) meter_settling_->restart();
}

void Pairing::restart() {
  channel_.restart();
  counted_ = channel_.readings();
  meter_settling_.reset();
  shown_.reset();
  blocks_.clear();
  next_ = {};
  overload_ = at_end_ = false;
  place_ = 0.0;
}

// The range whose digit the display showed, where that is not the one that would do.
std::optional<std::size_t> Pairing::range_shown(double shown) const {
  const auto needed = range_for(meter_, shown);
  for (std::size_t i = needed.value_or(meter_.ranges.size()) + 1; i < meter_.ranges.size(); ++i) {
    if (std::abs(digit(meter_.ranges[i]) / place_ - 1.0) < 0.01) return i;
  }
  return {};
}

Waits Pairing::waits() const {
  if (overload_) return Waits::meter_overload;
  if (!channel_.settled()) return Waits::for_channel;
  if (!meter_settling_ || !meter_settling_->settled() || blocks_.size() < 2)
    return Waits::for_meter;
  if (at_end_) return Waits::code_at_end;
  std::uint64_t readings = 0;
  for (const auto& block : blocks_) readings += block.channel.count();
  return readings < channel_.window() ? Waits::for_channel : Waits::nothing;
}

std::optional<Reading> Pairing::pair() const {
  if (waits() != Waits::nothing) return {};
  signal::Moments all, meter, differences;
  for (const auto& block : blocks_) {
    const double difference = block.channel.mean() - block.shown;
    all.merge(block.channel);
    meter.add({&block.shown, 1});
    differences.add({&difference, 1});
  }
  Reading result{.meter = meter.mean(), .reading = all.mean()};
  if (place_ > 0.0) result.meter_range = range_shown(result.meter);
  result.meter_repeats = meter.min() < meter.max() ? static_cast<int>(blocks_.size()) : 1;
  // Neighbours that correlate, and what moves slower than a block, average less than they seem to.
  const double single = all.variance();
  const auto count = static_cast<double>(all.count());
  double of_mean = single / std::max(1.0, count / channel_.correlation());
  if (blocks_.size() >= 4) {
    of_mean = std::max(of_mean, differences.variance() / static_cast<double>(blocks_.size()));
  }
  constexpr double most_repeats = 1e6;
  const double worth = of_mean > 0.0 ? std::floor(single / of_mean) : 1.0;
  result.repeats = static_cast<int>(std::clamp(worth, 1.0, std::min(count, most_repeats)));
  if (result.repeats > 1) result.spread = std::sqrt(single);
  return result;
}

}  // namespace tamlo::meter
