// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "tamlo/export.hpp"

/// Values over time, for a picture and for a trend.
namespace tamlo {
namespace signal TAMLO_API {

/// Neighbours that were drawn together.
struct Stretch {
  std::uint64_t first = 0, count = 0;
  double low = 0.0, high = 0.0, mean = 0.0;
};

/// A record of any length as at most so many stretches of one length, a power of two, the last one
/// perhaps shorter. No extreme is lost.
class Chart {
 public:
  /// An even number of stretches, 2 or more.
  explicit Chart(std::size_t max = 2048);
  /// In the order of time.
  void add(std::span<const double> values);
  /// Returns the stretches, at most as many as were asked for.
  std::vector<Stretch> stretches() const;

 private:
  std::size_t most_;
  std::uint64_t width_ = 1;
  std::vector<Stretch> stretches_{};  // mean holds the sum

  void join_pairs();
};

/// Tells whether values wander: the line through the means of the stretches.
struct Trend {
  double slope = 0.0;                 ///< a sample
  double standard_uncertainty = 0.0;  ///< as the means scatter about the line
  bool moves = false;                 ///< beyond what 99 % of steady records show
};
/// All 0 for less than eight whole stretches.
Trend trend(const Chart& chart);

}  // namespace signal
}  // namespace tamlo
