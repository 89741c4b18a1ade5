// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <span>

#include "tamlo/export.hpp"

/// The sine that fits a record best (IEEE 1057, 4.6 and annex A).
namespace tamlo {
namespace signal TAMLO_API {

/// offset + amplitude cos(2 pi frequency i + phase) of sample i. Frequencies are in cycles a
/// sample.
struct SineFit {
  double offset = 0.0;
  double amplitude = 0.0;
  double frequency = 0.0;
  double phase = 0.0;     ///< -pi to pi, at the first sample
  double residual = 0.0;  ///< root mean square of what is left: noise and distortion
  /// Standard uncertainties, the residuals taken as white (Cramer and Rao).
  double offset_standard = 0.0, amplitude_standard = 0.0, frequency_standard = 0.0,
         phase_standard = 0.0;
  int iterations = 0;
  bool converged = true;  ///< the frequency changed by less than 1e-3 of its uncertainty

  double sinad() const;  ///< dB: amplitude / sqrt 2 over the residual
  double enob() const;   ///< (SINAD - 1.76 dB) / 6.02 dB, of an amplitude that fills the range
};

/// With a known frequency above 0 and below 0.5. Needs four samples.
SineFit fit_three(std::span<const double> samples, double frequency);

/// Returns the sine of four parameters that fits samples best (IEEE 1057): amplitude, offset, phase
/// and frequency (cycles a sample), with standard uncertainties, residual, SINAD and ENOB. `guess`
/// is a frequency within half a cycle of the record; without one it starts at the largest line of
/// the spectrum. Throws ArgumentError for fewer than five samples or one beyond ±1e150. `converged`
/// says whether the frequency came to rest.
SineFit fit_four(std::span<const double> samples, double guess = 0.0);

/// The frequency near `wanted` (both in cycles a sample) of which a record of `samples` holds a
/// whole number of cycles that shares no factor with it: every sample is then at a phase of its own
/// (IEEE 1241, 4.1.6.1).
double nearest_coherent(double wanted, std::uint64_t samples);

/// True if the frequency is coherent with the record within its uncertainty.
bool is_coherent(const SineFit& fit, std::uint64_t samples);

}  // namespace signal
}  // namespace tamlo
