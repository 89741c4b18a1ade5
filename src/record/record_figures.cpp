// SPDX-License-Identifier: Apache-2.0
#include "tamlo/record/detail/record_figures.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <stdexcept>

#include "tamlo/error.hpp"
#include "tamlo/math/detail/coverage.hpp"

namespace tamlo::record {
namespace {

// Skewness and kurtosis of n normal values spread by sqrt(6 / n) and sqrt(24 / n); steps as coarse
// as the noise change the kurtosis itself, so that little noise is not judged by it. Tones make it
// smaller, never larger: a larger one is of single values far out.
bool looks_normal(const Steady& steady, double step) {
  const auto n = static_cast<double>(steady.count);
  if (steady.noise < 0.5 * step || steady.count < 20) return true;
  if (steady.noise < 0.97 * steady.deviation) return steady.kurtosis < 4.0;
  const double far = math::coverage_factor(0.999, std::numeric_limits<double>::infinity());
  return std::abs(steady.skewness) < far * std::sqrt(6.0 / n) + 0.01 &&
         std::abs(steady.kurtosis - 3.0) < far * std::sqrt(24.0 / n) + 0.05;
}

void judge_noise(Steady& steady, const Prediction& predicted, double coverage) {
  const auto interval = math::deviation_interval(steady.noise, steady.dof, coverage);
  steady.low = interval.low;
  steady.high = interval.high;
  steady.predicted = predicted.with_steps();
  // Noise of less than half a step shows more or less of the steps, depending on where it lies.
  const bool predicted_value = predicted.noise >= 0.5 * predicted.step;
  const double max =
      predicted_value ? steady.predicted : std::max(steady.predicted, 0.5 * predicted.step);
  steady.differs = steady.low > max                                    ? 1
                   : predicted_value && steady.high < steady.predicted ? -1
                                                                       : 0;
}

void take_tones(Steady& steady, const signal::Spectrum& spectrum, const Prediction& predicted) {
  steady.tones = tones(spectrum);
  steady.floor = noise_floor(spectrum, steady.tones);
  const double bin = 1.0 / static_cast<double>(spectrum.segment);
  for (const auto& tone : steady.tones) {
    double predicted_value = 0.0;
    for (const auto& wave : predicted.waves) {
      if (std::abs(wave.frequency - tone.frequency) < 2.0 * bin)
        predicted_value = std::hypot(predicted_value, wave.amplitude);
    }
    steady.tones_predicted.push_back(predicted_value);
  }
  const auto between = between_tones(spectrum, steady.tones);
  if (!steady.tones.empty()) {
    // Not the deviation less the tones: of a large tone a small error is much noise.
    steady.noise = std::sqrt(between.power);
    steady.dof = std::min(steady.dof, between.dof);
  }
  // Of 1/f noise each octave has as much, and the slowest but one or two degrees of freedom, the
  // next twice as many, and so on: 4 octave^2 is the variance of them all.
  const double octave = steady.floor.density * steady.floor.corner * std::numbers::ln2;
  const double part = octave / (steady.noise * steady.noise);
  steady.dof = std::max(1.0, 1.0 / (1.0 / (steady.dof * between.dof_ratio) + 2.0 * part * part));
}

}  // namespace

Steady steady(const signal::Capture& capture, const Prediction& predicted, double coverage) {
  require(capture.count() >= 2, "a steady record has two samples or more");
  const auto& histogram = capture.histogram();
  const auto shape = histogram.shape();
  const auto& moments = capture.moments();
  Steady result{.count = moments.count(),
                .mean = moments.mean(),
                .deviation = std::sqrt(moments.variance()),
                .min = moments.min(),
                .max = moments.max(),
                .skewness = shape.skewness,
                .kurtosis = shape.kurtosis,
                .lag_correlation = moments.lag_correlation(),
                .trend = trend(capture.chart())};
  result.noise = result.deviation;
  result.dof = static_cast<double>(result.count - 1);
  if (result.count >= 8 && result.deviation > 0.0) {
    const auto spectrum = capture.spectrum();
    result.stability = capture.stability(coverage);
    take_tones(result, spectrum, predicted);
  }
  judge_noise(result, predicted, coverage);
  if (predicted.resolution) {
    const double bits = *predicted.resolution, codes = result.noise / predicted.per_code;
    result.effective_bits = std::min(bits, bits - std::log2(codes));
    result.noise_free_bits = std::min(bits, bits - std::log2(math::peak_to_peak * codes));
    result.missing = histogram.missing();
  }
  result.normal = looks_normal(result, predicted.step);
  return result;
}

Wave wave(const signal::Capture& capture, const Prediction& predicted, double coverage) {
  const auto head = capture.head();
  if (head.size() < 16) throw DataError("a record of less than 16 samples");
  if (capture.moments().variance() == 0.0) throw DataError("no sine: nothing moves");
  Wave result{.fit = signal::fit_four(head), .spectrum = capture.spectrum()};
  const auto& fit = result.fit;
  if (!(std::abs(fit.amplitude) > 3.0 * fit.amplitude_standard)) {
    throw DataError("no sine that stands out of the noise");
  }
  result.figures = sine_figures(result.spectrum);
  result.coherent = is_coherent(fit, head.size());
  result.nearest = signal::nearest_coherent(fit.frequency, head.size());
  if (predicted.resolution) {
    const double half = std::ldexp(predicted.per_code, *predicted.resolution - 1);
    result.full_scale = fit.amplitude / half;
    // The ideal converter leaves 1 / sqrt 12 of a code.
    result.enob =
        *predicted.resolution - std::log2(fit.residual / predicted.per_code * std::sqrt(12.0));
  }
  result.predicted = std::hypot(predicted.with_steps(), predicted.inl);
  const auto interval =
      math::deviation_interval(fit.residual, static_cast<double>(head.size() - 4), coverage);
  result.low = interval.low;
  result.high = interval.high;
  result.worse = result.low > result.predicted;
  return result;
}

}  // namespace tamlo::record
