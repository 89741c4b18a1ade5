// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <span>

#include "tamlo/export.hpp"

namespace tamlo {
namespace signal TAMLO_API {

/// Mean, variance and lag-1 correlation of values that are no codes, in one pass. Sums are about
/// the first value and in extended precision: of the certified sets NIST StRD NumAcc1 to NumAcc4
/// all digits that the data have in double precision.
class Moments {
 public:
  /// In the order of time. Finite ones.
  void add(std::span<const double> values);
  /// Adds the other's values, as if they had come after these.
  void merge(const Moments& other);

  /// So far.
  std::uint64_t count() const { return count_; }
  /// 0 of none.
  double mean() const;
  double variance() const;  ///< with n - 1; 0 for less than two
  /// sum (x_i - mean)(x_(i+1) - mean) / sum (x_i - mean)^2; 0 where all values are the same.
  double lag_correlation() const;
  /// The least value.
  double min() const { return least_; }
  /// The largest value.
  double max() const { return most_; }

 private:
  std::uint64_t count_ = 0;
  double origin_ = 0.0, first_ = 0.0, last_ = 0.0, least_ = 0.0, most_ = 0.0;
  long double sum_ = 0.0L, squares_ = 0.0L, products_ = 0.0L;  // about the origin
};

/// Moments of signed 16-bit codes, without the correlation: computed in whole numbers, so exact to
/// the last bit of a double, in any order, of up to 2^46 codes.
class CodeMoments {
 public:
  CodeMoments() = default;
  /// In any order.
  void add(std::span<const std::int16_t> codes);
  /// Those of both; exact.
  void merge(const CodeMoments& other);

  /// So far.
  std::uint64_t count() const { return count_; }
  double mean() const;      ///< of one or more
  double variance() const;  ///< with n - 1; 0 for less than two
  /// The least code.
  std::int16_t min() const { return least_; }
  /// The largest code.
  std::int16_t max() const { return most_; }

 private:
  __extension__ using Wide = __int128;

  std::uint64_t count_ = 0;
  std::int64_t sum_ = 0;
  Wide squares_ = 0;
  std::int16_t least_ = 0, most_ = 0;

  CodeMoments(std::uint64_t count, std::int64_t sum, Wide squares, std::int16_t min,
              std::int16_t max)
      : count_(count), sum_(sum), squares_(squares), least_(min), most_(max) {}
};

}  // namespace signal
}  // namespace tamlo
