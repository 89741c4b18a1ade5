// SPDX-License-Identifier: Apache-2.0
#include "tamlo/signal/moments.hpp"

#include <algorithm>
#include <cmath>

#include "counting.hpp"
#include "tamlo/error.hpp"

namespace tamlo::signal {

void Moments::add(std::span<const double> values) {
  for (const double value : values) {
    if (!std::isfinite(value)) throw DataError("a value of a record that is not a finite number");
  }
  for (const double value : values) {
    if (count_ == 0) {
      origin_ = first_ = least_ = most_ = value;
    } else {
      products_ +=
          (static_cast<long double>(last_) - origin_) * (static_cast<long double>(value) - origin_);
    }
    const auto from = static_cast<long double>(value) - origin_;
    sum_ += from;
    squares_ += from * from;
    least_ = std::min(least_, value);
    most_ = std::max(most_, value);
    last_ = value;
    ++count_;
  }
}

void Moments::merge(const Moments& other) {
  if (other.count_ == 0) return;
  if (count_ == 0) {
    *this = other;
    return;
  }
  // The other's sums, about this origin.
  const auto by = static_cast<long double>(other.origin_) - origin_;
  const auto n = static_cast<long double>(other.count_);
  products_ += (static_cast<long double>(last_) - origin_) *
               (static_cast<long double>(other.first_) - origin_);
  const auto ends = (static_cast<long double>(other.first_) - other.origin_) +
                    (static_cast<long double>(other.last_) - other.origin_);
  products_ += other.products_ + by * (2.0L * other.sum_ - ends) + (n - 1.0L) * by * by;
  squares_ += other.squares_ + 2.0L * by * other.sum_ + n * by * by;
  sum_ += other.sum_ + n * by;
  count_ += other.count_;
  least_ = std::min(least_, other.least_);
  most_ = std::max(most_, other.most_);
  last_ = other.last_;
}

double Moments::mean() const {
  require(count_ > 0, "nothing has no mean");
  return static_cast<double>(origin_ + sum_ / static_cast<long double>(count_));
}

double Moments::variance() const {
  if (count_ < 2) return 0.0;
  const auto n = static_cast<long double>(count_);
  return static_cast<double>(std::max(0.0L, (squares_ - sum_ * sum_ / n) / (n - 1.0L)));
}

double Moments::lag_correlation() const {
  const auto n = static_cast<long double>(count_);
  const auto m = sum_ / n;  // the mean, about the origin
  const auto all = squares_ - n * m * m;
  if (!(all > 0.0L)) return 0.0;
  const auto ends =
      (static_cast<long double>(first_) - origin_) + (static_cast<long double>(last_) - origin_);
  return static_cast<double>((products_ - m * (2.0L * sum_ - ends) + (n - 1.0L) * m * m) / all);
}

void CodeMoments::add(std::span<const std::int16_t> codes) {
  constexpr std::size_t at_once = std::size_t{1} << 32U;
  const auto sums_of = math::chosen(base::sums_of, avx2::sums_of, avx512::sums_of);
  for (; !codes.empty(); codes = codes.subspan(std::min(at_once, codes.size()))) {
    const auto n = std::min(at_once, codes.size());
    const auto some = sums_of(codes.data(), n);
    merge(CodeMoments(n, some.sum, some.squares, some.min, some.max));
  }
}

void CodeMoments::merge(const CodeMoments& other) {
  if (other.count_ == 0) return;
  least_ = count_ == 0 ? other.least_ : std::min(least_, other.least_);
  most_ = count_ == 0 ? other.most_ : std::max(most_, other.most_);
  sum_ += other.sum_;
  squares_ += other.squares_;
  count_ += other.count_;
}

double CodeMoments::mean() const {
  return static_cast<double>(static_cast<long double>(sum_) / static_cast<long double>(count_));
}

double CodeMoments::variance() const {
  if (count_ < 2) return 0.0;
  const auto n = static_cast<long double>(count_);
  const auto squares_from_mean =
      static_cast<Wide>(count_) * squares_ - static_cast<Wide>(sum_) * sum_;
  return static_cast<double>(static_cast<long double>(squares_from_mean) / n / (n - 1.0L));
}

}  // namespace tamlo::signal
