// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <atomic>
#include <chrono>
#include <thread>

namespace tamlo::testing {

/// Time in which this machine ran, to a tick of 10 ms and never more than passed: what it stood
/// still, as a guest of a busy host does, is not the fault of what is waited for.
class Awake {
 public:
  std::chrono::milliseconds elapsed() const { return ticks_.load() * tick; }

 private:
  static constexpr std::chrono::milliseconds tick{10};
  std::atomic<int> ticks_{0};
  std::jthread thread_{[this](const std::stop_token& stop) {
    for (; !stop.stop_requested(); ++ticks_) std::this_thread::sleep_for(tick);
  }};
};

}  // namespace tamlo::testing
