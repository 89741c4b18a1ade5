// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/reading_distribution.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <optional>
#include <utility>

#include "tamlo/chain/chain.hpp"
#include "tamlo/math/coverage.hpp"

namespace tamlo::chain {
namespace {

// The middles of 32 equally likely parts of a standard normal law.
const std::array<double, 32>& equally_likely() {
  static const auto all = [] {
    std::array<double, 32> result{};
    for (std::size_t i = 0; i < result.size(); ++i) {
      result[i] = math::normal_quantile((static_cast<double>(i) + 0.5) / 32.0);
    }
    return result;
  }();
  return all;
}

}  // namespace

ReportedMoments reported_moments(const Chain& chain, double unquantised, double sigma) {
  const auto first = first_code(chain), last = last_code(chain);
  const auto value = [&](std::int64_t code) {
    return static_cast<double>(reported(chain.report, std::clamp(code, first, last)));
  };
  const double held =
      std::clamp(unquantised, static_cast<double>(first) - 1e6, static_cast<double>(last) + 1e6);
  const auto from = static_cast<std::int64_t>(std::floor(held - 7.0 * sigma + 0.5));
  const auto to = static_cast<std::int64_t>(std::floor(held + 7.0 * sigma + 0.5));
  if (from == to) return {.mean = value(from)};
  // Rounding under that much noise is a noise of its own, to exp(-8 pi^2) of a code.
  if (sigma >= 2.0 && from > first && to < last && reports_codes(chain.report)) {
    return {.mean = unquantised, .variance = sigma * sigma + 1.0 / 12.0};
  }
  // Beyond an end all is the end's.
  const auto low = std::clamp(from, first, last), high = std::clamp(to, first, last);
  ReportedMoments result;
  double before = 0.0, squares = 0.0;
  const double base = value(low);  // so that the squares lose nothing
  // Under wide noise neighbours are as likely: so many codes at once that it changes 1e-5 of the
  // spread. What an end gathers stands alone.
  const auto together = std::max<std::int64_t>(1, static_cast<std::int64_t>(sigma / 64.0));
  for (auto code = low; code <= high;) {
    const auto end = code == low || code == high ? code : std::min(code + together, high) - 1;
    const double up_to =
        end == high ? 1.0 : math::normal_cdf((static_cast<double>(end) + 0.5 - held) / sigma);
    const double off = (value(code) + value(end)) / 2.0 - base;
    result.mean += (up_to - before) * off;
    squares += (up_to - before) * off * off;
    before = up_to;
    code = end + 1;
  }
  result.variance = std::max(squares - result.mean * result.mean, 0.0);
  result.mean += base;
  return result;
}

double correction_in_codes(const Chain& chain, double x) {
  if (!chain.channel.correction) return 0.0;
  const double nominal = code(chain, x, chain.nominal);
  const auto off = [&](double by) {
    const double found = chain.report.offset + chain.report.gain * (nominal + by);
    return after_correction(chain, exact_reading(chain, found) + chain.firmware.arithmetic.mean) -
           x;
  };
  // The nearest place to either side where the corrected reading passes `x`.
  const double here = off(0.0);
  for (double reach = 1.0; reach < chain.conversion.codes; reach *= 2.0) {
    for (double end : {-reach, reach}) {
      if ((off(end) > 0.0) == (here > 0.0)) continue;
      double inside = 0.0;
      for (int i = 0; i < 60; ++i) {
        const double middle = (inside + end) / 2.0;
        ((off(middle) > 0.0) == (here > 0.0) ? inside : end) = middle;
      }
      return (inside + end) / 2.0;
    }
  }
  return 0.0;
}

bool by_codes(const Chain& chain, std::size_t source) {
  return random(chain.sources[source].kind()) || chain.named.integers == source ||
         chain.named.decimals == source;
}

ReadingDistribution::ReadingDistribution(const Chain& chain, double x, double reach)
    : chain_(chain) {
  auto p = chain.nominal;
  for (const auto& source : chain.sources) {
    if (source.kind() != Kind::noise && source.kind() != Kind::interference) continue;
    const double size = source.kind() == Kind::interference
                            ? interference_limit_at(chain, source, x) / std::numbers::sqrt2
                            : source.standard_uncertainty;
    const double effect = std::abs(code_effect(chain, x, source, size, p));
    left_ = std::hypot(left_, effect * filter_gain_at(chain, source, x));
    // The largest sine is taken as one; any other is as good as noise beside it.
    double other = effect;
    if (source.kind() == Kind::interference && effect * std::numbers::sqrt2 > sine_) {
      other = std::exchange(sine_, effect * std::numbers::sqrt2) / std::numbers::sqrt2;
    }
    noise_ = std::hypot(noise_, other);
  }
  const auto& stages = chain.firmware.digital.stages;
  // The median of codes is the code of the median: one conversion, of less noise.
  noise_ *= chain.firmware.dither;
  single_ = stages.empty() || (stages.size() == 1 && stages[0].median > 0);
  if (stages.size() == 1 && stages[0].averages.size() == 1 && stages[0].sections.empty() &&
      stages[0].taps.size() == 1 && stages[0].median == 0) {
    bin_width_ = 1.0 / stages[0].averages[0];
  }
  // Between its points the mean is straight only where noise spreads it over some of them.
  if (!(reach > 0.0) || single_ || noise_ < 0.25) return;
  const double here = code(chain, x, chain.nominal) + correction_in_codes(chain, x);
  // Points to a code: of wide noise fewer than one, sixteen to its spread.
  const double per_code =
      noise_ > 16.0 ? 16.0 / noise_ : std::clamp(std::ceil(4.0 / noise_), 1.0, 16.0);
  constexpr double most_points = 1e5;  // more would cost more than what they are for
  if (2.0 * reach * per_code > most_points) return;
  const auto grid = [&](double from_here, auto moments) {
    Grid result{.first = std::floor(here - from_here), .per_code = per_code};
    const auto points = static_cast<int>((2.0 * from_here + 2.0) * per_code) + 3;
    for (int i = 0; i < points; ++i) {
      result.moments.push_back(moments(result.first + static_cast<double>(i) / per_code));
    }
    return result;
  };
  // Away from the ends every code is like the next: the points of one are all that there are.
  std::array<std::optional<ReportedMoments>, 17> of_one_code;
  const double clear = 7.0 * noise_ + 1.0;
  const double lowest = static_cast<double>(first_code(chain)) + clear,
               highest = static_cast<double>(last_code(chain)) - clear;
  const bool alike = reports_codes(chain.report) && per_code >= 1.0;
  const auto of_noise = [&](double unquantised) {
    if (!alike || unquantised < lowest || unquantised > highest)
      return reported_moments(chain, unquantised, noise_);
    const double code = std::floor(unquantised);
    auto& known =
        of_one_code[static_cast<std::size_t>(std::lround((unquantised - code) * per_code))];
    if (!known) {
      known = reported_moments(chain, unquantised, noise_);
      known->mean -= code;
    }
    return ReportedMoments{.mean = code + known->mean, .variance = known->variance};
  };
  // Noise alone first, then over the phases of the sine.
  const auto noise_alone = grid(reach + sine_ + 3.0, of_noise);
  grid_ = grid(reach, [&](double unquantised) {
    return over_phases(unquantised, [&](double at) { return noise_alone.at(at); });
  });
}

bool ReadingDistribution::Grid::holds(double unquantised) const {
  const double at = (unquantised - first) * per_code;
  return at >= 0.0 && at + 1.0 < static_cast<double>(moments.size());
}

ReportedMoments ReadingDistribution::Grid::at(double unquantised) const {
  const double at = (unquantised - first) * per_code;
  const auto i = static_cast<std::size_t>(at);
  const double part = at - static_cast<double>(i);
  return {.mean = std::lerp(moments[i].mean, moments[i + 1].mean, part),
          .variance = std::lerp(moments[i].variance, moments[i + 1].variance, part)};
}

double ReadingDistribution::wave(int phase) const {
  return sine_ * std::sin(2.0 * std::numbers::pi * (phase + 0.5) / phases);
}

// The variance is that of the conversions, the sine's part included.
template <class Moments>
ReportedMoments ReadingDistribution::over_phases(double unquantised, Moments moments) const {
  if (sine_ < 0.01) return moments(unquantised);
  ReportedMoments sum;
  double squares = 0.0;
  for (int i = 0; i < phases; ++i) {
    const auto of = moments(unquantised + wave(i));
    sum.mean += of.mean / phases;
    squares += (of.variance + of.mean * of.mean) / phases;
  }
  sum.variance = std::max(squares - sum.mean * sum.mean, 0.0);
  return sum;
}

// What can stand behind the filter: nothing beyond the ends of the codes, and of an average
// multiples of one value.
double ReadingDistribution::possible(double value) const {
  if (bin_width_ > 0.0) value = std::floor(value / bin_width_ + 0.5) * bin_width_;
  const auto [low, high] = std::minmax(static_cast<double>(chain_.report.first_reported),
                                       static_cast<double>(chain_.report.last_reported));
  return std::clamp(value, low, high);
}

double ReadingDistribution::expected(double unquantised) const {
  const auto& scaling = chain_.channel.scaling;
  const bool steps = whole_means(chain_) || scaling.decimals;
  double sum = 0.0;
  if (steps && single_) {
    for (const auto& [value, probability] : outcomes(unquantised)) {
      sum += probability * reading(chain_, value);
    }
    return sum;
  }
  const auto of = behind_filter(unquantised);
  if (!steps) return reading(chain_, of.mean);
  const double sigma = std::sqrt(of.variance);
  for (const double z : equally_likely()) sum += reading(chain_, possible(of.mean + sigma * z));
  return sum / static_cast<double>(equally_likely().size());
}

ReportedMoments ReadingDistribution::behind_filter(double unquantised) const {
  auto of =
      grid_.holds(unquantised) ? grid_.at(unquantised) : over_phases(unquantised, [&](double at) {
        return reported_moments(chain_, at, noise_);
      });
  // The filter leaves of the clipped codes' variance the part that it leaves of the whole.
  const double whole = noise_ * noise_ + sine_ * sine_ / 2.0 + 1.0 / 12.0;
  of.variance *= (left_ * left_ + 1.0 / 12.0 / chain_.firmware.averaged) / whole;
  return of;
}

}  // namespace tamlo::chain
