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
    std::uint64_t of_problem = blocks.count;
    const auto one = [&](std::uint64_t block, bool asks) {
      try {
        const auto figures = blocks.work(block);
        const std::scoped_lock lock(taking);
        blocks.take(block, figures);
        ++taken;
        const double part = static_cast<double>(taken) / static_cast<double>(blocks.count);
        if (asks && blocks.go_on && !blocks.go_on(part)) stop = true;
      } catch (...) {
        // All blocks before it are done or on their way, so that the first problem is the same
        // for any number of threads.
        const std::scoped_lock lock(taking);
        if (block < of_problem) of_problem = block, problem = std::current_exception();
        stop = true;
      }
    };
    const auto work = [&](bool asks) {
      while (!stop) {
        const auto block = next++;
        if (block >= blocks.count) break;
        if (blocks.known.empty() || !blocks.known[block]) one(block, asks);
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

bool each_by_processors(std::size_t count, const std::function<void(std::size_t)>& work,
                        const std::function<bool(double part)>& go_on) {
  const Blocks blocks{.count = count,
                      .work =
                          [&](std::uint64_t block) {
                            work(static_cast<std::size_t>(block));
                            return std::vector<double>{};
                          },
                      .take = [](std::uint64_t, const std::vector<double>&) {},
                      .go_on = go_on};
  const auto threads = std::min<std::size_t>(count, std::thread::hardware_concurrency());
  return by_threads(static_cast<unsigned>(threads))(blocks);
}

}  // namespace tamlo::math
