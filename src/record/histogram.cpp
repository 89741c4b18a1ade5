// SPDX-License-Identifier: Apache-2.0
#include "tamlo/record/histogram.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <stdexcept>

namespace tamlo::record {
namespace {

constexpr std::int64_t most_codes = std::int64_t{1} << 26;

}  // namespace

void Histogram::make_room(std::int64_t low, std::int64_t high) {
  const auto size = static_cast<std::int64_t>(counts_.size());
  if (!counts_.empty() && low >= first_ && high < first_ + size) return;
  if (count_ > 0) {
    low = std::min(low, least());
    high = std::max(high, most());
  }
  // Not `high - low`: the ends of 64 bits are farther apart than they can say.
  const auto width = static_cast<std::uint64_t>(high) - static_cast<std::uint64_t>(low);
  if (width >= static_cast<std::uint64_t>(most_codes)) {
    throw std::length_error("the codes of a record lie too far apart for a histogram");
  }
  // Twice as wide as needed, so that a record that wanders does not grow it at every step.
  const auto room = static_cast<std::int64_t>(width / 2 + 16);
  std::vector<std::uint64_t> counts(static_cast<std::size_t>(width) + 1 +
                                    2 * static_cast<std::size_t>(room));
  const auto first = low - room;
  if (count_ > 0) {
    std::copy(counts_.begin() + low_, counts_.begin() + high_ + 1,
              counts.begin() + (least() - first));
    low_ += first_ - first;
    high_ += first_ - first;
  }
  counts_ = std::move(counts);
  first_ = first;
}

void Histogram::add(std::int64_t code, std::uint64_t times) {
  if (times == 0) return;
  make_room(code, code);
  const auto place = code - first_;
  counts_[static_cast<std::size_t>(place)] += times;
  low_ = count_ > 0 ? std::min(low_, place) : place;
  high_ = count_ > 0 ? std::max(high_, place) : place;
  count_ += times;
}

namespace {

// Counts codes `first` to first + 63, two at a time: so one code seldom waits for the one before.
void count_pairs(std::span<const std::int32_t> codes, std::int32_t first, std::uint64_t* counts) {
  constexpr std::size_t width = 64;
  std::array<std::uint32_t, width * width> pairs{};
  const auto place = [&](std::int32_t code) { return static_cast<std::size_t>(code - first); };
  std::size_t i = 0;
  for (; i + 1 < codes.size(); i += 2) ++pairs[place(codes[i]) * width + place(codes[i + 1])];
  if (i < codes.size()) ++counts[place(codes[i])];
  for (std::size_t one = 0; one < width; ++one) {
    for (std::size_t other = 0; other < width; ++other) {
      const auto times = pairs[one * width + other];
      counts[one] += times;
      counts[other] += times;
    }
  }
}

}  // namespace

void Histogram::add(std::span<const std::int32_t> codes) {
  if (codes.empty()) return;
  auto least_code = codes.front(), most_code = codes.front();
  for (const auto code : codes) {
    least_code = std::min(least_code, code);
    most_code = std::max(most_code, code);
  }
  // Room for as many as are counted in pairs, whether they occur or not.
  const bool narrow = codes.size() >= 4096 && most_code < least_code + 64 &&
                      least_code < std::numeric_limits<std::int32_t>::max() - 64;
  make_room(least_code, narrow ? least_code + 63 : most_code);
  std::uint64_t* const counts = counts_.data();
  const auto first = first_;
  if (narrow) {
    count_pairs(codes, least_code, counts + (least_code - first));
  } else {
    for (const auto code : codes) ++counts[code - first];
  }
  const auto low = least_code - first_, high = most_code - first_;
  low_ = count_ > 0 ? std::min(low_, low) : low;
  high_ = count_ > 0 ? std::max(high_, high) : high;
  count_ += codes.size();
}

void Histogram::merge(const Histogram& other) {
  if (other.empty()) return;
  make_room(other.least(), other.most());
  for (auto code = other.least(); code <= other.most(); ++code) add(code, other.at(code));
}

std::uint64_t Histogram::at(std::int64_t code) const {
  const auto place = code - first_;
  const bool held = place >= 0 && place < static_cast<std::int64_t>(counts_.size());
  return held ? counts_[static_cast<std::size_t>(place)] : 0;
}

std::vector<std::int64_t> Histogram::missing() const {
  std::vector<std::int64_t> result;
  for (auto place = low_; place <= high_; ++place) {
    if (counts_[static_cast<std::size_t>(place)] == 0) result.push_back(first_ + place);
  }
  return result;
}

double Histogram::mean() const {
  long double sum = 0.0L;
  for (auto place = low_; place <= high_; ++place) {
    sum += static_cast<long double>(place - low_) *
           static_cast<long double>(counts_[static_cast<std::size_t>(place)]);
  }
  return static_cast<double>(static_cast<long double>(least()) +
                             sum / static_cast<long double>(count_));
}

double Histogram::central(int power) const {
  const auto mean_place = static_cast<long double>(mean()) - static_cast<long double>(first_);
  long double sum = 0.0L;
  for (auto place = low_; place <= high_; ++place) {
    const auto from = static_cast<long double>(place) - mean_place;
    long double product = 1.0L;
    for (int i = 0; i < power; ++i) product *= from;
    sum += product * static_cast<long double>(counts_[static_cast<std::size_t>(place)]);
  }
  return static_cast<double>(sum);
}

double Histogram::variance() const {
  return count_ < 2 ? 0.0 : central(2) / static_cast<double>(count_ - 1);
}

double Histogram::skewness() const {
  const auto n = static_cast<double>(count_);
  const double second = central(2) / n;
  return second > 0.0 ? central(3) / n / std::pow(second, 1.5) : 0.0;
}

double Histogram::kurtosis() const {
  const auto n = static_cast<double>(count_);
  const double second = central(2) / n;
  return second > 0.0 ? central(4) / n / (second * second) : 3.0;
}

void Moments::add(std::span<const double> values) {
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

}  // namespace tamlo::record
