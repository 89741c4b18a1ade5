// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <array>
#include <cstdint>

#include "tamlo/export.hpp"

namespace tamlo {
namespace math TAMLO_API {

/// A stream of random numbers told by two numbers: the seed of the whole work and the number of the
/// trial or unit. Streams are independent of one another and of the order in which they are used,
/// so results do not depend on threads. Counter-based: Philox 4x32, 10 rounds
/// (Salmon, Moraes, Dror and Shaw, 2011).
class RandomStream {
 public:
  /// Numbers that depend on these two alone.
  RandomStream(std::uint64_t seed, std::uint64_t number) : seed_(seed), number_(number) {}

  /// Uniform in (0, 1), never an end; 2^-53 apart.
  double uniform();
  /// Standard normal (Box and Muller, 1958).
  double normal();

 private:
  std::uint64_t seed_;
  std::uint64_t number_;
  std::uint64_t drawn_ = 0;
  std::array<double, 2> block_{};
  double spare_ = 0.0;
  bool has_spare_ = false;
};

}  // namespace math
}  // namespace tamlo
