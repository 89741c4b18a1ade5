// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>

#include "tamlo/export.hpp"
#include "tamlo/math/interval.hpp"

/// Monte Carlo by the million, and what JCGM 101 takes from it; propagate.hpp runs it. Trials are
/// numbered, and their number is all that their result depends on: threads and machines share them
/// out as they like.
namespace tamlo {
namespace budget TAMLO_API {

/// Number of trials, their seed, and the threads that run them.
struct TrialsRequest {
  std::uint64_t seed = 1;
  std::uint64_t count = 0;  ///< 0: as many as the digits need (JCGM 101, 7.9), up to `most`
  double coverage = 0.95;
  int digits = 2;  ///< of the standard uncertainty, that are to be right
  std::uint64_t most = 10'000'000;
  int threads = 1;
};

using math::Interval;

/// Statistics of one output of trials.
struct Trials {
  std::uint64_t count = 0;
  double mean = 0.0;
  double combined = 0.0;  ///< standard deviation
  Interval symmetric{};   ///< as much probability below it as above
  Interval shortest{};
  bool settled = true;  ///< false: `most` trials did not do for the digits
};

}  // namespace budget
}  // namespace tamlo
