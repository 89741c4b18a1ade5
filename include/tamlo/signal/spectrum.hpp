// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <string_view>
#include <vector>

#include "tamlo/export.hpp"

/// Power over frequency, and what a sine's spectrum says of its converter (IEEE 1241, 4.4).
namespace tamlo {
namespace signal TAMLO_API {

enum class Window : std::uint8_t { rectangular, hann, blackman_harris, flat_top };
std::string_view name(Window window);
/// The window of that name; nothing for any other text.

/// Properties of a window of many samples, exact from its coefficients.
struct WindowFigures {
  double coherent_gain = 1.0;    ///< mean of the window: what it makes of an amplitude
  double noise_bandwidth = 1.0;  ///< equivalent, in bins
  int reach = 1;                 ///< bins to either side of a line that belong to it
};
WindowFigures figures(Window window);

/// The window's value at sample i of n (periodic).
double window_at(Window window, std::size_t i, std::size_t n);

/// One-sided, averaged over segments that overlap by half; the mean of each is taken away.
struct Spectrum {
  Window window = Window::hann;
  std::size_t segment = 0;  ///< samples of one; a bin is 1 / segment cycles a sample
  std::uint64_t segments = 0;
  /// Mean square in each bin, corrected for the window's coherent gain: a sine that lies in a bin
  /// has half its amplitude squared there. The sum over bins / noise_bandwidth is the mean square.
  std::vector<double> power{};
};

/// A spectrum in the making: samples come block by block, the segments' powers add up. Parts of a
/// record merge as stretches of their own: no segment lies across the joint.
class SpectrumParts {
 public:
  /// Segments of a power of two, at least 8.
  SpectrumParts(Window window, std::size_t segment);
  SpectrumParts(SpectrumParts&&) noexcept;
  SpectrumParts& operator=(SpectrumParts&&) noexcept;
  ~SpectrumParts();

  /// In the order of time.
  void add(std::span<const double> samples);
  /// The segments of both. Throws ArgumentError for another window or length.
  void merge(const SpectrumParts& other);
  /// Whole ones so far.
  std::uint64_t segments() const { return segments_; }
  /// Returns the spectrum of all whole segments so far, of which there must be one.
  Spectrum result() const;

 private:
  struct Work;
  Window window_;
  std::size_t segment_;
  std::uint64_t segments_ = 0;
  std::vector<double> power_{}, waiting_{};
  std::unique_ptr<Work> work_{};  // from the first whole segment on
};

/// Returns the averaged power spectrum of samples (Welch, 1967), corrected for the window's gain
/// and noise bandwidth, in the squared unit of the samples. `segment` is a power of two, 8 or more
/// and no longer than the record; 0: one segment as long as that can be. Segments overlap by half,
/// but for a rectangular window. Throws ArgumentError for another length, and for too few samples.
Spectrum spectrum(std::span<const double> samples, Window window = Window::hann,
                  std::size_t segment = 0);

/// One line of a spectrum.
struct Tone {
  double frequency = 0.0;  ///< cycles a sample, between bins by the centroid of its power
  double power = 0.0;      ///< mean square
  int order = 0;           ///< of a harmonic, folded back below half the rate; 1 is the wave itself
};

/// Figures of a sine. dB.
struct SineFigures {
  Tone fundamental{};
  std::vector<Tone> harmonics{};  ///< orders 2 to 10
  double snr = 0.0;
  double sinad = 0.0;
  double thd = 0.0;   ///< harmonics over the fundamental
  double sfdr = 0.0;  ///< fundamental over the largest other line
  double enob = 0.0;
  double noise_floor = 0.0;  ///< mean square of one bin without lines, median over bins
};

/// Needs a line above the noise. Lines that fall together (a harmonic on the fundamental, or at
/// zero) count once.
SineFigures sine_figures(const Spectrum& spectrum);

/// Frequency of the largest line, cycles a sample, above 0 and below 0.5.
double largest_line(std::span<const double> samples);

/// Returns the lines that stand out of the noise beside them, the largest first: frequency (cycles
/// a sample) and amplitude. With white noise alone one spectrum in a hundred shows any. Throws
/// ArgumentError for a spectrum without a whole segment.
std::vector<Tone> tones(const Spectrum& spectrum);

/// Noise between the tones of a spectrum.
struct InterToneNoise {
  double power = 0.0;  ///< mean square, as if the bins of the tones had as much noise as the others
  double dof = 0.0;    ///< degrees of freedom of that, for white noise
  /// Part of the degrees of freedom that the variance of a record keeps if its noise is as uneven
  /// over frequency as this: 1 for white noise.
  double dof_ratio = 1.0;
};
InterToneNoise between_tones(const Spectrum& spectrum, std::span<const Tone> tones);

/// The noise between the lines: white, and what rises as 1 / frequency below a corner.
struct Floor {
  double density = 0.0;  ///< of the white part: mean square over a bandwidth of one cycle a sample
  double corner = 0.0;   ///< cycles a sample, where both are as large; 0: none observed
  double corner_standard = 0.0;
};
/// All 0 of a spectrum of too few bins, or where what rises leaves no white part.
Floor noise_floor(const Spectrum& spectrum, std::span<const Tone> tones);

}  // namespace signal
}  // namespace tamlo
