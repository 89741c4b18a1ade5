// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <variant>

#include "tamlo/chain/frontend_laws.hpp"
#include "tamlo/chain/sampling.hpp"
#include "tamlo/chain/sensor_laws.hpp"
#include "tamlo/chain/signal.hpp"

/// What each part of a chain does to the signal that passes through it, given the parameters of the
/// whole chain. A law knows its parameters by their index, so that one part that acts in two places
/// is one parameter.
namespace tamlo::chain {

using Law = std::variant<LinearSensorLaw, StraightSensorLaw, BetaLaw, ThreeCoefficientLaw,
                         PlatinumLaw, BridgeLaw, LoopLaw, PositionLaw, LightLaw, CurveLaw,
                         DividerLaw, SensorDividerLaw, ExcitationLaw, ShuntLaw, AmplifierLaw,
                         LowpassLaw, SelfHeatedLaw, LeakageLaw, SamplingLaw, AddedLaw>;

/// What comes out of the part for `in`.
Signal forward(const Law& law, const Signal& in, Parameters p);
/// What must have gone in for the value `out`.
double inverse(const Law& law, double out, Parameters p);

/// Volts at the pin to a code of unlimited resolution, counted from 0 at the low end of the range:
/// code k stands for k - 1/2 to k + 1/2.
struct ConverterLaw {
  std::size_t attenuation{};         ///< ratio inside the converter
  std::size_t reference{};           ///< V
  std::size_t negative_reference{};  ///< V; only with has_negative
  bool has_negative = false;
  double low_factor = 0.0;     ///< low end of the range in units of the reference
  double high_factor = 1.0;    ///< high end
  std::size_t offset{};        ///< LSB
  std::size_t gain{};          ///< LSB at full scale, in proportion to the distance from 0 V
  std::size_t inl{};           ///< LSB
  std::size_t dnl{};           ///< LSB
  std::size_t noise{};         ///< LSB
  std::size_t quantisation{};  ///< LSB
  double codes{};              ///< 2^N
  double shift{};              ///< -1/2 for a converter that truncates, else 0
};

/// The ends of the converter's range at the pin, V.
struct Ends {
  double low, high;
};
Ends ends(const ConverterLaw& law, Parameters p);

double forward(const ConverterLaw& law, double volts, Parameters p);
double inverse(const ConverterLaw& law, double code, Parameters p);

}  // namespace tamlo::chain
