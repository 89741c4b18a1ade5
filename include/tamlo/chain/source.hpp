// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <variant>

#include "tamlo/export.hpp"
#include "tamlo/math/interval.hpp"
#include "tamlo/quantity/value.hpp"

namespace tamlo::model {
struct Conditions;
}  // namespace tamlo::model

namespace tamlo {
namespace chain TAMLO_API {

/// Kinds of a source: what an adjustment takes away of it, and what averaging does to it.
struct Tolerance {};     ///< fixed from the day the board is made
struct Temperature {};   ///< moves with the temperature
struct Ageing {};        ///< moves with the years
struct Nonlinearity {};  ///< differs from code to code: INL, DNL
/// New at every conversion.
struct Noise {
  double filter_gain = 1.0;  ///< part of the standard deviation that average and filter let through
  double corner = 0.0;       ///< Hz, of noise that rises as 1/f below it: none of it averages away
  /// Ratio of that noise: the highest frequency that passes over the lowest observed.
  double band_ratio = 1.0;
  double correlated_over = 0.0;  ///< s, of noise before a low-pass: its time constant
};
/// A sine that gets in, at a phase of its own in every reading.
struct InterferenceEffect {
  double frequency = 0.0;  ///< Hz; of those that it may have, the one that is rejected least
  double limit = 0.0;      ///< Hz, what the frequency that the board gives may be off
  double filter_gain = 1.0;
};
struct Quantisation {};  ///< the converter's steps, after averaging

using Nature = std::variant<Tolerance, Temperature, Ageing, Nonlinearity, Noise, InterferenceEffect,
                            Quantisation>;

/// Lists the kinds without their figures, in the same order.
enum class Kind : std::uint8_t {
  tolerance,
  temperature,
  ageing,
  nonlinearity,
  noise,
  interference,
  quantisation,
};

std::string_view name(Kind kind);
inline Kind kind_of(const Nature& nature) { return static_cast<Kind>(nature.index()); }

/// True for what is new at every reading, so that neither a zero nor a two-point adjustment takes
/// it away and repeats show it.
bool random(Kind kind);

/// True for what one reading does not share with another at a different place, so that a tare does
/// not take it away: what is random, and the shape of the converter's line.
bool own_of_place(Kind kind);

/// One reason for which a parameter of the chain may differ from its nominal. Sources are taken as
/// independent of one another.
struct Source {
  std::string name{};           ///< unique in the chain: "divider top tolerance"
  std::string stage{};          ///< where in the chain it acts, for people
  std::string specification{};  ///< the limit as the board file gives it
  std::size_t parameter{};      ///< which parameter it moves
  Nature nature{};
  quantity::Distribution distribution{};
  double limit{};  ///< half-width, in the parameter's unit, under the board's conditions
  double standard_uncertainty{};  ///< same unit
  /// The stage of the signal path that it acts in; none for a reference, the pin and all behind it.
  std::optional<std::size_t> in_stage{};
  /// It is of a reference or of the converter itself: all channels on it have the same deviation.
  bool shared = false;

  /// Returns the kind of the source: from unit to unit, or from reading to reading.
  Kind kind() const { return kind_of(nature); }
  /// Returns the noise of the source, or nullptr where it is none.
  const Noise* noise() const { return std::get_if<Noise>(&nature); }
  /// Returns the interference of the source, or nullptr where it is none.
  const InterferenceEffect* interference() const {
    return std::get_if<InterferenceEffect>(&nature);
  }
  /// Part of its standard deviation that average and filter let through; 1 of what is not random.
  double filter_gain() const {
    if (const auto* own_noise = noise()) return own_noise->filter_gain;
    return interference() != nullptr ? interference()->filter_gain : 1.0;
  }
};

/// Two sources that go together; a source is in one pair at most.
using math::Correlation;

/// Size of one unit of each basis, in the unit of a parameter.
struct Scale {
  double absolute = 1.0;
  double relative = 1.0;
  double code = 1.0;
  double span = 1.0;
};

/// The half-width that `limit` allows, in the parameter's unit: drift per kelvin times the largest
/// distance of the temperature range from where the limits hold, drift per time times the age.
double half_width(const quantity::Limit& limit, const Scale& scale,
                  const model::Conditions& conditions);

/// Returns the half-widths of all limits of a value together, in its unit; relative ones are parts
/// of its nominal.
double limit_of(const quantity::Value& value, const model::Conditions& conditions);

/// By what the limit drifts with.
Nature nature_of(const quantity::Limit& limit);

}  // namespace chain
}  // namespace tamlo
