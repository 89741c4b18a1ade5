// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <vector>

#include "tamlo/export.hpp"

/// A sine over nine tenths of the span, as a nominal channel samples and reads it.
namespace tamlo {
namespace chain TAMLO_API {

struct Chain;

/// Sine as the sampling and the filters of a channel show it in the readings.
struct SampledSine {
  double frequency = 0.0;               ///< Hz
  double conversions_per_period = 0.0;  ///< below 2 it folds
  double readings_per_period = 0.0;
  double shown = 1.0;  ///< part of its amplitude in the readings: low-passes, average and filter
  /// Hz, where the readings show it instead; none where they are fast enough to follow it.
  std::optional<double> alias{};
};

/// Throws ArgumentError for a frequency that is not above 0, or a channel whose rate is not known.
SampledSine sampled_sine(const Chain& chain, double frequency);

/// A stretch of that sine: values of the quantity in SI, times in s from 0 on.
struct SampledStretch {
  double duration = 0.0;
  double amplitude = 0.0;                      ///< of the sine, about the middle of the span
  std::vector<double> times{}, conversions{};  ///< each conversion alone, as a reading
  std::vector<double> reading_times{}, readings{};
  /// Parts of what the readings show where they fold: mean + s sin(2 pi alias t) + c cos(2 pi alias
  /// t).
  double mean = 0.0, s = 0.0, c = 0.0;

  /// Returns the sine of `alias` Hz that the readings show, at a time.
  double shown_at(double time, double alias) const;
};

/// Three periods of what the readings show, of 12 conversions or more, with the filters settled
/// when it begins. Throws ArgumentError as above, and for a sine so slow that it has more than a
/// million conversions.
SampledStretch sample_sine(const Chain& chain, double frequency);

}  // namespace chain
}  // namespace tamlo
