// SPDX-License-Identifier: Apache-2.0
#include "tamlo/record/histogram.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdlib>
#include <cstring>
#include <limits>
#include <stdexcept>
#include <utility>

namespace tamlo::record {
namespace {

constexpr std::int64_t most_codes = std::int64_t{1} << 26;

}  // namespace

void Histogram::make_room(std::int64_t low, std::int64_t high) {
  const auto size = static_cast<std::int64_t>(counts_.size());
  if (!counts_.empty() && low >= first_ && high < first_ + size) return;
  const auto begin = count_ > 0 ? least() : 0, end = count_ > 0 ? most() : 0;
  if (count_ > 0) {
    low = std::min(low, begin);
    high = std::max(high, end);
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
    std::copy(counts_.begin() + (begin - first_), counts_.begin() + (end - first_) + 1,
              counts.begin() + (begin - first));
  }
  counts_ = std::move(counts);
  first_ = first;
}

std::int64_t Histogram::least() const {
  const auto at = std::ranges::find_if(counts_, [](std::uint64_t n) { return n > 0; });
  return first_ + (at - counts_.begin());
}

std::int64_t Histogram::most() const {
  const auto at =
      std::find_if(counts_.rbegin(), counts_.rend(), [](std::uint64_t n) { return n > 0; });
  return first_ + (counts_.rend() - at) - 1;
}

void Histogram::add(std::int64_t code, std::uint64_t times) {
  if (times == 0) return;
  make_room(code, code);
  counts_[static_cast<std::size_t>(code - first_)] += times;
  count_ += times;
}

namespace {

constexpr std::int32_t narrow = 64;

// By one code in 64.
bool seems_narrow(std::span<const std::int32_t> codes, std::int32_t first) {
  for (std::size_t i = 0; i < codes.size(); i += 64) {
    if (codes[i] < first || codes[i] - first >= narrow) return false;
  }
  return true;
}

// Counts codes first, first + 1, ..., first + 63, two at a time: so one code seldom waits for the
// one before. False, and nothing counted, if there is any other code.
bool count_pairs(std::span<const std::int32_t> codes, std::int32_t first, std::uint64_t* counts) {
  std::array<std::uint32_t, narrow * narrow> pairs{};
  // Both as numbers without a sign, in their order, so that what lies below the first one, and only
  // that, leaves bits above the lowest six.
  constexpr std::uint64_t each = 0x1'0000'0001U, sign = 0x8000'0000U;
  const auto from = each * (static_cast<std::uint32_t>(first) ^ sign);
  std::uint64_t beyond = 0;
  const auto take = [&](const std::int32_t* codes_at) {
    std::uint64_t two = 0;
    std::memcpy(&two, codes_at, sizeof two);
    two = (two ^ each * sign) - from;
    beyond |= two;
    return two;
  };
  std::size_t i = 0;
  for (; i + 1 < codes.size(); i += 2) {
    const auto two = take(codes.data() + i);
    ++pairs[(two * narrow | two >> 32U) % pairs.size()];
  }
  const bool odd = i < codes.size();
  const auto last = odd ? static_cast<std::int64_t>(codes[i]) - first : 0;
  if ((beyond & ~(each * (narrow - 1U))) != 0 || last < 0 || last >= narrow) return false;
  if (odd) ++counts[last];
  std::array<std::uint32_t, narrow> columns{};
  for (std::size_t one = 0; one < narrow; ++one) {
    const auto* const row = pairs.data() + one * narrow;
    std::uint32_t sum = 0;
    for (std::size_t other = 0; other < narrow; ++other) {
      sum += row[other];
      columns[other] += row[other];
    }
    counts[one] += sum;
  }
  for (std::size_t other = 0; other < narrow; ++other) counts[other] += columns[other];
  return true;
}

}  // namespace

void Histogram::add(std::span<const std::int32_t> codes) {
  if (codes.empty()) return;
  constexpr std::int32_t far = std::numeric_limits<std::int32_t>::max() / 2;
  const auto first = codes.front() - narrow / 2;
  if (codes.size() >= 4096 && std::abs(codes.front()) < far && seems_narrow(codes, first)) {
    make_room(first, first + narrow - 1);
    if (count_pairs(codes, first, counts_.data() + (first - first_))) {
      count_ += codes.size();
      return;
    }
  }
  std::uint64_t* counts = counts_.data();
  std::uint64_t size = counts_.size(), counted = 0;
  auto from = first_;
  for (const auto code : codes) {
    auto place = static_cast<std::uint64_t>(code - from);
    if (place >= size) [[unlikely]] {
      count_ += std::exchange(counted, 0);  // what make_room() must keep
      make_room(code, code);
      counts = counts_.data();
      size = counts_.size();
      from = first_;
      place = static_cast<std::uint64_t>(code - from);
    }
    ++counts[place];
    ++counted;
  }
  count_ += counted;
}

void Histogram::merge(const Histogram& other) {
  if (other.empty()) return;
  make_room(other.least(), other.most());
  for (std::size_t i = 0; i < other.counts_.size(); ++i) {
    if (other.counts_[i] == 0) continue;
    const auto place = other.first_ + static_cast<std::int64_t>(i) - first_;
    counts_[static_cast<std::size_t>(place)] += other.counts_[i];
  }
  count_ += other.count_;
}

std::uint64_t Histogram::at(std::int64_t code) const {
  const auto place = code - first_;
  const bool held = place >= 0 && place < static_cast<std::int64_t>(counts_.size());
  return held ? counts_[static_cast<std::size_t>(place)] : 0;
}

std::vector<std::int64_t> Histogram::missing() const {
  std::vector<std::int64_t> result;
  const auto last = most();
  for (auto code = least(); code <= last; ++code) {
    if (at(code) == 0) result.push_back(code);
  }
  return result;
}

double Histogram::mean() const {
  const auto begin = least();
  long double sum = 0.0L;
  for (auto place = begin - first_; place < static_cast<std::int64_t>(counts_.size()); ++place) {
    sum += static_cast<long double>(place - (begin - first_)) *
           static_cast<long double>(counts_[static_cast<std::size_t>(place)]);
  }
  return static_cast<double>(static_cast<long double>(begin) +
                             sum / static_cast<long double>(count_));
}

double Histogram::central(int power) const {
  const auto mean_place = static_cast<long double>(mean()) - static_cast<long double>(first_);
  long double sum = 0.0L;
  for (std::size_t place = 0; place < counts_.size(); ++place) {
    if (counts_[place] == 0) continue;
    const auto from = static_cast<long double>(place) - mean_place;
    long double product = 1.0L;
    for (int i = 0; i < power; ++i) product *= from;
    sum += product * static_cast<long double>(counts_[place]);
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
