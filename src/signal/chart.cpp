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

}  // namespace tamlo::signal
