// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

#include "tamlo/chain/detail/digital.hpp"
#include "tamlo/chain/detail/signal.hpp"
#include "tamlo/export.hpp"

namespace tamlo {
namespace chain TAMLO_API {

struct Chain;

/// Draws readings as they happen: a phase for each source of interference, then every conversion
/// that enters the reading at its own moment, each with noise of its own, rounded to a code and
/// clipped; then the register format, average and filter, the firmware's integers, correction and
/// decimals (docs/method.md, "One reading"). read() of chain.hpp is its smooth limit.
///
/// Noise of one conversion is white, or follows the low-pass that it passes, or is one value for
/// the whole reading as far as 1/f noise does not average away. Sources that are small beside the
/// span are taken as linear about the nominal unit at the place.
///
/// Conversions are weighed as average and filter weigh them; a median needs the state of the
/// filters, one conversion after the other. A shortcut, the mean of the conversions with a normal
/// spread, is taken for single units only where
///
///  - the noise of a conversion is 0.5 codes or more, so that rounding moves no mean by more than
///    0.003 codes, and all that moves a conversion stays off both ends of the codes, six standard
///    deviations of noise included; or
///  - a reading is worth 50 independent conversions or more and nothing but noise gets in: then its
///    mean and variance are those of the clipped codes, summed over the codes in reach, and their
///    sum is as good as normal, within both ends.
class ReadingSampler {
 public:
  /// Prepares readings of the quantity `x`, SI; keeps a reference to the chain.
  ReadingSampler(const Chain& chain, double x);
  ReadingSampler(Chain&& temporary, double x) = delete;

  /// Returns the unquantised code of a unit with these parameters at the place, noise left out. Of
  /// a corrected channel it is the code of the unit that was calibrated, moved by the parameters.
  double code(Parameters p) const;
  /// Puts these codes of a block of units into `codes`: rows[i][t] is parameter i of unit t; at
  /// most 1024 units.
  void codes(const double* const* rows, std::span<double> codes) const;

  /// Draws one reading for each of the unquantised `codes`, before a tare, SI. `first` is the
  /// number of the first unit, a multiple of 1024, of which there are at most 1024; readings depend
  /// on seed and number alone.
  void draw(std::span<const double> codes, std::uint64_t seed, std::uint64_t first,
            std::span<double> readings) const;
  /// Draws the values that the firmware scales: register values after average and filter.
  void draw_reported(std::span<const double> codes, std::uint64_t seed, std::uint64_t first,
                     std::span<double> reported) const;

  /// Conversions that one reading steps through; 1 where the shortcut holds for most units.
  double conversions() const;
  /// The time of one draw, in that of a conversion that is only weighed.
  double effort() const { return conversions() * effort_of_conversion_; }
  /// Effort of a conversion that steps through a few short filters.
  static constexpr double effort_of_a_step = 12.0;
  /// Width of a code in the unit of the quantity, nominal, with the sign of its slope.
  double per_code() const { return per_code_; }
  /// Sum of the amplitudes of what gets in, at one conversion, in codes.
  double interference() const { return amplitudes_; }

 private:
  struct Sine {
    double amplitude = 0.0;                // codes
    double left = 0.0;                     // the part of it behind average and filter
    std::vector<double> cosine{}, sine{};  // of its angle at each conversion
  };
  // Numbers of a block of units: those of each conversion, and those of the whole reading.
  struct Draws {
    std::uint64_t seed = 0, first = 0;
    std::vector<std::vector<double>> turns{};  // of each sine, in parts of one
    std::vector<double> still{};               // in its standard deviation
  };
  Draws draws(std::size_t units, std::uint64_t seed, std::uint64_t first) const;

  void prepare_filter();
  void prepare_noise();
  void prepare_sines();
  bool clear_of_ends(double code) const;
  bool normal_holds(double code) const;
  void round_to_values(std::span<double> unquantised) const;
  template <class Sink>
  void convert(std::span<const double> codes, const Draws& draws, const Sink& sink) const;
  void weigh(std::span<const double> codes, const Draws& draws, std::span<double> reported) const;
  void step(std::span<const double> codes, const Draws& draws, std::span<double> reported) const;
  void shorten(std::span<const double> codes, const Draws& draws, std::span<double> reported) const;

  const Chain& chain_;
  double x_, shift_ = 0.0;
  double per_code_ = 1.0, read_per_code_ = 1.0;  // of the quantity, and of the reading
  double first_ = 0.0, last_ = 0.0;              // codes
  double effort_of_conversion_ = 1.0;
  bool stepwise_ = false;  // through the state of the filters
  bool rated_ = false;     // the board says when conversions come
  // Standard deviations in codes: of what is new at each conversion, of what follows a low-pass
  // (a part `keeps_` of it goes over to the next), and of what stays for the whole reading.
  double white_ = 0.0, slow_ = 0.0, keeps_ = 0.0, still_ = 0.0;
  double noise_ = 0.0, left_ = 0.0, amplitudes_ = 0.0, reach_ = 0.0;
  bool many_ = false;  // independent conversions in a reading
  std::vector<Sine> sines_{};
  std::vector<double> weights_{};  // whole numbers where all are multiples of the least, else parts
  double sum_of_weights_ = 1.0;
  bool whole_weights_ = true;
  // Of a reading that is stepped through: the block average in front, and what follows it.
  std::size_t lead_ = 1;
  Digital rest_{};
};

}  // namespace chain
}  // namespace tamlo
