// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/timing.hpp"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <limits>

#include "tamlo/model/board.hpp"

namespace tamlo::chain {
namespace {

double clock_of(const model::Converter& converter) {
  return converter.clock ? converter.clock->source / converter.clock->divider : 0.0;
}

double time_of_one(const model::Converter& converter, const model::Channel& channel,
                   std::size_t channels) {
  if (converter.data_rate) {
    // After each change of the input, the converter's own filter must fill anew.
    return (channels > 1 ? converter.sinc_order : 1) / *converter.data_rate;
  }
  const double clock = clock_of(converter);
  if (clock > 0.0 && converter.conversion) {
    return (channel.sampling.value_or(0.0) + *converter.conversion) / clock;
  }
  return converter.max_rate ? 1.0 / *converter.max_rate : 0.0;
}

// The channels of a scan, in its order.
std::vector<const model::Channel*> scanned(const model::Board& board,
                                           const model::Converter& converter) {
  std::vector<const model::Channel*> result;
  for (const auto& channel : board.channels) {
    if (converter.scan.empty() && channel.converter == converter.name) result.push_back(&channel);
  }
  for (const auto& name : converter.scan) {
    if (const auto* found = model::find(board.channels, name)) result.push_back(found);
  }
  return result;
}

}  // namespace

Timing timing(const model::Board& board, const model::Converter& converter,
              const model::Channel& channel) {
  Timing result{.clock = clock_of(converter), .scan = converter.scan};
  const auto scan = scanned(board, converter);
  if (result.scan.empty()) {
    for (const auto* each : scan) result.scan.push_back(each->name);
  }
  const auto count = result.scan.size();
  if (result.clock > 0.0) result.sampling_time = channel.sampling.value_or(0.0) / result.clock;
  result.conversion_time = time_of_one(converter, channel, count);
  for (const auto* each : scan) result.scan_period += time_of_one(converter, *each, count);
  if (converter.max_rate) {
    result.scan_period =
        std::max(result.scan_period, static_cast<double>(count) / *converter.max_rate);
  }
  if (result.scan_period > 0.0) result.rate_limit = 1.0 / result.scan_period;
  result.rate = channel.rate.value_or(result.rate_limit);
  for (const auto* each : scan) {
    const double rate = each->rate.value_or(result.rate_limit);
    result.aggregate_rate += rate;
    result.busy += rate * time_of_one(converter, *each, count);
  }
  return result;
}

int legal_divider(const model::Clock& clock) {
  if (!clock.limits) return clock.divider;
  const auto legal = [&](int divider) {
    const double f = clock.source / divider;
    return f <= clock.limits->high * (1.0 + 1e-12) && f >= clock.limits->low * (1.0 - 1e-12);
  };
  auto candidates = clock.dividers;
  if (candidates.empty()) {
    const double most = std::min(clock.source / std::max(clock.limits->low, 1e-9), 1048576.0);
    const double least = std::max(clock.source / clock.limits->high, 1.0);
    for (const double near : {std::ceil(least * (1.0 - 1e-12)), std::floor(most * (1.0 + 1e-12)),
                              static_cast<double>(clock.divider)}) {
      if (near >= 1.0) candidates.push_back(static_cast<int>(near));
    }
  }
  int best = 0;
  int distance = std::numeric_limits<int>::max();
  for (const int divider : candidates) {
    if (!legal(divider) || std::abs(divider - clock.divider) >= distance) continue;
    best = divider;
    distance = std::abs(divider - clock.divider);
  }
  return best;
}

std::string before_in_scan(const Timing& timing, const std::string& channel) {
  const auto at = std::ranges::find(timing.scan, channel);
  if (at == timing.scan.end()) return channel;
  return at == timing.scan.begin() ? timing.scan.back() : *(at - 1);
}

}  // namespace tamlo::chain
