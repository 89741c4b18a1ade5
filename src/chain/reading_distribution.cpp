// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/reading_distribution.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <utility>

#include "tamlo/chain/chain.hpp"
#include "tamlo/math/detail/bisect.hpp"
#include "tamlo/math/detail/coverage.hpp"

namespace tamlo::chain {

namespace {

// Codes under wide noise, held at both ends: moments of min(max(X, 0), n) for a normal X about
// `centre`, counted from the first code. The sum over codes is the integral of P(X > t), by the
// midpoint rule; its error at the ends, 1/24 of the change of slope (Euler and Maclaurin), is made
// good, which leaves 5e-4 / sigma^3 codes.
ReportedMoments held_moments(double centre, double sigma, double n) {
  struct Tail {
    double density, above, first, second;  // P(X > a), E[(X - a)+], E[(X - a)+^2]
  };
  const auto tail = [&](double a) -> Tail {
    const double z = (a - centre) / sigma;
    const double phi = std::exp(-z * z / 2.0) / std::sqrt(2.0 * std::numbers::pi);
    const double q = math::normal_cdf(-z);
    return {.density = phi / sigma,
            .above = q,
            .first = sigma * (phi - z * q),
            .second = sigma * sigma * ((1.0 + z * z) * q - z * phi)};
  };
  const auto low = tail(0.0), high = tail(n);
  const double mean = low.first - high.first + (high.density - low.density) / 24.0;
  const double squares = low.second - high.second - 2.0 * n * high.first +
                         (low.above - high.above + n * high.density) / 12.0;
  return {.mean = mean, .variance = std::max(squares - mean * mean, 0.0)};
}

template <class Value>
ReportedMoments moments_of(const Chain& chain, double unquantised, double sigma, bool plain,
                           const Value& value_of) {
  const auto first = first_code(chain), last = last_code(chain);
  const auto value = [&](std::int64_t code) {
    return static_cast<double>(value_of(std::clamp(code, first, last)));
  };
  const double held =
      std::clamp(unquantised, static_cast<double>(first) - 1e6, static_cast<double>(last) + 1e6);
  const auto from = static_cast<std::int64_t>(std::floor(held - 7.0 * sigma + 0.5));
  const auto to = static_cast<std::int64_t>(std::floor(held + 7.0 * sigma + 0.5));
  if (from == to) return {.mean = value(from)};
  // Rounding under that much noise is a noise of its own, to exp(-8 pi^2) of a code.
  if (sigma >= 2.0 && from > first && to < last && plain) {
    return {.mean = unquantised, .variance = sigma * sigma + 1.0 / 12.0};
  }
  if (sigma >= 16.0 && plain) {
    auto result =
        held_moments(held - static_cast<double>(first), sigma, static_cast<double>(last - first));
    result.mean += static_cast<double>(first);
    return result;
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

}  // namespace

ReportedMoments reported_moments(const Chain& chain, double unquantised, double sigma) {
  return moments_of(chain, unquantised, sigma, reports_codes(chain.report),
                    [&](std::int64_t code) { return reported(chain.report, code); });
}

ReportedMoments code_moments(const Chain& chain, double unquantised, double sigma) {
  return moments_of(chain, unquantised, sigma, true, [](std::int64_t code) { return code; });
}

double correction_in_codes(const Chain& chain, double x) {
  if (!chain.channel.correction || chain.channel.correction->of_each_unit) return 0.0;
  const double nominal = code(chain, x, chain.nominal);
  const auto off = [&](double by) {
    const double found = chain.report.offset + chain.report.gain * (nominal + by);
    return after_correction(chain, exact_reading(chain, found) + chain.firmware.arithmetic.mean) -
           x;
  };
  // The nearest place to either side where the corrected reading passes `x`.
  const double own = off(0.0);
  for (double reach = 1.0; reach < chain.conversion.codes; reach *= 2.0) {
    for (double end : {-reach, reach}) {
      if ((off(end) > 0.0) == (own > 0.0)) continue;
      const auto inside = [&](double by) { return (off(by) > 0.0) == (own > 0.0); };
      return math::bisect(0.0, end, 60, inside).middle();
    }
  }
  return 0.0;
}

bool by_codes(const Chain& chain, std::size_t source) {
  return random(chain.sources[source].kind()) || chain.named.integers == source ||
         chain.named.decimals == source;
}

ReadingDistribution::ReadingDistribution(const Chain& chain, double x) : chain_(chain) {
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
    const auto moved = moments(unquantised + wave(i));
    sum.mean += moved.mean / phases;
    squares += (moved.variance + moved.mean * moved.mean) / phases;
  }
  sum.variance = std::max(squares - sum.mean * sum.mean, 0.0);
  return sum;
}

ReportedMoments ReadingDistribution::behind_filter(double unquantised) const {
  auto outcome =
      over_phases(unquantised, [&](double at) { return reported_moments(chain_, at, noise_); });
  // The filter leaves of the clipped codes' variance the part that it leaves of the whole.
  const double whole = noise_ * noise_ + sine_ * sine_ / 2.0 + 1.0 / 12.0;
  outcome.variance *= (left_ * left_ + 1.0 / 12.0 / chain_.firmware.averaged) / whole;
  return outcome;
}

}  // namespace tamlo::chain
