// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string_view>
#include <vector>

#include "tamlo/chain/detail/digital.hpp"
#include "tamlo/export.hpp"
#include "tamlo/record/prediction.hpp"
#include "tamlo/simulate/detail/stimulus.hpp"
#include "tamlo/simulate/unit.hpp"

/// Records of virtual units, sample by sample in time.
namespace tamlo {
namespace simulate TAMLO_API {

/// Shape of a unit's INL, from code to code.
enum class Bend : std::uint8_t {
  bow,          ///< a parabola, nothing at the ends
  s_curve,      ///< one period of a sine
  bit_weights,  ///< at every binary carry: the weights of the bits are not right
};
std::string_view name(Bend bend);

/// Faults of a virtual unit, beside its sources.
struct Flaws {
  Bend bend = Bend::bow;
  double inl = 0.0;                     ///< LSB, the largest
  std::vector<std::int64_t> missing{};  ///< codes that come as the next one
  double jitter = 0.0;                  ///< s, standard deviation of the moment of sampling
};
/// INL of that bend in LSB, of the largest size 1, at a part of the range.
double bent(Bend bend, double part);

using record::Shows;

/// The frequency near `wanted` of which the record holds a whole number of periods; all in Hz.
double coherent(double wanted, double rate, std::uint64_t samples);

/// Decimals of a reading in the unit of the quantity, the last of them less than a code.
int decimals(const chain::Chain& chain);
/// Enough that the noise of a reading shows.
int record_decimals(const chain::Chain& chain);

/// The noise of a run of a unit: a random stream of its own beside that of the unit's deviations.
math::RandomStream noise_stream(std::uint64_t seed, std::uint64_t number, std::uint64_t run);

/// A unit being sampled, its average and filter filled before the first sample. White noise is new
/// at every conversion; that of parts before a low-pass goes over from one to the next; 1/f noise
/// is as strong in every octave down to the time of observation; interference has one phase. The
/// same seed, unit and run give the same samples.
class Sampler {
 public:
  /// Settings of a sampler.
  struct Settings {
    Stimulus stimulus{};
    Flaws flaws{};
    Shows shows = Shows::codes;
    double rate = 0.0;  ///< conversions a second, above 0
    std::uint64_t samples = 0;
    /// Samples of the stimulus, which then repeats where it is a ramp or a step; 0: all of them.
    std::uint64_t period = 0;
    std::uint64_t seed = 1, number = 1, run = 0;
  };
  /// `firmware` scales readings; it is `chain` itself unless it differs from the description.
  /// Keeps references to both.
  Sampler(const chain::Chain& chain, const chain::Chain& firmware, VirtualUnit unit,
          const Settings& settings);
  Sampler(chain::Chain&& gone, const chain::Chain& firmware, VirtualUnit, const Settings&) = delete;
  Sampler(const chain::Chain& chain, chain::Chain&& gone, VirtualUnit, const Settings&) = delete;

  /// Samples a second, of what is shown.
  double rate() const;
  /// The place of a step among the samples; a reading is of the moment of its last conversion.
  double step_at() const;
  /// The next ones, up to the number asked for; empty behind the last.
  std::vector<double> next(std::size_t most);
  /// From now on the quantity is `x`, whatever the stimulus says; it comes through the low-passes
  /// of the chain, each held over one conversion. The first comes at once.
  void follow(double x);
  /// Now, before any low-pass where it is followed.
  double quantity() const;

 private:
  // A source of noise in time: white, or a sum of parts that forget at different speeds.
  struct Noise {
    std::size_t source;
    std::vector<double> states{}, keeps{};
    double part = 1.0;  // of the standard deviation, of each state
  };
  struct Wave {
    std::size_t parameter;
    double amplitude, frequency, turns;
  };
  const chain::Chain& chain_;
  const chain::Chain& firmware_;
  VirtualUnit unit_;
  Settings settings_;
  int every_;  // conversions of a sample
  Course course_;
  math::RandomStream stream_;
  chain::DigitalState digital_;
  std::vector<Noise> noise_{};
  std::vector<Wave> waves_{};
  std::vector<double> moved_{};
  std::int64_t conversions_ = 0;  // below 0 while average and filter fill
  std::uint64_t shown_ = 0;
  std::optional<double> followed_{};
  std::vector<double> passed_{};  // behind each low-pass

  double of_period(double time) const;
  double input(double time);
  double found();
  void fill();
};

/// Samples a second that a sampler with these settings shows.
double shown_rate(const chain::Chain& chain, const Sampler::Settings& settings);

}  // namespace simulate
}  // namespace tamlo
