// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/model/converter.hpp"
#include "tamlo/model/scaling.hpp"
#include "tamlo/record/detail/record_figures.hpp"
#include "tamlo/signal/code_density.hpp"
#include "tamlo/signal/step.hpp"

/// A record of a channel, held against its description.
namespace tamlo {
namespace record TAMLO_API {

/// Input of the channel during a record.
struct Feed {
  Input input = Input::steady;
  /// The ends of a ramp or of a sine, where they are known: offset and gain can then be estimated.
  std::optional<double> low{}, high{};
  std::optional<double> step_at{};  ///< sample at which a step came
  double wanted = 0.1;              ///< LSB, standard uncertainty of INL that is asked for
};

/// signal::Linearity held against the description. LSB.
struct LinearityAssessment {
  signal::Linearity linearity{};
  std::optional<double> dnl_limit{}, inl_limit{};  ///< of the description
  bool dnl_beyond = false, inl_beyond = false;     ///< by more than their expanded uncertainty
  /// Nothing is beyond its limit, and the expanded uncertainty is larger than one: so few samples
  /// would not show it.
  bool undecided = false;
  std::optional<double> offset{}, gain{};  ///< what the codes are off at the first transition, and
                                           ///< what they gain from there to the last
  std::optional<double> offset_expected{}, gain_expected{};  ///< expanded uncertainty of the unit
  /// Codes that come before a lower one on a ramp up, or after it on a ramp down; none of a sine,
  /// or of ramps that repeat.
  std::optional<std::vector<std::int64_t>> non_monotonic_codes{};
  std::uint64_t needed = 0;  ///< samples for the uncertainty of INL that is asked for
};

/// A record, held against what its channel should show.
struct Verdict {
  std::string channel{};
  bool alone = false;  ///< the samples alone, by describe(): nothing was predicted
  Shows shows = Shows::codes;
  Feed feed{};
  std::uint64_t samples = 0;
  double rate = 0.0;  ///< Hz of the samples; 0: not known
  double at = 0.0;    ///< the quantity in the mean
  Prediction predicted{};
  std::optional<Steady> steady{};
  std::optional<LinearityAssessment> linearity_assessment{};  ///< of ramps and sines of codes
  std::optional<Wave> wave{};
  std::optional<signal::StepFigures> step{}, step_predicted{};
  std::vector<double> step_answer{};  ///< the step that was predicted, sample by sample
  bool meets_prediction() const;  ///< nothing is significantly worse than the description has it
};

/// Returns whether a captured record is as good as its description says: noise, tones, corner and
/// drift of a steady input, linearity of a ramp or sine, the step answer of a step. `rate` is in
/// Hz, 0 where it is not known. A figure is called worse where it is so at 95 %. Throws DataError,
/// with the reason, for a record that cannot be judged so.
Verdict judge(const chain::Chain& chain, Shows shows, const Feed& feed,
              const signal::Capture& capture, double rate, double coverage = 0.95);

/// Returns what samples alone say, without a board: noise, tones, corner, drift and stability of a
/// steady input, the fit and the spectrum of a sine, the figures of a step. `bits` of whole numbers
/// give effective bits of their full range. Throws DataError for a record that shows none of it,
/// and for a ramp, whose code density needs the codes of a converter.
Verdict describe(const std::string& name, Shows shows, const Feed& feed,
                 const signal::Capture& capture, double rate, std::optional<int> bits = {},
                 double coverage = 0.95);

/// Measured figures that replace limits of the description.
struct Measured {
  /// LSB: noise of the converter with which the channel's noise is that of the record, and its
  /// interval.
  struct Noise {
    double value = 0.0, low = 0.0, high = 0.0;
  };
  std::optional<Noise> noise{};
  std::vector<model::InlPoint> inl{};  ///< at most 1025 codes, with the first and the last
  double inl_uncertainty = 0.0;        ///< LSB, standard, the largest
  double dnl = 0.0;                    ///< LSB, the largest size; with `inl` only
  /// Offset and gain, where the ends of the input are known; those are taken as exact.
  std::optional<model::Correction> correction{};
  std::string reason{};  ///< why there is nothing at all; else empty
};

Measured measured(const chain::Chain& chain, const Verdict& verdict);

}  // namespace record
}  // namespace tamlo
