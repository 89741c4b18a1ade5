// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/record/prediction.hpp"
#include "tamlo/signal/capture.hpp"
#include "tamlo/signal/sine.hpp"

/// Noise of a record of a steady input, held against the budget's prediction.
namespace tamlo {
namespace record TAMLO_API {

/// A record of a quantity at rest.
struct Steady {
  std::uint64_t count = 0;
  double mean = 0.0;
  double deviation = 0.0;  ///< standard deviation of all
  double noise = 0.0;      ///< the same without the tones
  double dof = 0.0;        ///< degrees of freedom of the noise
  double low = 0.0,
         high = 0.0;       ///< confidence interval of the noise, for samples without correlation
  double predicted = 0.0;  ///< noise, with the steps
  /// 1: more noise than predicted, -1: less, 0: as predicted, at the coverage asked for.
  int differs = 0;
  double min = 0.0, max = 0.0;
  /// Bits of codes: log2(codes / noise) and log2(codes / (6.6 noise)), at most the
  /// resolution.
  std::optional<double> effective_bits{}, noise_free_bits{};
  std::vector<std::int64_t> missing{};  ///< as signal::Histogram::missing() has it
  double skewness = 0.0, kurtosis = 3.0;
  /// Skewness and kurtosis are such as normal noise with these steps shows, or tones hide what it
  /// is: of them the kurtosis stays below 4.
  bool normal = true;
  double lag_correlation = 0.0;       ///< of neighbours
  std::vector<signal::Tone> tones{};  ///< the largest first
  /// Amplitude that was predicted for each tone; 0 where no tone was.
  std::vector<double> tones_predicted{};
  signal::Floor floor{};  ///< white noise and the corner of 1/f, between the tones
  signal::Trend trend{};
  signal::Stability stability{};  ///< empty for less than eight samples, and where nothing moves
};

/// Needs two samples.
Steady steady(const signal::Capture& capture, const Prediction& predicted, double coverage = 0.95);

// Analysis of a record of a sine (IEEE 1241, 4.4; IEEE 1057, 4.6).

/// Analysis of a record of a sine, a ramp or a step.
struct Wave {
  signal::SineFit fit{};          ///< to the head of the capture
  signal::SineFigures figures{};  ///< of the spectrum
  signal::Spectrum spectrum{};    ///< averaged over the whole record
  double full_scale = 0.0;        ///< amplitude over half the range of the converter; 0 of readings
  double enob = 0.0;              ///< by the fit, brought to an amplitude that fills the range
  bool coherent = false;
  double nearest = 0.0;  ///< coherent frequency for such a head, cycles a sample
  /// Standard deviation of what the sine leaves: noise, steps and INL as the budget has them; and
  /// the confidence interval of the fit's.
  double predicted = 0.0, low = 0.0, high = 0.0;
  bool worse = false;  ///< more is left than was predicted
};

/// Throws DataError for a record that has no sine in it.
Wave wave(const signal::Capture& capture, const Prediction& predicted, double coverage = 0.95);

/// Moments of the samples by a column of times, in s.
struct SampleTimes {
  double period = 0.0;          ///< the middle of the first steps
  double jitter = 0.0;          ///< standard deviation of all other steps
  std::uint64_t gaps = 0;       ///< steps of more than one and a half periods
  double longest = 0.0;         ///< of the gaps
  std::uint64_t backwards = 0;  ///< steps back
  std::uint64_t held_back = 0;  ///< steps of less than half a period: they had waited
  std::uint64_t backlog = 0;    ///< the most of those in a row
  std::uint64_t first_odd = 0;  ///< sample behind the first of any of these; 0: none
};

}  // namespace record
}  // namespace tamlo
