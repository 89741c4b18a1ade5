// SPDX-License-Identifier: Apache-2.0
#include "tamlo/signal/detail/chart.hpp"

#include <algorithm>
#include <cmath>

#include "tamlo/error.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/math/regression.hpp"

namespace tamlo::signal {

Chart::Chart(std::size_t max) : most_(max) {
  require(max >= 2 && max % 2 == 0, "a chart has an even number of columns");
  stretches_.reserve(max);
}

void Chart::add(std::span<const double> values) {
  while (!values.empty()) {
    if (stretches_.empty() || stretches_.back().count == width_) {
      if (stretches_.size() == most_) join_pairs();
      const auto first = stretches_.empty() ? 0 : stretches_.back().first + stretches_.back().count;
      stretches_.push_back({.first = first, .low = values.front(), .high = values.front()});
    }
    auto& last = stretches_.back();
    const auto taken = std::min<std::uint64_t>(values.size(), width_ - last.count);
    for (const double x : values.first(taken)) {
      last.low = std::min(last.low, x);
      last.high = std::max(last.high, x);
      last.mean += x;
    }
    last.count += taken;
    values = values.subspan(taken);
  }
}

void Chart::join_pairs() {
  for (std::size_t i = 0; i + 1 < stretches_.size(); i += 2) {
    const auto &one = stretches_[i], &next = stretches_[i + 1];
    stretches_[i / 2] = {.first = one.first,
                         .count = one.count + next.count,
                         .low = std::min(one.low, next.low),
                         .high = std::max(one.high, next.high),
                         .mean = one.mean + next.mean};
  }
  stretches_.resize(stretches_.size() / 2);
  width_ *= 2;
}

std::vector<Stretch> Chart::stretches() const {
  auto result = stretches_;
  for (auto& s : result) s.mean /= static_cast<double>(s.count);
  return result;
}

Trend trend(const Chart& chart) {
  auto stretches = chart.stretches();
  // A last one that is shorter scatters more.
  if (stretches.size() > 1 && stretches.back().count < stretches.front().count) {
    stretches.pop_back();
  }
  if (stretches.size() < 8) return {};
  const auto n = stretches.size();
  std::vector<double> ones(n, 1.0), place, means;
  for (std::size_t i = 0; i < n; ++i) {
    place.push_back(static_cast<double>(i) - static_cast<double>(n - 1) / 2.0);
    means.push_back(stretches[i].mean);
  }
  const std::vector<double> line[] = {ones, place};
  const auto fit = math::regress(line, means);
  const auto width = static_cast<double>(stretches.front().count);
  const double standard = fit.residual_standard_deviation * std::sqrt(fit.covariance[3]);
  const double far = math::coverage_factor(0.99, fit.dof);
  return {.slope = fit.parameters[1] / width,
          .standard_uncertainty = standard / width,
          .moves = std::abs(fit.parameters[1]) > far * standard};
}

namespace {

constexpr std::size_t steps = 8192;
constexpr double fine_width = 0.1, coarse_width = 6.4;

}  // namespace

void StripColumn::add(double value) {
  merge({.count = 1, .low = value, .high = value, .sum = value});
}

void StripColumn::merge(const StripColumn& other) {
  if (other.count == 0) return;
  low = count == 0 ? other.low : std::min(low, other.low);
  high = count == 0 ? other.high : std::max(high, other.high);
  sum += other.sum;
  count += other.count;
}

Strip::Reach Strip::last_steps(double now, std::size_t count) {
  const double end = std::floor(now / fine_width) + 1.0;
  const double begin = std::max(0.0, end - static_cast<double>(count));
  return {.from = begin * fine_width, .to = (begin + static_cast<double>(count)) * fine_width};
}

Strip::Strip()
    : fine_{.width = fine_width, .ring = std::vector<StripColumn>(steps)},
      coarse_{.width = coarse_width, .ring = std::vector<StripColumn>(steps)} {}

void Strip::Steps::add(double seconds, double value) {
  const auto step = std::max(static_cast<std::int64_t>(seconds / width), newest);
  const auto size = static_cast<std::int64_t>(ring.size());
  // What was passed over is empty.
  for (auto passed = std::max(newest + 1, step - size + 1); passed <= step; ++passed) {
    ring[static_cast<std::size_t>(passed % size)] = {};
  }
  newest = step;
  ring[static_cast<std::size_t>(step % size)].add(value);
}

void Strip::add(double seconds, double value) {
  require(std::isfinite(value) && seconds >= 0.0,
          "a value that is a number, at a time of 0 or more");
  fine_.add(seconds, value);
  coarse_.add(seconds, value);
}

std::vector<StripColumn> Strip::columns(double from, double to, std::size_t columns) const {
  std::vector<StripColumn> result(columns);
  if (columns == 0 || !(from < to) || fine_.newest < 0) return result;
  const auto oldest = static_cast<double>(fine_.newest - static_cast<std::int64_t>(steps) + 1);
  const auto& buckets = from >= oldest * fine_width ? fine_ : coarse_;
  const auto size = static_cast<std::int64_t>(buckets.ring.size());
  const auto first = std::max({static_cast<std::int64_t>(std::floor(from / buckets.width)),
                               buckets.newest - size + 1, std::int64_t{0}});
  for (auto step = first; step <= buckets.newest; ++step) {
    const double begins = static_cast<double>(step) * buckets.width;
    const double place = (begins - from) / (to - from) * static_cast<double>(columns);
    if (place >= static_cast<double>(columns)) break;
    // The step in which `from` lies began before it.
    result[static_cast<std::size_t>(std::max(place, 0.0))].merge(
        buckets.ring[static_cast<std::size_t>(step % size)]);
  }
  return result;
}

}  // namespace tamlo::signal
