// SPDX-License-Identifier: Apache-2.0
#include "tamlo/math/detail/blocks.hpp"

#include <algorithm>
#include <atomic>
#include <exception>
#include <mutex>
#include <thread>

namespace tamlo::math {

BlockDriver by_threads(unsigned threads) {
  return [threads](const Blocks& blocks) {
    std::atomic<std::uint64_t> next = 0;
    std::atomic<bool> stop = false;
    std::mutex taking;
    auto taken = static_cast<std::uint64_t>(std::ranges::count(blocks.known, true));
    std::exception_ptr problem;
    const auto work = [&](bool asks) {
      try {
        for (auto block = next++; block < blocks.count && !stop; block = next++) {
          if (!blocks.known.empty() && blocks.known[block]) continue;
          const auto figures = blocks.work(block);
          const std::scoped_lock lock(taking);
          blocks.take(block, figures);
          ++taken;
          const double part = static_cast<double>(taken) / static_cast<double>(blocks.count);
          if (asks && blocks.go_on && !blocks.go_on(part)) stop = true;
        }
      } catch (...) {
        const std::scoped_lock lock(taking);
        if (!problem) problem = std::current_exception();
        stop = true;
      }
    };
    {
      std::vector<std::jthread> others;
      for (unsigned i = 1; i < threads; ++i) others.emplace_back(work, false);
      work(true);
    }
    if (problem) std::rethrow_exception(problem);
    return taken == blocks.count;
  };
}

}  // namespace tamlo::math
