// SPDX-License-Identifier: Apache-2.0
#include "tamlo/signal/step.hpp"

#include <algorithm>
#include <cmath>
#include <stdexcept>

#include "tamlo/error.hpp"
#include "tamlo/math/regression.hpp"

namespace tamlo::signal {
namespace {

// Where the values, seen as going from 0 to 1, first reach `level`, from sample `from` on.
double reaches(std::span<const double> part, double level, std::size_t from) {
  for (auto i = std::max<std::size_t>(from, 1); i < part.size(); ++i) {
    if (part[i] < level) continue;
    const double step = part[i] - part[i - 1];
    const double along = step > 0.0 ? std::clamp((level - part[i - 1]) / step, 0.0, 1.0) : 1.0;
    return static_cast<double>(i - 1) + along;
  }
  return static_cast<double>(part.size() - 1);
}

// Samples until the values leave the level of the first ones for good.
std::size_t leaves(std::span<const double> before, double level) {
  const auto few =
      before.first(std::min(before.size(), std::max<std::size_t>(3, before.size() / 8)));
  double squares = 0.0;
  for (const double x : few) squares += (x - level) * (x - level);
  const double band =
      3.0 * std::sqrt(squares / static_cast<double>(std::max<std::size_t>(1, few.size())));
  auto last = before.size();
  while (last > 1 && std::abs(before[last - 1] - level) > band) --last;
  return std::max<std::size_t>(1, last);
}

}  // namespace

StepFigures step(std::span<const double> values, std::optional<double> step_at,
                 std::span<const double> bands) {
  const auto n = values.size();
  if (n < 16) throw DataError("a record of less than 16 samples");
  const double first = math::median(values.first(std::max<std::size_t>(3, n / 32)));
  const double last = math::median(values.last(std::max<std::size_t>(3, n / 8)));
  const double middle = (first + last) / 2.0;
  const bool rises = last > first;
  const auto crossing = static_cast<std::size_t>(
      std::ranges::find_if(values, [&](double x) { return rises ? x >= middle : x <= middle; }) -
      values.begin());
  StepFigures result;
  result.after = last;
  // What lies before: up to the last sample at the level of the first ones.
  const auto calm = step_at ? std::clamp<std::size_t>(static_cast<std::size_t>(*step_at), 1, n)
                            : leaves(values.first(std::min(crossing, n)), first);
  result.before = math::median(values.first(calm));
  double squares = 0.0;
  for (const double x : values.first(calm)) squares += (x - result.before) * (x - result.before);
  result.noise = std::sqrt(squares / static_cast<double>(calm));
  const double height = result.after - result.before;
  if (!(std::abs(height) > 8.0 * result.noise) || crossing >= n || height == 0.0) {
    throw DataError("no step that stands out of the noise");
  }
  std::vector<double> part;
  for (const double x : values) part.push_back((x - result.before) / height);
  const double noise = result.noise / std::abs(height);
  const auto search = step_at ? static_cast<std::size_t>(std::max(0.0, std::floor(*step_at))) : 0;
  const double tenth = reaches(part, 0.1, search);
  result.step_at = step_at ? *step_at : reaches(part, std::max(0.01, 4.0 * noise), search);
  result.delay = reaches(part, 0.5, search) - result.step_at;
  result.rise = reaches(part, 0.9, static_cast<std::size_t>(tenth)) - tenth;
  const double highest = *std::ranges::max_element(part) - 1.0;
  result.overshoot = highest > std::max(4.0 * noise, 1e-9) ? highest : 0.0;
  for (const double band : bands) {
    StepFigures::Settling settling{.band = band};
    std::size_t outside = 0;
    for (std::size_t i = 0; i < n; ++i) {
      if (std::abs(part[i] - 1.0) > band) outside = i + 1;
    }
    // The last eighth gave the level: what is still outside there is not settled.
    if (band > 4.0 * noise && outside < n - n / 8) {
      settling.time = std::max(0.0, static_cast<double>(outside) - result.step_at);
    }
    result.settling.push_back(settling);
  }
  return result;
}

}  // namespace tamlo::signal
