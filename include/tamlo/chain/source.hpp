// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <string>
#include <string_view>

#include "tamlo/quantity/limit.hpp"

namespace tamlo::model {
struct Conditions;
}  // namespace tamlo::model

namespace tamlo::chain {

/// How a source behaves: what an adjustment takes away, and what averaging does to it.
enum class Kind : std::uint8_t {
  tolerance,     ///< fixed from the day the board is made
  temperature,   ///< moves with the temperature
  ageing,        ///< moves with the years
  nonlinearity,  ///< differs from code to code: INL, DNL
  noise,         ///< new at every conversion
  interference,  ///< a sine that gets in, at a phase of its own in every reading
  quantisation,  ///< the converter's steps, after averaging
};

std::string_view name(Kind kind);

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
  std::string stage{};          ///< where in the chain it acts
  std::string specification{};  ///< the limit as the board file gives it
  std::size_t parameter{};      ///< which parameter it moves
  Kind kind{};
  quantity::Distribution distribution{};
  double limit{};  ///< half-width, in the parameter's unit, under the board's conditions
  double standard_uncertainty{};  ///< standard uncertainty, same unit
  double filter_gain = 1.0;  ///< part of the standard deviation that average and filter let through
  double frequency = 0.0;    ///< Hz, of interference
  double corner = 0.0;       ///< Hz, of noise that rises as 1/f below it: none of it averages away
  double band_ratio =
      1.0;  ///< of that noise: the highest frequency that passes over the lowest seen
  double correlated_over = 0.0;  ///< s, of noise before a low-pass: its time constant
};

/// Two sources that go together; a source is in one pair at most.
struct Correlation {
  std::size_t first = 0, second = 0;
  double coefficient = 0.0;
};

/// What one unit of each basis is worth in the unit of a parameter.
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

Kind kind_of(const quantity::Limit& limit);

}  // namespace tamlo::chain
