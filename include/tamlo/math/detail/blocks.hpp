// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <functional>
#include <vector>

#include "tamlo/export.hpp"

namespace tamlo {
namespace math TAMLO_API {

/// Work in numbered blocks. A block's figures depend on its number alone, so it does not matter who
/// does it, when, or how often: the result is the same for any number of threads or machines.
struct Blocks {
  std::uint64_t count = 0;
  std::vector<bool> known{};  ///< blocks that need not be done; none, or one for each
  /// The figures of a block. Called from several threads at once, or on another machine.
  std::function<std::vector<double>(std::uint64_t block)> work{};
  /// Called once for each of the others, in any order, never from two threads at once.
  std::function<void(std::uint64_t block, const std::vector<double>& figures)> take{};
  /// Asked now and then with the part that is done; false ends the work.
  std::function<bool(double part)> go_on{};
};

/// Does all blocks and returns true; false where go_on ended it. What work or take throws ends it:
/// that of the first block that does.
using BlockDriver = std::function<bool(const Blocks&)>;

/// One or more threads of this process.
BlockDriver by_threads(unsigned threads);

/// Does works 0 to count - 1, each for itself, by as many threads as there are processors, and
/// returns true; false where `go_on`, which is asked between them, ended it.
bool each_by_processors(std::size_t count, const std::function<void(std::size_t)>& work,
                        const std::function<bool(double part)>& go_on = {});

}  // namespace math
}  // namespace tamlo
