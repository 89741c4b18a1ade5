// SPDX-License-Identifier: Apache-2.0
// Averages and filters run sample by sample, as a firmware runs them.
#include <algorithm>
#include <cmath>

#include "tamlo/chain/detail/digital.hpp"
#include "tamlo/error.hpp"
#include "tamlo/math/detail/linear.hpp"

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
    memory.taps.assign(2 * stage.taps.size(), value);
    memory.taps_at = stage.taps.size();
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

double DigitalState::through(const model::PreparedFilter& stage, Memory& memory,
                             double value) const {
  if (stage.median > 0) {
    require(std::isfinite(value), "a median is of finite numbers");
    // The one that leaves makes room for the new one, in order: those between them move up by one.
    auto& sorted = memory.sorted;
    const auto leaves = std::ranges::lower_bound(sorted, memory.median[memory.median_at]);
    const auto comes = std::ranges::upper_bound(sorted, value);
    if (comes > leaves) {
      std::move(leaves + 1, comes, leaves);
      *(comes - 1) = value;
    } else {
      std::move_backward(comes, leaves, leaves + 1);
      *comes = value;
    }
    memory.median[memory.median_at] = value;
    memory.median_at = (memory.median_at + 1) % memory.median.size();
    return sorted[static_cast<std::size_t>(stage.median / 2)];
  }
  if (stage.taps.size() > 1) {
    // The newest stands in front of the others; at the front of the memory they move to its end.
    const auto n = stage.taps.size();
    if (memory.taps_at == 0) {
      std::copy(memory.taps.begin(), memory.taps.begin() + static_cast<std::ptrdiff_t>(n - 1),
                memory.taps.end() - static_cast<std::ptrdiff_t>(n - 1));
      memory.taps_at = memory.taps.size() - (n - 1);
    }
    memory.taps[--memory.taps_at] = value;
    value = math::dot(stage.taps.data(), memory.taps.data() + memory.taps_at, n);
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
