// SPDX-License-Identifier: Apache-2.0
#include "tamlo/signal/histogram.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <numbers>
#include <stdexcept>
#include <utility>

#include "counting.hpp"
#include "tamlo/error.hpp"

namespace tamlo::signal {
namespace {

constexpr std::int64_t most_codes = std::int64_t{1} << 25;  // 134 MB
constexpr double seen_in_each = 20.0;
constexpr std::size_t piece = 16384;  // of a block, that is counted in one way
// Few codes that lie far apart are found again without a look at all between them.
constexpr std::size_t stretch = 1024;
constexpr std::size_t looked_through = 64;  // that many stretches are all used

// How many have room, up to the first that has none: they are counted.
template <bool marks, class Code>
std::size_t count_codes(std::span<const Code> codes, std::int64_t first,
                        std::span<std::uint32_t> counts, char* used) {
  for (std::size_t i = 0; i < codes.size(); ++i) {
    const auto place = static_cast<std::uint64_t>(codes[i] - first);
    if (place >= counts.size()) [[unlikely]]
      return i;
    ++counts[place];
    if constexpr (marks) used[place / stretch] = 1;
  }
  return codes.size();
}

}  // namespace

template <class Take>
void Histogram::for_each(Take take) const {
  for (std::size_t i = 0; i < used_.size(); ++i) {
    if (used_[i] == 0) continue;
    const auto end = std::min((i + 1) * stretch, recent_.size());
    for (auto place = i * stretch; place < end; ++place) {
      if (const auto times = counted(place); times > 0) take(place, times);
    }
  }
}

void Histogram::make_room(std::int64_t low, std::int64_t high) {
  const auto size = static_cast<std::int64_t>(recent_.size());
  if (low >= first_ && high < first_ + size) return;
  if (size > 0) {  // then something is counted
    low = std::min(low, min());
    high = std::max(high, max());
  }
  // Not `high - low`: the ends of 64 bits are farther apart than they can say.
  const auto width = static_cast<std::uint64_t>(high) - static_cast<std::uint64_t>(low);
  if (width >= static_cast<std::uint64_t>(most_codes)) {
    throw DataError("values of the record that lie too far apart to be counted");
  }
  // Twice as wide as needed, so that a record that wanders does not grow it at every step.
  const auto room = std::min(static_cast<std::int64_t>(width / 2 + 16),
                             (most_codes - static_cast<std::int64_t>(width)) / 2);
  const auto size_now = width + 1 + 2 * static_cast<std::size_t>(room);
  Histogram wider;
  wider.first_ = low - room;
  wider.recent_ = Zeros<std::uint32_t>(size_now);
  if (!earlier_.empty()) wider.earlier_ = Zeros<std::uint64_t>(size_now);
  const auto stretches = size_now / stretch + 1;
  wider.used_.resize(stretches, stretches <= looked_through ? 1 : 0);
  for_each([&](std::size_t place, std::uint64_t) {
    const auto to = wider.place_of(code_at(place));
    wider.recent_[to] = recent_[place];
    if (!earlier_.empty()) wider.earlier_[to] = earlier_[place];
    wider.used_[to / stretch] = 1;
  });
  wider.recent_count_ = recent_count_;
  wider.count_ = count_;
  *this = std::move(wider);
}

// Before the recent counts could overflow.
void Histogram::expect(std::uint64_t more) {
  if (more <= std::numeric_limits<std::uint32_t>::max() - recent_count_) {
    recent_count_ += more;
    return;
  }
  if (earlier_.empty()) earlier_ = Zeros<std::uint64_t>(recent_.size());
  for_each([&](std::size_t place, std::uint64_t) {
    earlier_[place] += std::exchange(recent_[place], 0);
  });
  recent_count_ = more;
}

std::int64_t Histogram::min() const {
  require(!empty(), "an empty histogram has no min code");
  const auto used = std::ranges::find(used_, 1) - used_.begin();
  auto place = static_cast<std::size_t>(used) * stretch;
  while (counted(place) == 0) ++place;
  return code_at(place);
}

std::int64_t Histogram::max() const {
  require(!empty(), "an empty histogram has no largest code");
  const auto unused = std::find(used_.rbegin(), used_.rend(), 1) - used_.rbegin();
  auto place =
      std::min((used_.size() - static_cast<std::size_t>(unused)) * stretch, recent_.size());
  while (counted(--place) == 0) {
  }
  return code_at(place);
}

void Histogram::add(std::int64_t code, std::uint64_t times) {
  if (times == 0) return;
  make_room(code, code);
  const auto place = place_of(code);
  used_[place / stretch] = 1;
  if (times <= std::numeric_limits<std::uint32_t>::max()) {
    expect(times);
    recent_[place] += static_cast<std::uint32_t>(times);
  } else {
    if (earlier_.empty()) earlier_ = Zeros<std::uint64_t>(recent_.size());
    earlier_[place] += times;
  }
  count_ += times;
}

// Two at a time, so that one code seldom waits for the one before. Nothing is counted, and false,
// unless all lie near to one another, which one in 256 of them tells at little cost, mostly.
// `ahead` are those that come next.
template <class Code>
bool Histogram::add_narrow(std::span<const Code> codes, std::span<const Code> ahead) {
  constexpr auto reach = static_cast<std::int32_t>(narrow);
  constexpr auto far = std::numeric_limits<std::int32_t>::max() / 2;
  std::int32_t min = codes.front(), max = min;
  for (std::size_t i = 0; i < codes.size(); i += 256) {
    min = std::min<std::int32_t>(min, codes[i]);
    max = std::max<std::int32_t>(max, codes[i]);
  }
  if (min < -far || max > far || max - min >= reach) return false;
  const auto first = min - (reach - 1 - (max - min)) / 2;
  using Find = bool(const Code*, std::size_t, std::int32_t, std::uint16_t*);
  const auto find = math::chosen<Find>(base::find_pairs, avx2::find_pairs, avx512::find_pairs);
  std::array<std::uint16_t, piece / 2> places;
  const auto pairs = codes.size() / 2;
  const auto last = codes.back() - std::int64_t{first};
  if (last < 0 || last >= reach || !find(codes.data(), pairs, first, places.data())) return false;

  make_room(first, first + reach - 1);
  std::array<std::uint32_t, narrow * narrow> table{};
  // A line of the cache's worth of pairs at a time; meanwhile as many of the codes that come next
  // are on their way.
  constexpr std::size_t line = 64 / sizeof(Code);
  for (std::size_t from = 0; from < pairs; from += line) {
    for (const auto i : {2 * from, 2 * from + line}) {
      if (i < ahead.size()) __builtin_prefetch(&ahead[i], 0, 2);
    }
    const auto end = std::min(from + line, pairs);
    for (std::size_t i = from; i < end; ++i) ++table[places[i]];
  }
  const auto place = place_of(first);
  for (const auto end : {place, place + narrow - 1}) used_[end / stretch] = 1;
  auto* const counts = &recent_[place];
  math::chosen(base::add_pairs, avx2::add_pairs, avx512::add_pairs)(table.data(), counts);
  if (codes.size() % 2 == 1) ++counts[last];
  count_ += codes.size();
  return true;
}

template <class Code>
void Histogram::add_wide(std::span<const Code> codes) {
  while (!codes.empty()) {
    const auto count =
        used_.size() <= looked_through ? count_codes<false, Code> : count_codes<true, Code>;
    const auto n = count(codes, first_, recent_.all(), used_.data());
    count_ += n;
    codes = codes.subspan(n);
    if (!codes.empty()) make_room(codes.front(), codes.front());
  }
}

template <class Code>
void Histogram::add_codes(std::span<const Code> codes) {
  while (!codes.empty()) {
    const auto some = codes.first(std::min(piece, codes.size()));
    codes = codes.subspan(some.size());
    expect(some.size());
    if (some.size() < narrow * narrow || !add_narrow(some, codes)) add_wide(some);
  }
}

void Histogram::add(std::span<const std::int16_t> codes) { add_codes(codes); }
void Histogram::add(std::span<const std::uint16_t> codes) { add_codes(codes); }
void Histogram::add(std::span<const std::int32_t> codes) { add_codes(codes); }

void Histogram::merge(const Histogram& other) {
  if (other.empty()) return;
  make_room(other.min(), other.max());
  other.for_each([&](std::size_t place, std::uint64_t times) { add(other.code_at(place), times); });
}

std::uint64_t Histogram::at(std::int64_t code) const {
  const auto place = code - first_;
  const bool held = place >= 0 && place < static_cast<std::int64_t>(recent_.size());
  return held ? counted(static_cast<std::size_t>(place)) : 0;
}

// The code up to which so large a part of all lies.
std::int64_t Histogram::code_below(double part) const {
  const double most = part * static_cast<double>(count_);
  double sum = 0.0;
  std::size_t result = 0;
  for_each([&](std::size_t place, std::uint64_t times) {
    if (sum < most) result = place;
    sum += static_cast<double>(times);
  });
  return code_at(result);
}

std::vector<std::int64_t> Histogram::missing() const {
  std::vector<std::int64_t> result;
  if (count_ < 2) return result;
  const auto of_all = shape();
  // Of the middle 68 %, where that is less: a few codes far out do not make the others wide.
  const double half = static_cast<double>(code_below(0.8413) - code_below(0.1587)) / 2.0;
  const double deviation = std::min(std::sqrt(of_all.variance), half);
  const double most = static_cast<double>(count_) /
                      (deviation * std::sqrt(2.0 * std::numbers::pi));  // in the middle
  if (!(deviation > 0.0) || most < seen_in_each) return result;
  const double reach = deviation * std::sqrt(2.0 * std::log(most / seen_in_each));
  // And as many lie beyond it on either side, or those that do are far out.
  const double outside = seen_in_each / static_cast<double>(count_);
  const auto first = std::max(code_below(outside),
                              static_cast<std::int64_t>(std::ceil(of_all.mean - reach))),
             last = std::min(code_below(1.0 - outside),
                             static_cast<std::int64_t>(std::floor(of_all.mean + reach)));
  for (auto code = first; code <= last; ++code) {
    if (at(code) == 0) result.push_back(code);
  }
  return result;
}

// In places, from the first of which the sums lose nothing.
long double Histogram::mean_place() const {
  long double sum = 0.0L;
  for_each([&](std::size_t place, std::uint64_t times) {
    sum += static_cast<long double>(place) * static_cast<long double>(times);
  });
  return sum / static_cast<long double>(count_);
}

double Histogram::mean() const {
  require(!empty(), "an empty histogram has no mean");
  return static_cast<double>(static_cast<long double>(first_) + mean_place());
}

double Histogram::variance() const { return count_ < 2 ? 0.0 : shape().variance; }

Histogram::Shape Histogram::shape() const {
  require(!empty(), "an empty histogram has no shape");
  const auto middle = mean_place(), n = static_cast<long double>(count_);
  long double second = 0.0L, third = 0.0L, fourth = 0.0L;
  for_each([&](std::size_t place, std::uint64_t counted) {
    const auto times = static_cast<long double>(counted);
    const auto from = static_cast<long double>(place) - middle, square = from * from;
    second += square * times;
    third += square * from * times;
    fourth += square * square * times;
  });
  Shape result{.mean = static_cast<double>(static_cast<long double>(first_) + middle)};
  if (!(second > 0.0L)) return result;
  const auto of_one = second / n;
  result.variance = static_cast<double>(second / (n - 1.0L));
  result.skewness = static_cast<double>(third / n / (of_one * std::sqrt(of_one)));
  result.kurtosis = static_cast<double>(fourth / n / (of_one * of_one));
  return result;
}

}  // namespace tamlo::signal
