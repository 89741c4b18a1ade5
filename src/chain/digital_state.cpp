// SPDX-License-Identifier: Apache-2.0
// Averages and filters run sample by sample, as a firmware runs them.
#include <algorithm>
#include <cmath>

#include "tamlo/chain/detail/digital.hpp"
#include "tamlo/error.hpp"

namespace tamlo::chain {

DigitalState::DigitalState(const Digital& digital) : digital_(&digital) { prime(0.0); }

void DigitalState::prime(double value) {
  memory_.clear();
  value_ = value;
  for (const auto& stage : digital_->stages) {
    Memory memory;
    for (const int length : stage.averages) {
      memory.averages.emplace_back(static_cast<std::size_t>(length), value);
      memory.at.push_back(0);
      memory.sums.push_back(value * length);
    }
    for (const auto& s : stage.sections) {
      const double second = (s.b2 - s.a2) * value;
      memory.sections.emplace_back((s.b1 - s.a1) * value + second, second);
    }
    memory.taps.assign(stage.taps.size(), value);
    memory.median.assign(static_cast<std::size_t>(stage.median), value);
    memory.sorted = memory.median;
    memory_.push_back(std::move(memory));
  }
}

bool DigitalState::push(double value) {
  for (std::size_t i = 0; i < memory_.size(); ++i) {
    value = through(digital_->stages[i], memory_[i], value);
    if (++memory_[i].kept < digital_->stages[i].decimation) return false;
    memory_[i].kept = 0;
  }
  value_ = value;
  return true;
}

double DigitalState::through(const DigitalStage& stage, Memory& memory, double value) const {
  if (stage.median > 0) {
    require(std::isfinite(value), "a median is of finite numbers");
    // The one that leaves makes room for the new one, in order.
    auto& sorted = memory.sorted;
    sorted.erase(std::ranges::lower_bound(sorted, memory.median[memory.median_at]));
    sorted.insert(std::ranges::upper_bound(sorted, value), value);
    memory.median[memory.median_at] = value;
    memory.median_at = (memory.median_at + 1) % memory.median.size();
    return sorted[static_cast<std::size_t>(stage.median / 2)];
  }
  if (stage.taps.size() > 1) {
    std::rotate(memory.taps.begin(), memory.taps.end() - 1, memory.taps.end());
    memory.taps.front() = value;
    value = 0.0;
    for (std::size_t k = 0; k < stage.taps.size(); ++k) value += stage.taps[k] * memory.taps[k];
  }
  for (std::size_t i = 0; i < memory.averages.size(); ++i) {
    auto& last = memory.averages[i];
    auto& at = memory.at[i];
    memory.sums[i] += value - last[at];
    last[at] = value;
    at = (at + 1) % last.size();
    if (at == 0) {  // summed anew once a round, so that rounding does not pile up
      memory.sums[i] = 0.0;
      for (const double x : last) memory.sums[i] += x;
    }
    value = memory.sums[i] / static_cast<double>(last.size());
  }
  for (std::size_t i = 0; i < stage.sections.size(); ++i) {
    const auto& s = stage.sections[i];
    auto& [first, second] = memory.sections[i];
    const double y = s.b0 * value + first;
    first = s.b1 * value - s.a1 * y + second;
    second = s.b2 * value - s.a2 * y;
    value = y;
  }
  return value;
}

}  // namespace tamlo::chain
