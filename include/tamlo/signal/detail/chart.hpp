// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

#include "tamlo/export.hpp"

/// Values over time: of a record, for a picture and for a trend, and as they come.
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

// Values as they come in time, for a strip chart that runs for hours.

/// Values of one stretch of time.
struct StripColumn {
  std::uint64_t count = 0;
  double low = 0.0, high = 0.0, sum = 0.0;

  /// Returns the mean of its values.
  double mean() const { return sum / static_cast<double>(count); }
  /// A value more.
  void add(double value);
  /// Those of both.
  void merge(const StripColumn& other);
};

/// Keeps the last thirteen minutes in steps of a tenth of a second, and the last fourteen hours in
/// steps of 6.4 s; what is older is dropped, and no extreme of what is kept is lost. Its memory
/// does not grow.
class Strip {
 public:
  Strip();
  /// Times do not fall. A value that is not finite throws ArgumentError.
  void add(double seconds, double value);
  /// The time from one moment to a later one in `columns` equal parts, from the finer steps where
  /// they reach back so far. A step belongs to the column in which it begins.
  std::vector<StripColumn> columns(double from, double to, std::size_t columns) const;

  /// From where to where the last so many fine steps reach, the one that is filling as the last.
  struct Reach {
    double from = 0.0, to = 0.0;
  };
  /// So many steps up to now.
  static Reach last_steps(double now, std::size_t steps);

  static constexpr double longest = 8192 * 6.4;  ///< s

 private:
  // A ring of steps; the step of a time is its number modulo the size.
  struct Steps {
    double width;
    std::vector<StripColumn> ring;
    std::int64_t newest = -1;  // the number of the last step

    void add(double seconds, double value);
  };
  Steps fine_, coarse_;
};

}  // namespace signal
}  // namespace tamlo
