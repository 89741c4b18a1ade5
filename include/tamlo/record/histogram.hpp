// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <span>
#include <vector>

/// Captured samples, block by block: what has been fed can be asked at any time, and parts of one
/// record that were fed on several machines merge to what one would have found.
namespace tamlo::record {

/// How often each code occurs; all else of a record whose order does not matter follows from that,
/// exactly. The codes may lie anywhere in 64 bits, over a range of up to 2^26 of them: beyond that
/// add() throws std::length_error and keeps what it has.
class Histogram {
 public:
  void add(std::span<const std::int32_t> codes);
  void add(std::int64_t code, std::uint64_t times = 1);
  /// The same as if the other's codes had been fed here: exact, in any order.
  void merge(const Histogram& other);

  std::uint64_t count() const { return count_; }
  bool empty() const { return count_ == 0; }
  std::int64_t least() const;  ///< of a histogram that is not empty; looked for at each call
  std::int64_t most() const;
  std::uint64_t at(std::int64_t code) const;
  /// Codes between the least and the most that never occur.
  std::vector<std::int64_t> missing() const;

  double mean() const;
  /// Of the codes, with n - 1; 0 for less than two.
  double variance() const;
  /// Third and fourth central moments in units of the standard deviation: 0 and 3 of a normal one.
  double skewness() const;
  double kurtosis() const;

 private:
  std::int64_t first_ = 0;  // code of counts_[0]
  std::vector<std::uint64_t> counts_{};
  std::uint64_t count_ = 0;

  void make_room(std::int64_t low, std::int64_t high);
  double central(int power) const;
};

/// Mean, variance and lag-1 correlation of values that are no codes, in one pass. Sums are about
/// the first value and in extended precision: of the certified sets NIST StRD NumAcc1 to NumAcc4
/// all digits that the data have in double precision.
class Moments {
 public:
  void add(std::span<const double> values);
  /// As if the other's values had come after these.
  void merge(const Moments& other);

  std::uint64_t count() const { return count_; }
  double mean() const;
  double variance() const;  ///< with n - 1; 0 for less than two
  /// sum (x_i - mean)(x_(i+1) - mean) / sum (x_i - mean)^2; 0 where all values are the same.
  double lag_correlation() const;
  double least() const { return least_; }
  double most() const { return most_; }

 private:
  std::uint64_t count_ = 0;
  double origin_ = 0.0, first_ = 0.0, last_ = 0.0, least_ = 0.0, most_ = 0.0;
  long double sum_ = 0.0L, squares_ = 0.0L, products_ = 0.0L;  // about the origin
};

}  // namespace tamlo::record
