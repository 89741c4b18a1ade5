// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "tamlo/record/capture.hpp"
#include "tamlo/record/prediction.hpp"
#include "tamlo/record/sine.hpp"

/// What a record of a sine says (IEEE 1241, 4.4; IEEE 1057, 4.6).
namespace tamlo::record {

struct Wave {
  SineFit fit{};            ///< to the head of the capture
  SineFigures figures{};    ///< of the spectrum
  Spectrum spectrum{};      ///< averaged over the whole record
  double full_scale = 0.0;  ///< amplitude over half the range of the converter; 0 of readings
  double enob = 0.0;        ///< by the fit, brought to an amplitude that fills the range
  bool coherent = false;
  double nearest = 0.0;  ///< coherent frequency for such a head, cycles a sample
  /// Standard deviation of what the sine leaves: noise, steps and INL as the budget has them; and
  /// the confidence interval of the fit's.
  double predicted = 0.0, low = 0.0, high = 0.0;
  bool worse = false;  ///< more is left than was predicted
};

/// Throws DataError for a record that has no sine in it.
Wave wave(const Capture& capture, const Prediction& predicted, double coverage = 0.95);

}  // namespace tamlo::record
