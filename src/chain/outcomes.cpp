// SPDX-License-Identifier: Apache-2.0
// What noise makes of a steady input, value by value.
#include <algorithm>
#include <cmath>

#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/detail/reading_distribution.hpp"
#include "tamlo/math/detail/coverage.hpp"

namespace tamlo::chain {
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
