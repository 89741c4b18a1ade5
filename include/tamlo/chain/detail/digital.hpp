// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cmath>
#include <memory>
#include <string>
#include <utility>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/model/detail/prepared_filter.hpp"

/// Averages and digital filters in series: what they let through, how late, and how much noise is
/// left (docs/method.md, "Averages and filters"). Frequencies in Hz, rates in samples a second. A
/// rate of 0 is one that the board does not say: then all that needs none still holds, per sample.
namespace tamlo {
namespace chain TAMLO_API {

/// Average and filters of a channel, prepared for its rate.
struct Digital {
  double rate = 0.0;  ///< of the conversions
  std::vector<model::PreparedFilter> stages{};
  /// Answer of the stages to a single 1, computed once for all that ask while a chain is built; the
  /// chain keeps it where it has at most `longest_kept` values. It goes when the stages change.
  std::shared_ptr<const std::vector<double>> answer{};
};

/// Stages that are ready to be computed, for a stream of `rate`; times become counts here. Throws
/// ArgumentError for a cutoff or notch that is not below half the rate at its place, and for a
/// series that remembers more than 4194304 conversions, or with a median more than `median_work`
/// divided by the lengths of its medians.
Digital prepare(const std::vector<model::DigitalStage>& stages, double rate);
/// Most of lengths of medians times conversions that are remembered: beside other stages a median
/// is run conversion by conversion.
inline constexpr double median_work = 1e5;

/// Values of an answer that are kept: 0.5 MB for each channel of a board.
inline constexpr std::size_t longest_kept = std::size_t{1} << 16;

int decimation(const Digital& digital);      ///< conversions that make one reading
double output_rate(const Digital& digital);  ///< readings a second

/// Size of the transfer function of the whole series at a frequency, aliases included: what of a
/// sine of that frequency at the converter is left in the readings.
double magnitude(const Digital& digital, double frequency);
/// Returns the gain of one stage at a frequency.
double magnitude(const model::PreparedFilter& stage, double frequency);

/// Answer of a stage to a single 1, until what is left is below 1e-13 of its largest value.
std::vector<double> impulse_response(const model::PreparedFilter& stage);
/// Returns the impulse response of the whole series, conversion by conversion.
std::vector<double> impulse_response(const Digital& digital);
/// Says whether the mean of whole blocks comes first, as in most firmwares: its readings are apart
/// by a whole block, so that what follows can be counted in blocks.
bool leads_with_block(const Digital& digital);

/// Variance that is left of noise of variance 1, whose neighbours at the converter correlate by
/// `correlation` (0: white). Exact for linear stages: the sum of the squares of the answer to one
/// conversion. A median alone, of white noise, has the noise of order statistics; among
/// other stages, or of noise that correlates, it comes by 131072 trials, within 1 %; by fewer where
/// more than eight conversions make a reading.
double noise_gain(const Digital& digital, double correlation = 0.0);

/// Variance of the median of `length` (odd) independent standard normal values (David and Nagaraja,
/// 2003, eq. 2.1.6, integrated to 1e-9).
double median_variance(int length);

/// Says whether what is left of a step is within the band: what is just within is, however its
/// digits were rounded.
inline bool has_settled(double left, double band) { return std::abs(left) <= band * (1.0 + 1e-9); }

/// Readings until a step, that came right after one, has settled for good to within `band` of its
/// height; 1 is "the next". It is also how many readings a fresh start needs until one is valid.
int readings_to_settle(const Digital& digital, double band);

/// Delay of slow signals, in samples of the conversions.
double group_delay(const Digital& digital);

/// Lowest frequency, in parts of the rate of the conversions, at which the series is down by 3 dB;
/// 0.5 where it never is.
double cutoff(const Digital& digital);

/// A series with its memory: push() takes conversions one by one.
class DigitalState {
 public:
  /// At rest at 0; keeps a reference to `digital`.
  explicit DigitalState(const Digital& digital);

  /// Sets the state as if `value` had always been there.
  void prime(double value);
  /// True if a reading came out, which is then value().
  bool push(double value);
  /// The last reading.
  double value() const { return value_; }

 private:
  struct Memory {
    std::vector<std::vector<double>> averages;  // the last samples of each
    std::vector<std::size_t> at;
    std::vector<double> sums;
    std::vector<std::pair<double, double>> sections;
    std::vector<double> taps;  // newest first, from taps_at on
    std::size_t taps_at = 0;
    std::vector<double> median, sorted;  // by age, and by size
    std::size_t median_at = 0;
    int kept = 0;
  };
  const Digital* digital_;
  std::vector<Memory> memory_;
  double value_ = 0.0;

  double through(const model::PreparedFilter& stage, Memory& memory, double value) const;
};

// Quantisation of averaged conversions (docs/method.md, "Resolution, averaging and dither").
// Everything in code widths; the input is steady at an unknown place within its code, the noise
// normal and independent from conversion to conversion.

/// Variance of the part of the quantisation error that no averaging removes, for noise of standard
/// deviation `sigma` before the quantiser:
///
///     u_sys^2 = sum_{k>=1} exp(-4 pi^2 k^2 sigma^2) / (2 (pi k)^2)
///
/// 1/12 at sigma = 0; under 1e-9 from sigma = 0.75 on. Accurate to 1e-15 for all sigma >= 0.
/// Source: the Fourier series of the quantiser's sawtooth (Widrow and Kollar, 2008, ch. 4).
double systematic_quantisation_variance(double sigma);

/// Standard uncertainty that quantisation adds to the mean of `count` conversions, beside the
/// sigma / sqrt(count) of the noise itself:
///
///     u_q^2 = u_sys^2 + (1/12 - u_sys^2) / count
///
/// For a filter, `count` is the inverse of its noise gain.
double quantisation_standard(double sigma, double count);

}  // namespace chain
}  // namespace tamlo
