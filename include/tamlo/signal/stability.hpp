// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string_view>
#include <vector>

#include "tamlo/export.hpp"

/// Stability of a record over the averaging time (NIST SP 1065, Riley, 2008).
namespace tamlo {
namespace signal TAMLO_API {

/// Kind of noise, by the slope of the deviation over the averaging time.
enum class NoiseKind : std::uint8_t {
  white,        ///< falls as 1 / sqrt(time): averaging helps
  flicker,      ///< level: averaging no longer helps
  random_walk,  ///< rises as sqrt(time)
  drift,        ///< rises as time
};
std::string_view name(NoiseKind kind);

/// Two-sample deviation of means of `averaged` samples each.
struct Deviation {
  std::uint64_t averaged = 1;
  double deviation = 0.0;
  double low = 0.0, high = 0.0;  ///< confidence interval, by the degrees of freedom of its noise
  NoiseKind kind = NoiseKind::white;
  /// Samples from the beginning of one average to that of the next: 1 is full overlap.
  std::uint64_t stride = 1;
};

/// Allan deviations of a record over averages of each length.
struct Stability {
  std::vector<Deviation> deviations{};
  /// Number of samples in the average with the lowest deviation: longer averages do not help.
  std::uint64_t best = 1;
  double lowest = 0.0;
};

/// Overlapping Allan deviation of values at equal times, for averages of 1, 2, 4, ... samples up to
/// a third of the record, or of those in `averaged`:
///
///     sqrt( sum_j (S(j + 2m) - 2 S(j + m) + S(j))^2 / (2 m^2 (n - 2m + 1)) ),  S the running sum
///
/// Needs three values. Prefix sums are about the mean and in extended precision.
Stability stability(std::span<const double> values, std::span<const std::uint64_t> averaged = {},
                    double coverage = 0.95);

/// Allan deviations in constant memory, for values that come block by block. Up to 2^19 samples are
/// held and overlap in full. In a longer record averages of 1, 2, 4, ... that are longer than 16
/// begin at every sixteenth of their length (Deviation::stride), which can put their deviation off
/// by some per cent; averages that were asked for overlap in full whatever the record. Parts of a
/// record merge as stretches of their own: no average lies across the joint.
class StabilityParts {
 public:
  static constexpr std::size_t most_held = std::size_t{1} << 19;
  /// Beside the powers of two; each 1 to most_held / 2, else ArgumentError.
  explicit StabilityParts(std::vector<std::uint64_t> averaged = {});
  /// In the order of time.
  void add(std::span<const double> values);
  /// A stretch of its own. Throws ArgumentError for other averages.
  void merge(const StabilityParts& other);
  /// Values so far.
  std::uint64_t count() const { return count_; }
  /// Needs three values.
  Stability result(double coverage = 0.95) const;

 private:
  static constexpr std::size_t longest = 16;  // averages of a level, in its blocks
  static constexpr std::size_t batch = 4096;  // blocks that are taken at once; even
  struct Level {
    std::vector<double>
        blocks{};  // sums of 2^level values: what was taken before, then what is new
    std::size_t history = 0;
  };
  struct Octave {
    long double squares = 0.0L;
    std::uint64_t terms = 0;
  };
  // Averages that were asked for, from the last running sums.
  struct Asked {
    std::vector<std::uint64_t> averaged{};
    std::vector<Octave> octaves{};
    std::vector<double> sums{};  // a ring
    std::uint64_t count = 0;     // of this stretch
    double sum = 0.0;

    void add(std::span<const double> values);
  };
  std::uint64_t count_ = 0;
  double origin_ = 0.0;
  std::vector<Level> levels_{};
  std::vector<Octave> octaves_{};
  std::vector<double> sums_{}, less_{};
  Asked asked_{};
  std::vector<std::vector<double>> held_{};  // stretches, less the origin; empty once spilled_
  bool spilled_ = false;

  void feed(std::size_t level, std::span<const double> blocks);
  void pass(std::size_t level);
  void flush();
  void spill();
  void add_octaves(StabilityParts part);
};

}  // namespace signal
}  // namespace tamlo
