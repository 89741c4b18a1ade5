// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <span>
#include <variant>

/// What each part of a chain does to the value that passes through it, given the parameters of the
/// whole chain. A law knows its parameters by their index, so that one part that acts in two places
/// is one parameter.
namespace tamlo::chain {

using Parameters = std::span<const double>;

/// Runs straight from the voltage at `low` to the voltage at `high`.
struct LinearSensorLaw {
  std::size_t at_low, at_high;
  double low, high;  ///< the span of the quantity
};

struct DividerLaw {
  std::size_t top, bottom;
};

using Law = std::variant<LinearSensorLaw, DividerLaw>;

/// What comes out of the part for `in`.
double forward(const Law& law, double in, Parameters p);
/// What must have gone in for `out`.
double inverse(const Law& law, double out, Parameters p);

/// Volts at the pin to a code of unlimited resolution: code k stands for k - 1/2 to k + 1/2.
struct ConverterLaw {
  std::size_t reference{};     ///< V
  std::size_t offset{};        ///< LSB
  std::size_t gain{};          ///< LSB at full scale, in proportion to the code
  std::size_t inl, dnl;        ///< LSB
  std::size_t noise{};         ///< LSB
  std::size_t quantisation{};  ///< LSB
  double codes{};              ///< 2^N
  double shift{};              ///< -1/2 for a converter that truncates, else 0
};

double forward(const ConverterLaw& law, double volts, Parameters p);
double inverse(const ConverterLaw& law, double code, Parameters p);

}  // namespace tamlo::chain
