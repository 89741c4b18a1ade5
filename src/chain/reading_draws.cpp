// SPDX-License-Identifier: Apache-2.0
// Readings drawn from what a sampler has prepared (reading_sampler.cpp): the loops over
// conversions.
#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <numbers>

#include "blocks.hpp"
#include "math/draws.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/detail/reading_distribution.hpp"
#include "tamlo/chain/detail/reading_sampler.hpp"
#include "tamlo/error.hpp"

namespace tamlo::chain {
namespace {

using math::Deviate;
using math::draws_block;

constexpr double two_pi = 2.0 * std::numbers::pi;

// Rows of random numbers, apart from those of the sources of a unit.
enum Row : std::uint64_t {
  of_turns = std::uint64_t{1} << 20,
  of_still = std::uint64_t{1} << 21,
  of_normal = std::uint64_t{1} << 22,
  of_white = std::uint64_t{1} << 40,
  of_slow = std::uint64_t{2} << 40,
  of_phases = std::uint64_t{3} << 40,
};

}  // namespace

bool ReadingSampler::clear_of_ends(double code) const {
  return noise_ >= 0.5 && code - reach_ > first_ - 0.5 && code + reach_ < last_ + 0.5;
}

bool ReadingSampler::normal_holds(double code) const {
  const auto& report = chain_.report;
  if (stepwise_ || weights_.size() < 2) return false;
  if (!reports_codes(report) && !reports_shifted(report)) return false;
  if (many_ && sines_.empty() && std::isfinite(code)) return true;
  return (sines_.empty() || rated_) && clear_of_ends(code);
}

ReadingSampler::Draws ReadingSampler::draws(std::size_t units, std::uint64_t seed,
                                            std::uint64_t first) const {
  Draws result{.seed = seed ^ 0x636f6e7665727473ULL, .first = first};
  if (rated_) {
    for (std::size_t s = 0; s < sines_.size(); ++s) {
      auto& turns = result.turns.emplace_back(units, 0.5);
      math::add_deviates(Deviate::uniform, result.seed, of_turns + s, first, 0.5, turns, turns);
    }
  }
  if (still_ > 0.0) {
    result.still.assign(units, 0.0);
    math::add_deviates(Deviate::normal, result.seed, of_still, first, still_, result.still,
                       result.still);
  }
  return result;
}

// Rounds to codes, and holds them at both ends; what the register shows for them.
void ReadingSampler::round_to_values(std::span<double> unquantised) const {
  const double first = first_, last = last_ + 0.5;
  const auto held = [=](double code) {
    const double above = code + 0.5;
    const double from_first = above >= first ? above : first;
    return (from_first <= last ? from_first : last) - first;
  };
  if (last_ - first_ < 0x1p30) {
    for (double& code : unquantised)
      code = static_cast<double>(static_cast<std::int32_t>(held(code))) + first;
  } else {
    for (double& code : unquantised)
      code = static_cast<double>(static_cast<std::int64_t>(held(code))) + first;
  }
  if (reports_codes(chain_.report)) return;
  for (double& code : unquantised) {
    code = static_cast<double>(reported(chain_.report, static_cast<std::int64_t>(code)));
  }
}

// All conversions of all units, one after the other: the sink is given what the register shows for
// a stretch of those of one unit, from the k-th on.
template <class Sink>
void ReadingSampler::convert(std::span<const double> codes, const Draws& draws,
                             const Sink& sink) const {
  struct Stretch {
    std::size_t unit, k, count;
  };
  std::array<double, draws_block> values{}, slow{};
  std::vector<Stretch> stretches;
  const std::size_t each = weights_.size();
  const std::uint64_t block = draws.first / draws_block;
  const double fresh = std::sqrt(1.0 - keeps_ * keeps_);
  std::size_t unit = 0, k = 0;
  double kept = 0.0;
  for (std::uint64_t drawn = 0; unit < codes.size(); drawn += draws_block) {
    stretches.clear();
    std::size_t filled = 0;
    while (filled < draws_block && unit < codes.size()) {
      const auto count = std::min(draws_block - filled, each - k);
      const auto stretch = std::span(values).subspan(filled, count);
      std::ranges::fill(stretch, codes[unit] + (draws.still.empty() ? 0.0 : draws.still[unit]));
      for (std::size_t s = 0; s < draws.turns.size(); ++s) {
        const auto& sine = sines_[s];
        const double angle = two_pi * draws.turns[s][unit];
        const double a = sine.amplitude * std::sin(angle), b = sine.amplitude * std::cos(angle);
        const double* of_cosine = sine.cosine.data() + k;
        const double* of_sine = sine.sine.data() + k;
        for (std::size_t i = 0; i < count; ++i) stretch[i] += a * of_cosine[i] + b * of_sine[i];
      }
      stretches.push_back({unit, k, count});
      filled += count;
      k += count;
      if (k == each) k = 0, ++unit;
    }
    const auto all = std::span(values).first(filled);
    if (!rated_) {
      for (std::size_t s = 0; s < sines_.size(); ++s)
        math::add_deviates(Deviate::arcsine, draws.seed, of_phases + (s << 32U) + block, drawn,
                           sines_[s].amplitude, all, all);
    }
    if (white_ > 0.0)
      math::add_deviates(Deviate::normal, draws.seed, of_white + block, drawn, white_, all, all);
    if (slow_ > 0.0) {
      std::ranges::fill(slow, 0.0);
      math::add_deviates(Deviate::normal, draws.seed, of_slow + block, drawn, 1.0, slow, slow);
      std::size_t at = 0;
      for (const auto& stretch : stretches) {
        for (std::size_t i = 0; i < stretch.count; ++i, ++at) {
          kept = stretch.k + i == 0 ? slow[at] : keeps_ * kept + fresh * slow[at];
          values[at] += slow_ * kept;
        }
      }
    }
    round_to_values(all);
    std::size_t at = 0;
    for (const auto& stretch : stretches) {
      sink(stretch.unit, stretch.k, std::span<const double>(values).subspan(at, stretch.count));
      at += stretch.count;
    }
  }
}

void ReadingSampler::weigh(std::span<const double> codes, const Draws& draws,
                           std::span<double> reported) const {
  double sum = 0.0;
  convert(codes, draws, [&](std::size_t unit, std::size_t k, std::span<const double> values) {
    if (k == 0) sum = 0.0;
    // In lanes that the compiler may take at once; whole numbers are exact in any order.
    std::array<double, 8> lanes{};
    const double* weights = weights_.data() + k;
    const std::size_t whole = values.size() / lanes.size() * lanes.size();
    for (std::size_t i = 0; i < whole; i += lanes.size()) {
      for (std::size_t lane = 0; lane < lanes.size(); ++lane)
        lanes[lane] += weights[i + lane] * values[i + lane];
    }
    for (std::size_t i = whole; i < values.size(); ++i) lanes[0] += weights[i] * values[i];
    for (const double lane : lanes) sum += lane;
    if (k + values.size() == weights_.size()) reported[unit] = sum / sum_of_weights_;
  });
}

void ReadingSampler::step(std::span<const double> codes, const Draws& draws,
                          std::span<double> reported) const {
  DigitalState state(rest_);
  double sum = 0.0;
  std::size_t in_block = 0;
  bool begun = false;
  convert(codes, draws, [&](std::size_t unit, std::size_t k, std::span<const double> values) {
    if (k == 0) begun = false, in_block = 0, sum = 0.0;
    for (const double value : values) {
      sum += value;
      if (++in_block < lead_) continue;
      const double mean = sum / static_cast<double>(lead_);
      if (!begun) state.prime(mean);
      begun = true;
      state.push(mean);
      sum = 0.0;
      in_block = 0;
    }
    if (k + values.size() == weights_.size()) reported[unit] = state.value();
  });
}

// The mean of the conversions, with what average and filter leave of noise and sines. Near an end
// mean and variance are those of clipped codes, of which the filter leaves the same part.
void ReadingSampler::shorten(std::span<const double> codes, const Draws& draws,
                             std::span<double> reported) const {
  std::vector<double> z(codes.size(), 0.0);
  math::add_deviates(Deviate::normal, draws.seed, of_normal, draws.first, 1.0, z, z);
  const double whole = noise_ * noise_ + 1.0 / 12.0;
  for (std::size_t t = 0; t < codes.size(); ++t) {
    if (clear_of_ends(codes[t]) || !many_) {
      reported[t] = codes[t] + left_ * z[t];
      continue;
    }
    const auto clipped = code_moments(chain_, codes[t], noise_);
    reported[t] = clipped.mean + left_ * std::sqrt(clipped.variance / whole) * z[t];
  }
  const double per_code = reports_codes(chain_.report) ? 1.0 : chain_.report.per_code;
  for (std::size_t t = 0; t < reported.size(); ++t) {
    for (std::size_t s = 0; s < sines_.size(); ++s) {
      const double amplitude = sines_[s].left * sines_[s].amplitude;
      reported[t] += amplitude * std::sin(two_pi * draws.turns[s][t]);
    }
    if (whole_weights_)
      reported[t] = std::floor(reported[t] * sum_of_weights_ + 0.5) / sum_of_weights_;
    reported[t] = std::clamp(reported[t], first_, last_) * per_code;
  }
}

void ReadingSampler::draw_reported(std::span<const double> codes, std::uint64_t seed,
                                   std::uint64_t first, std::span<double> reported) const {
  require(
      codes.size() == reported.size() && codes.size() <= draws_block && first % draws_block == 0,
      "a block of units");
  const auto numbers = draws(codes.size(), seed, first);
  if (stepwise_) return step(codes, numbers, reported);
  const auto held = std::ranges::count_if(codes, [&](double code) { return normal_holds(code); });
  if (held == 0) return weigh(codes, numbers, reported);
  shorten(codes, numbers, reported);
  if (static_cast<std::size_t>(held) == codes.size()) return;
  std::vector<double> exact(codes.size());
  weigh(codes, numbers, exact);
  for (std::size_t t = 0; t < codes.size(); ++t) {
    if (!normal_holds(codes[t])) reported[t] = exact[t];
  }
}

void ReadingSampler::draw(std::span<const double> codes, std::uint64_t seed, std::uint64_t first,
                          std::span<double> readings) const {
  draw_reported(codes, seed, first, readings);
  const auto& scaling = chain_.channel.scaling;
  const bool plain = !scaling.integer && !scaling.taught && !scaling.decimals &&
                     !chain_.channel.correction && !chain_.channel.average.truncated;
  const std::vector<double> reported(readings.begin(), readings.end());
  if (plain) {
    exact_readings(chain_, readings.data(), readings.size());
  } else {
    for (double& value : readings) value = reading(chain_, value);
  }
  for (std::size_t t = 0; t < readings.size(); ++t) {
    if (!std::isfinite(codes[t])) {
      readings[t] = std::numeric_limits<double>::quiet_NaN();
    } else if (!std::isfinite(readings[t])) {
      readings[t] = reading_or_end(chain_, reported[t]);
    }
  }
}

}  // namespace tamlo::chain
