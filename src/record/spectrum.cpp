// SPDX-License-Identifier: Apache-2.0
#include "tamlo/record/spectrum.hpp"

#include <unsupported/Eigen/FFT>

#include <algorithm>
#include <bit>
#include <cassert>
#include <cmath>
#include <complex>
#include <numbers>

#include "tamlo/math/coverage.hpp"
#include "tamlo/math/regression.hpp"

namespace tamlo::record {
namespace {

using std::numbers::pi;

// Of 1, -cos, +cos 2, ... (Harris, 1978, four-term minimum; ISO 18431-2 for the flat top).
std::span<const double> coefficients(Window window) {
  static constexpr double rectangular[] = {1.0};
  static constexpr double hann[] = {0.5, 0.5};
  static constexpr double blackman_harris[] = {0.35875, 0.48829, 0.14128, 0.01168};
  static constexpr double flat_top[] = {1.0, 1.933, 1.286, 0.388, 0.0322};
  switch (window) {
    case Window::rectangular:
      return rectangular;
    case Window::hann:
      return hann;
    case Window::blackman_harris:
      return blackman_harris;
    case Window::flat_top:
      return flat_top;
  }
  return rectangular;
}

// Takes the bins about a place out of a spectrum; gives their power and their centroid.
class Lines {
 public:
  explicit Lines(const Spectrum& spectrum)
      : spectrum_(spectrum),
        reach_(figures(spectrum.window).reach),
        bandwidth_(figures(spectrum.window).noise_bandwidth),
        taken_(spectrum.power.size(), false) {
    take(0);  // the mean was taken away, and leaks into its neighbours
  }

  /// Mean square of a line about that bin; what was taken before does not count.
  Tone take(std::size_t bin) {
    const auto last = spectrum_.power.size() - 1;
    const auto reach = static_cast<std::size_t>(reach_);
    const auto from = bin > reach ? bin - reach : 0, to = std::min(last, bin + reach);
    double power = 0.0, moment = 0.0;
    for (auto k = from; k <= to; ++k) {
      if (taken_[k]) continue;
      taken_[k] = true;
      power += spectrum_.power[k];
      moment += spectrum_.power[k] * static_cast<double>(k);
    }
    const double centre = power > 0.0 ? moment / power : static_cast<double>(bin);
    return {.frequency = centre / static_cast<double>(spectrum_.segment),
            .power = power / bandwidth_};
  }

  std::size_t largest() const {
    std::size_t best = 0;
    double most = -1.0;
    for (std::size_t k = 0; k < taken_.size(); ++k) {
      if (taken_[k] || spectrum_.power[k] <= most) continue;
      most = spectrum_.power[k];
      best = k;
    }
    return best;
  }

  /// What is left: its mean square, and the bins that hold it.
  std::vector<double> rest() const {
    std::vector<double> result;
    for (std::size_t k = 0; k < taken_.size(); ++k) {
      if (!taken_[k]) result.push_back(spectrum_.power[k]);
    }
    return result;
  }

  double bandwidth() const { return bandwidth_; }

 private:
  const Spectrum& spectrum_;
  int reach_;
  double bandwidth_;
  std::vector<bool> taken_;
};

double decibels(double ratio) { return 10.0 * std::log10(ratio); }

// Where the harmonic of a frequency lands, cycles a sample.
double folded(double frequency) {
  const double part = frequency - std::floor(frequency);
  return std::min(part, 1.0 - part);
}

}  // namespace

std::string_view name(Window window) {
  switch (window) {
    case Window::rectangular:
      return "rectangular";
    case Window::hann:
      return "hann";
    case Window::blackman_harris:
      return "blackman-harris";
    case Window::flat_top:
      return "flat-top";
  }
  return "";
}

WindowFigures figures(Window window) {
  const auto c = coefficients(window);
  double squares = c[0] * c[0];
  for (std::size_t k = 1; k < c.size(); ++k) squares += c[k] * c[k] / 2.0;
  return {.coherent_gain = c[0],
          .noise_bandwidth = squares / (c[0] * c[0]),
          .reach = window == Window::rectangular ? 0 : static_cast<int>(c.size())};
}

double window_at(Window window, std::size_t i, std::size_t n) {
  const auto c = coefficients(window);
  const double angle = 2.0 * pi * static_cast<double>(i) / static_cast<double>(n);
  double sum = 0.0, sign = 1.0;
  for (std::size_t k = 0; k < c.size(); ++k, sign = -sign) {
    sum += sign * c[k] * std::cos(static_cast<double>(k) * angle);
  }
  return sum;
}

Spectrum spectrum(std::span<const double> samples, Window window, std::size_t segment) {
  const auto longest = std::bit_floor(samples.size());
  if (segment == 0) segment = longest;
  assert(std::has_single_bit(segment) && segment >= 8 && segment <= longest);
  std::vector<double> weights(segment), values(segment);
  for (std::size_t i = 0; i < segment; ++i) weights[i] = window_at(window, i, segment);
  Spectrum result{.window = window, .segment = segment};
  result.power.assign(segment / 2 + 1, 0.0);
  Eigen::FFT<double> transform;
  transform.SetFlag(Eigen::FFT<double>::HalfSpectrum);
  std::vector<std::complex<double>> bins;
  const auto step = window == Window::rectangular ? segment : segment / 2;
  for (std::size_t from = 0; from + segment <= samples.size(); from += step) {
    double mean = 0.0;
    for (std::size_t i = 0; i < segment; ++i) mean += samples[from + i];
    mean /= static_cast<double>(segment);
    for (std::size_t i = 0; i < segment; ++i) values[i] = weights[i] * (samples[from + i] - mean);
    transform.fwd(bins, values);
    for (std::size_t k = 0; k < result.power.size(); ++k) result.power[k] += std::norm(bins[k]);
    ++result.segments;
  }
  // Two-sided to one-sided: all but zero and half the rate stand for two.
  const double gain = figures(window).coherent_gain * static_cast<double>(segment);
  for (std::size_t k = 0; k < result.power.size(); ++k) {
    const double sides = k == 0 || k == segment / 2 ? 1.0 : 2.0;
    result.power[k] *= sides / (gain * gain) / static_cast<double>(result.segments);
  }
  return result;
}

SineFigures sine_figures(const Spectrum& spectrum) {
  Lines lines(spectrum);
  SineFigures result;
  result.fundamental = lines.take(lines.largest());
  result.fundamental.order = 1;
  double distortion = 0.0, largest = 0.0;
  for (int order = 2; order <= 10; ++order) {
    const double at = folded(order * result.fundamental.frequency);
    const auto bin =
        static_cast<std::size_t>(std::llround(at * static_cast<double>(spectrum.segment)));
    auto tone = lines.take(bin);
    tone.order = order;
    tone.frequency = at;
    distortion += tone.power;
    largest = std::max(largest, tone.power);
    result.harmonics.push_back(tone);
  }
  const auto rest = lines.rest();
  double noise = 0.0;
  for (const double power : rest) noise += power / lines.bandwidth();
  // The bins that lines were taken from hold noise as well.
  noise *= static_cast<double>(spectrum.power.size()) /
           static_cast<double>(std::max<std::size_t>(1, rest.size()));
  if (!rest.empty()) {
    result.noise_floor = math::median(rest);
    largest = std::max(largest, *std::ranges::max_element(rest));
  }
  const double wave = result.fundamental.power;
  result.snr = decibels(wave / noise);
  result.sinad = decibels(wave / (noise + distortion));
  result.thd = decibels(distortion / wave);
  result.sfdr = decibels(wave / largest);
  result.enob = (result.sinad - decibels(1.5)) / decibels(4.0);
  return result;
}

double largest_line(std::span<const double> samples) {
  // The whole record, with zeros behind it, so that the bins are a quarter of a cycle apart or
  // less.
  const auto n = samples.size();
  const auto padded = 4 * std::bit_ceil(n);
  double mean = 0.0;
  for (const double x : samples) mean += x / static_cast<double>(n);
  std::vector<double> values(padded, 0.0);
  for (std::size_t i = 0; i < n; ++i) {
    values[i] = window_at(Window::hann, i, n) * (samples[i] - mean);
  }
  Eigen::FFT<double> transform;
  transform.SetFlag(Eigen::FFT<double>::HalfSpectrum);
  std::vector<std::complex<double>> bins;
  transform.fwd(bins, values);
  std::size_t best = 1;
  for (std::size_t k = 1; k + 1 < bins.size(); ++k) {
    if (std::norm(bins[k]) > std::norm(bins[best])) best = k;
  }
  // A parabola through the logarithms about it.
  const auto power = [&](std::size_t k) { return std::log(std::norm(bins[k]) + 1e-300); };
  const double left = power(best - 1), here = power(best), right = power(best + 1);
  const double bend = left - 2.0 * here + right;
  const double part = bend < 0.0 ? std::clamp((left - right) / (2.0 * bend), -0.5, 0.5) : 0.0;
  const auto of = static_cast<double>(padded);
  return std::clamp((static_cast<double>(best) + part) / of, 0.25 / of, 0.5 - 0.25 / of);
}

std::vector<Tone> tones(const Spectrum& spectrum) {
  std::vector<Tone> result;
  Lines lines(spectrum);
  // A bin of white noise is chi-squared of two degrees for each segment that counts; those that
  // overlap by half count as 18 K^2 / (19 K - 1) (Welch, 1967, for Hann).
  const auto k = static_cast<double>(spectrum.segments);
  const double counts =
      spectrum.window == Window::rectangular ? k : 18.0 * k * k / (19.0 * k - 1.0);
  const double dof = 2.0 * std::max(1.0, counts);
  const double middle = math::chi_squared_below(0.5, dof) / dof;
  const auto bins = static_cast<double>(spectrum.power.size());
  const double far = math::chi_squared_below(1.0 - 0.01 / bins, dof) / dof;
  while (result.size() < 20) {
    const auto rest = lines.rest();
    if (rest.size() < 8) break;
    const auto bin = lines.largest();
    if (!(spectrum.power[bin] > math::median(rest) / middle * far)) break;
    result.push_back(lines.take(bin));
  }
  return result;
}

}  // namespace tamlo::record
