// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <vector>

#include "tamlo/chain/signal.hpp"
#include "tamlo/export.hpp"

namespace tamlo::math {
class Stream;
}  // namespace tamlo::math

/// One reading as it really comes about: noise, the quantiser and both its ends, the register
/// format, average and filter, the firmware's integers, correction and decimals (docs/method.md,
/// "One reading"). read() of chain.hpp is its smooth limit, without steps and without ends.
namespace tamlo {
namespace chain TAMLO_API {

struct Chain;
struct Source;

/// Mean and variance of what is reported for an unquantised code with normal noise of standard
/// deviation `sigma` codes: a sum over the codes in reach, clipped at both ends.
struct ReportedMoments {
  double mean = 0.0, variance = 0.0;
};
ReportedMoments reported_moments(const Chain& chain, double unquantised, double sigma);

/// How many codes the unit that a channel's correction was made for is off the nominal one at `x`:
/// with them its corrected reading is `x`. 0 of a channel without a correction.
double correction_in_codes(const Chain& chain, double x);

/// A value, and how often it comes up.
struct Outcome {
  double value = 0.0, probability = 0.0;
};

/// True for a source that stands for what a DiscreteReading does itself.
bool by_codes(const Chain& chain, const Source& source);

/// Readings of a chain of which the codes are few enough to be counted.
class DiscreteReading {
 public:
  /// Of the channel at `x`, for units whose codes lie within `reach` of the nominal one (others are
  /// right too, and slower). Keeps a reference to the chain.
  DiscreteReading(const Chain& chain, double x, double reach = 0.0);
  DiscreteReading(Chain&& gone, double x, double reach = 0.0) = delete;

  /// A reading of the unit with these parameters, before the tare. Those of noise, quantisation and
  /// firmware rounding stay at their nominals (by_codes): what they stand for is done here. Of a
  /// corrected channel it is the unit that the correction was made for, moved by the parameters.
  double draw(Parameters p, math::Stream& noise) const;

  /// Conversions that one draw() steps through; 1 where it has no need to.
  double conversions() const;

  /// The mean of such readings over the noise.
  double expected(Parameters p) const;

  /// The register values behind average and filter that come up for a steady unquantised code.
  /// Exact for single conversions and for means of up to 256 whose noise is independent; else
  /// normal about the exact mean. What is rarer than 1e-20 is left out.
  std::vector<Outcome> outcomes(double unquantised) const;

 private:
  static constexpr int phases = 16;  // of the sine

  template <class Moments>
  ReportedMoments over_phases(double unquantised, Moments moments) const;
  double code_of(Parameters p) const;
  double wave(int phase) const;
  double converted_one_by_one(double unquantised, math::Stream& noise) const;
  ReportedMoments behind_filter(double unquantised) const;
  double in_bins(double value) const;

  const Chain& chain_;
  double x_, shift_;
  double per_code_ = 1.0;  // of the quantity; of a corrected channel only
  // In codes: the noise of one conversion and the sine that gets in, as standard deviation and
  // amplitude; what of both is left behind average and filter, as a standard deviation.
  double noise_ = 0.0, sine_ = 0.0, left_ = 0.0;
  bool single_ = true;       // a reading is one conversion, or a median
  bool one_by_one_ = false;  // a median among other stages: conversion by conversion
  double each_noise_ = 0.0;  // of one conversion, before any median
  double bin_width_ = 0.0;   // an average of so many codes is a multiple of this; 0: of nothing
  // What is reported on average over a grid of unquantised codes.
  struct Grid {
    double first = 0.0, per_code = 1.0;
    std::vector<ReportedMoments> moments{};
    bool holds(double unquantised) const;
    ReportedMoments at(double unquantised) const;
  };
  Grid grid_{};
};

}  // namespace chain
}  // namespace tamlo
