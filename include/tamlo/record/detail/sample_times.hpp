// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>

#include "tamlo/export.hpp"

namespace tamlo {
namespace record TAMLO_API {

/// Moments of the samples by a column of times, in s.
struct SampleTimes {
  double period = 0.0;          ///< the middle of the first steps
  double jitter = 0.0;          ///< standard deviation of all other steps
  std::uint64_t gaps = 0;       ///< steps of more than one and a half periods
  double longest = 0.0;         ///< of the gaps
  std::uint64_t backwards = 0;  ///< steps back
  std::uint64_t held_back = 0;  ///< steps of less than half a period: they had waited
  std::uint64_t backlog = 0;    ///< the most of those in a row
  std::uint64_t first_odd = 0;  ///< sample behind the first of any of these; 0: none
};

}  // namespace record
}  // namespace tamlo
