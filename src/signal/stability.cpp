// SPDX-License-Identifier: Apache-2.0
#include "tamlo/signal/stability.hpp"

#include <algorithm>
#include <cmath>
#include <stdexcept>
#include <utility>

#include "tamlo/error.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/names.hpp"

namespace tamlo::signal {
namespace {

// Running sums of what each value is off the mean: S[0] = 0.
std::vector<double> running(std::span<const double> values) {
  long double sum = 0.0L;
  for (const double value : values) sum += value;
  const long double mean = sum / static_cast<long double>(values.size());
  std::vector<double> result{0.0};
  result.reserve(values.size() + 1);
  sum = 0.0L;
  for (const double value : values) result.push_back(static_cast<double>(sum += value - mean));
  return result;
}

// Sum of the squared differences of neighbouring averages, times averaged^2; their number is
// sums.size() - 2 m.
double overlapping_squares(const std::vector<double>& sums, std::uint64_t m) {
  const auto terms = sums.size() - 2 * m;
  double total = 0.0;
  for (std::size_t from = 0; from < terms; from += 4096) {
    double part = 0.0;
    for (std::size_t j = from; j < std::min<std::size_t>(from + 4096, terms); ++j) {
      const double d = sums[j + 2 * m] - 2.0 * sums[j + m] + sums[j];
      part += d * d;
    }
    total += part;
  }
  return total;
}

double deviation_of(long double squares, std::uint64_t terms, std::uint64_t m) {
  const auto square = static_cast<long double>(m) * static_cast<long double>(m);
  return static_cast<double>(
      std::sqrt(squares / (2.0L * square * static_cast<long double>(terms))));
}

// Slopes half way between those of the four kinds.
NoiseKind kind_of(double slope) {
  if (slope < -0.25) return NoiseKind::white;
  if (slope < 0.25) return NoiseKind::flicker;
  return slope < 0.75 ? NoiseKind::random_walk : NoiseKind::drift;
}

// Equivalent degrees of freedom of the overlapping deviation (NIST SP 1065, table 5; Howe, Allan
// and Barnes, 1981). n counts the running sums.
double degrees_of_freedom(NoiseKind kind, double n, double m) {
  switch (kind) {
    case NoiseKind::white:
      return (3.0 * (n - 1.0) / (2.0 * m) - 2.0 * (n - 2.0) / n) * 4.0 * m * m /
             (4.0 * m * m + 5.0);
    case NoiseKind::flicker:
      if (m == 1.0) return 2.0 * (n - 2.0) / (2.3 * n - 4.9);
      return 5.0 * n * n / (4.0 * m * (n + 3.0 * m));
    default:
      return (n - 2.0) / m * ((n - 1.0) * (n - 1.0) - 3.0 * m * (n - 1.0) + 4.0 * m * m) /
             ((n - 3.0) * (n - 3.0));
  }
}

// Kinds of noise and intervals of deviations that were found in n values, and where they are
// lowest.
void judge(Stability& result, std::uint64_t n, double coverage) {
  auto& all = result.deviations;
  for (std::size_t i = 0; i < all.size(); ++i) {
    // The slope about each, from its neighbours.
    const auto& before = all[i > 0 ? i - 1 : i];
    const auto& after = all[i + 1 < all.size() ? i + 1 : i];
    if (after.averaged > before.averaged && before.deviation > 0.0 && after.deviation > 0.0) {
      all[i].kind = kind_of(
          std::log(after.deviation / before.deviation) /
          std::log(static_cast<double>(after.averaged) / static_cast<double>(before.averaged)));
    }
    const double dof = std::max(1.0, degrees_of_freedom(all[i].kind, static_cast<double>(n + 1),
                                                        static_cast<double>(all[i].averaged)));
    const auto interval = math::deviation_interval(all[i].deviation, dof, coverage);
    all[i].low = interval.low;
    all[i].high = interval.high;
  }
  const auto lowest = std::ranges::min_element(all, {}, &Deviation::deviation);
  result.best = lowest->averaged;
  result.lowest = lowest->deviation;
}

}  // namespace

std::string_view name(NoiseKind kind) {
  return name_in({"white", "flicker", "random walk", "drift"}, kind);
}

Stability stability(std::span<const double> values, std::span<const std::uint64_t> averaged,
                    double coverage) {
  require(values.size() >= 3, "stability needs three values");
  require_numbers(values, "values within ±1e150");
  const auto n = values.size();
  std::vector<std::uint64_t> asked(averaged.begin(), averaged.end());
  if (asked.empty()) {
    for (std::uint64_t m = 1; 3 * m <= n || m == 1; m *= 2) asked.push_back(m);
  }
  const auto sums = running(values);
  Stability result;
  for (const auto m : asked) {
    if (2 * m > n || m == 0) continue;
    result.deviations.push_back(
        {.averaged = m,
         .deviation = deviation_of(overlapping_squares(sums, m), sums.size() - 2 * m, m)});
  }
  judge(result, n, coverage);
  return result;
}

// Sums are taken anew in each batch, so that they stay short.
void StabilityParts::pass(std::size_t level) {
  auto& own = levels_[level];
  auto& blocks = own.blocks;
  std::vector<double>& sums = sums_;
  sums.assign(1, 0.0);
  for (const double block : blocks) sums.push_back(sums.back() + block);
  const std::size_t min = level == 0 ? 1 : longest;
  for (std::size_t m = min, octave = level == 0 ? 0 : level + 4; m <= longest; m *= 2, ++octave) {
    if (octaves_.size() <= octave) octaves_.resize(octave + 1);
    const auto from = std::max(own.history + 1, 2 * m);
    if (from >= sums.size()) continue;
    double squares = 0.0;
    const double* const s = sums.data();
    for (std::size_t end = from; end < sums.size(); ++end) {
      const double d = s[end] - 2.0 * s[end - m] + s[end - 2 * m];
      squares += d * d;
    }
    octaves_[octave].squares += static_cast<long double>(squares);
    octaves_[octave].terms += sums.size() - from;
  }
  std::vector<double> pairs;
  for (auto i = own.history; i + 1 < blocks.size(); i += 2) {
    pairs.push_back(blocks[i] + blocks[i + 1]);
  }
  const auto kept = std::min(blocks.size(), 2 * longest);
  blocks.erase(blocks.begin(), blocks.end() - static_cast<std::ptrdiff_t>(kept));
  own.history = kept;
  if (!pairs.empty()) feed(level + 1, pairs);
}

void StabilityParts::feed(std::size_t level, std::span<const double> blocks) {
  if (levels_.size() <= level) levels_.resize(level + 1);
  while (!blocks.empty()) {
    auto& own = levels_[level];
    const auto taken = std::min(blocks.size(), own.history + batch - own.blocks.size());
    own.blocks.insert(own.blocks.end(), blocks.begin(),
                      blocks.begin() + static_cast<std::ptrdiff_t>(taken));
    blocks = blocks.subspan(taken);
    if (own.blocks.size() == own.history + batch) pass(level);
  }
}

StabilityParts::StabilityParts(std::vector<std::uint64_t> averaged) {
  for (const auto m : averaged) {
    if (m == 0 || 2 * m > most_held) {
      throw ArgumentError("an average is of 1 to 262144 samples");
    }
  }
  std::ranges::sort(averaged);
  averaged.erase(std::unique(averaged.begin(), averaged.end()), averaged.end());
  asked_.octaves.resize(averaged.size());
  if (!averaged.empty()) asked_.sums.assign(2 * averaged.back() + 1, 0.0);
  asked_.averaged = std::move(averaged);
}

void StabilityParts::Asked::add(std::span<const double> values) {
  if (averaged.empty()) return;
  const auto at = [&](std::uint64_t number) { return sums[number % sums.size()]; };
  for (const double value : values) {
    sum += value;
    ++count;
    sums[count % sums.size()] = sum;
    for (std::size_t i = 0; i < averaged.size(); ++i) {
      const auto m = averaged[i];
      if (count < 2 * m) break;
      const double d = sum - 2.0 * at(count - m) + at(count - 2 * m);
      octaves[i].squares += static_cast<long double>(d * d);
      ++octaves[i].terms;
    }
  }
}

void StabilityParts::add(std::span<const double> values) {
  if (values.empty()) return;
  if (count_ == 0) origin_ = values.front();
  count_ += values.size();
  less_.clear();
  for (const double x : values) less_.push_back(x - origin_);
  asked_.add(less_);
  if (spilled_) return feed(0, less_);
  if (held_.empty()) held_.emplace_back();
  held_.front().insert(held_.front().end(), less_.begin(), less_.end());
  if (count_ > most_held) spill();
}

// What was held goes on as what is too long to be held: the own stretch last, as it goes on.
void StabilityParts::spill() {
  const auto held = std::move(held_);
  held_.clear();
  spilled_ = true;
  for (auto stretch = held.rbegin(); stretch != held.rend(); ++stretch) {
    StabilityParts part;
    auto& into = stretch + 1 == held.rend() ? *this : part;
    into.spilled_ = true;
    into.feed(0, *stretch);
    if (&into == &part) add_octaves(part);
  }
}

void StabilityParts::add_octaves(StabilityParts part) {
  part.flush();
  if (octaves_.size() < part.octaves_.size()) octaves_.resize(part.octaves_.size());
  for (std::size_t i = 0; i < part.octaves_.size(); ++i) {
    octaves_[i].squares += part.octaves_[i].squares;
    octaves_[i].terms += part.octaves_[i].terms;
  }
}

void StabilityParts::merge(const StabilityParts& other) {
  if (asked_.averaged != other.asked_.averaged) {
    throw ArgumentError("parts of other averages do not merge");
  }
  if (other.count_ == 0) return;
  for (std::size_t i = 0; i < asked_.octaves.size(); ++i) {
    asked_.octaves[i].squares += other.asked_.octaves[i].squares;
    asked_.octaves[i].terms += other.asked_.octaves[i].terms;
  }
  if (held_.empty() && !spilled_) held_.emplace_back();  // the own stretch stays the first
  count_ += other.count_;
  if (!spilled_ && !other.spilled_) {
    held_.insert(held_.end(), other.held_.begin(), other.held_.end());
    if (count_ > most_held) spill();
    return;
  }
  if (!spilled_) spill();
  auto rest = other;
  if (!rest.spilled_) rest.spill();
  add_octaves(std::move(rest));
}

void StabilityParts::flush() {
  for (std::size_t level = 0; level < levels_.size(); ++level) {
    if (levels_[level].blocks.size() > levels_[level].history) pass(level);
  }
}

Stability StabilityParts::result(double coverage) const {
  std::vector<std::vector<double>> sums;
  for (const auto& stretch : held_) {
    if (!stretch.empty()) sums.push_back(running(stretch));
  }
  auto whole = *this;
  if (spilled_) whole.flush();
  Stability result;
  const auto keep = [&](std::uint64_t m, const Octave& octave, std::uint64_t stride) {
    if (octave.terms == 0) return;
    result.deviations.push_back({.averaged = m,
                                 .deviation = deviation_of(octave.squares, octave.terms, m),
                                 .stride = stride});
  };
  std::size_t octave = 0;
  for (std::uint64_t m = 1; 3 * m <= count_ || m == 1; m *= 2, ++octave) {
    Octave one_octave;
    if (spilled_ && octave < whole.octaves_.size()) one_octave = whole.octaves_[octave];
    for (const auto& stretch : sums) {
      if (stretch.size() <= 2 * m) continue;
      one_octave.squares += static_cast<long double>(overlapping_squares(stretch, m));
      one_octave.terms += stretch.size() - 2 * m;
    }
    keep(m, one_octave, spilled_ && m > longest ? m / longest : 1);
  }
  for (std::size_t i = 0; i < asked_.averaged.size(); ++i) {
    const auto m = asked_.averaged[i];
    // In full, in place of one that is not.
    std::erase_if(result.deviations, [&](const Deviation& d) { return d.averaged == m; });
    keep(m, asked_.octaves[i], 1);
  }
  std::ranges::sort(result.deviations, {}, &Deviation::averaged);
  require(!result.deviations.empty(), "stability needs three values");
  judge(result, count_, coverage);
  return result;
}

}  // namespace tamlo::signal
