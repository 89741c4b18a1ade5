// SPDX-License-Identifier: Apache-2.0
#include "tamlo/record/detail/wave.hpp"

#include <cmath>
#include <stdexcept>

#include "tamlo/error.hpp"
#include "tamlo/math/detail/coverage.hpp"

namespace tamlo::record {

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
