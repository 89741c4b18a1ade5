// SPDX-License-Identifier: Apache-2.0
// What noise makes of a steady input, value by value.
#include "tamlo/chain/detail/reading_distribution.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <utility>

#include "tamlo/chain/chain.hpp"
#include "tamlo/math/detail/coverage.hpp"
#include "tamlo/math/detail/search.hpp"

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

namespace {

// Probabilities of whole numbers from `first` on.
struct Whole {
  std::int64_t first = 0;
  std::vector<double> of{};

  // What is too rare to matter costs time all the same.
  void trim() {
    const auto counts = [](double p) { return p > 1e-20; };
    of.erase(std::find_if(of.rbegin(), of.rend(), counts).base(), of.end());
    const auto begin = std::ranges::find_if(of, counts);
    first += begin - of.begin();
    of.erase(of.begin(), begin);
  }
};

// Of the sum of two.
Whole sum_of(const Whole& a, const Whole& b) {
  Whole result{.first = a.first + b.first,
               .of = std::vector<double>(a.of.size() + b.of.size() - 1, 0.0)};
  for (std::size_t i = 0; i < a.of.size(); ++i) {
    for (std::size_t j = 0; j < b.of.size(); ++j) result.of[i + j] += a.of[i] * b.of[j];
  }
  result.trim();
  return result;
}

// Under wide noise neighbours are as likely, and so many of them at once change no probability by
// more than a thousandth of the spread would; one by one, sums of them would take minutes.
std::int64_t codes_at_once(double noise, int count, bool in_line) {
  if (!in_line) return 1;
  const double part =
      count == 1 ? 1.0 / 1024.0 : std::clamp(std::sqrt(count) / 32.0, 1.0 / 16.0, 1.0 / 8.0);
  return std::max<std::int64_t>(1, static_cast<std::int64_t>(noise * part));
}

}  // namespace

std::vector<Outcome> ReadingDistribution::outcomes(double unquantised) const {
  const int count = bin_width_ > 0.0 ? chain_.firmware.digital.stages[0].averages[0] : 1;
  const bool independent = std::abs(left_ * std::sqrt(count) - noise_) < 0.01 * noise_ + 1e-9;
  std::vector<Outcome> result;
  if ((!single_ && bin_width_ == 0.0) || count > 256 ||
      (count > 1 && (sine_ >= 0.01 || !independent))) {
    const auto filtered = behind_filter(unquantised);
    const double sigma = std::sqrt(filtered.variance);
    if (!(sigma > 0.0)) return {{.value = filtered.mean, .probability = 1.0}};
    const double bin_width = bin_width_ > 0.0 ? bin_width_ : sigma / 16.0;
    double before = 0.0;
    for (double k = std::floor((filtered.mean - 9.0 * sigma) / bin_width);
         k <= std::ceil((filtered.mean + 9.0 * sigma) / bin_width); k += 1.0) {
      const double up_to = math::normal_cdf(((k + 0.5) * bin_width - filtered.mean) / sigma);
      result.push_back({.value = k * bin_width, .probability = up_to - before});
      before = up_to;
    }
    return result;
  }
  // One conversion, in steps of what all reported values are a multiple of.
  const bool shifted = reports_shifted(chain_.report);
  const std::int64_t step = shifted ? static_cast<std::int64_t>(chain_.report.per_code) : 1;
  const auto together = codes_at_once(noise_, count, shifted || reports_codes(chain_.report));
  Whole one;
  const int waves = sine_ < 0.01 ? 1 : phases;
  for (int i = 0; i < waves; ++i) {
    const double at = unquantised + (waves == 1 ? 0.0 : wave(i));
    const auto from = convert(chain_, at - 9.5 * noise_).code;
    const auto to = convert(chain_, at + 9.5 * noise_).code;
    for (auto code = from; code <= to;) {
      // Of those that go together, from wherever the first one lies among them.
      const auto value = reported(chain_.report, code) / step;
      const auto into = (value % together + together) % together;
      const auto end = std::min(code + together - 1 - into, to);
      // By the smaller tail, so that rare codes keep their digits.
      const double edge = (static_cast<double>(end) + 0.5 - at) / noise_;
      const double lower = (static_cast<double>(code) - 0.5 - at) / noise_;
      const double part = end == to      ? (code == from ? 1.0 : math::normal_cdf(-lower))
                          : code == from ? math::normal_cdf(edge)
                          : lower > 0.0  ? math::normal_cdf(-lower) - math::normal_cdf(-edge)
                                         : math::normal_cdf(edge) - math::normal_cdf(lower);
      const auto group = (value - into) / together;
      if (one.of.empty()) one.first = group;
      if (group < one.first) {
        one.of.insert(one.of.begin(), static_cast<std::size_t>(one.first - group), 0.0);
        one.first = group;
      }
      const auto place = static_cast<std::size_t>(group - one.first);
      if (place >= one.of.size()) one.of.resize(place + 1, 0.0);
      one.of[place] += part / waves;
      code = end + 1;
    }
  }
  // The sum of `count`, by doubling.
  Whole sum{.first = 0, .of = {1.0}}, power = one;
  for (int left = count; left > 0; left /= 2) {
    if (left % 2 == 1) sum = sum_of(sum, power);
    if (left > 1) power = sum_of(power, power);
  }
  for (std::size_t i = 0; i < sum.of.size(); ++i) {
    // Those that go together lie about their middle.
    const auto groups = sum.first + static_cast<std::int64_t>(i);
    const double total = static_cast<double>(groups * together * step) +
                         count * static_cast<double>((together - 1) * step) / 2.0;
    result.push_back({.value = total / count, .probability = sum.of[i]});
  }
  return result;
}

}  // namespace tamlo::chain
