// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "tamlo/export.hpp"
#include "tamlo/record/prediction.hpp"
#include "tamlo/signal/capture.hpp"
#include "tamlo/signal/sine.hpp"

/// Analysis of a record of a sine (IEEE 1241, 4.4; IEEE 1057, 4.6).
namespace tamlo {
namespace record TAMLO_API {

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

}  // namespace record
}  // namespace tamlo
