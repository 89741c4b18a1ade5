// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "field.hpp"
#include "tamlo/result/results.hpp"

// The fields of record.
namespace tamlo::result {

constexpr Measure sample_time{Scale::sample_time};
constexpr Measure sample_frequency{Scale::sample_frequency};
constexpr Measure sample_slope{Scale::sample_slope};

template <>
struct Fields<signal::Tone> {
  using T = signal::Tone;
  static constexpr auto list = std::make_tuple(
      field("frequency", &T::frequency, sample_frequency, ""),
      field(
          "amplitude", [](const T& t) { return std::sqrt(2.0 * t.power); }, sample_difference, ""),
      field("order", &T::order, "of a harmonic; 1 is the wave itself"));
};

template <>
struct Fields<signal::Trend> {
  using T = signal::Trend;
  static constexpr auto list =
      std::make_tuple(field("slope", &T::slope, sample_slope, ""),
                      field("standard_uncertainty", &T::standard_uncertainty, sample_slope, ""),
                      field("moves", &T::moves, "beyond what 99 % of steady records show"));
};

template <>
struct Fields<signal::Deviation> {
  using T = signal::Deviation;
  static constexpr auto list = std::make_tuple(
      field("averaged", &T::averaged, "samples"),
      field("deviation", &T::deviation, sample_difference, "overlapping Allan deviation"),
      field("low", &T::low, sample_difference, "of its confidence interval"),
      field("high", &T::high, sample_difference, "of the same"),
      field("kind", &T::kind, "of the noise there"),
      field("stride", &T::stride, "samples from one average to the next; 1 is full overlap"));
};

template <>
struct Fields<record::Steady> {
  using T = record::Steady;
  static constexpr auto list = std::make_tuple(
      field("mean", &T::mean, sample, ""),
      field("deviation", &T::deviation, sample_difference, "standard deviation of all"),
      field("noise", &T::noise, sample_difference, "the same without the tones"),
      field("low", &T::low, sample_difference, "of the confidence interval of the noise"),
      field("high", &T::high, sample_difference, "of the same"),
      field("predicted", &T::predicted, sample_difference, "noise, by the board"),
      field("differs", &T::differs, "1: more than predicted, -1: less, 0: as predicted"),
      field("min", &T::min, sample, ""), field("max", &T::max, sample, ""),
      field("effective_bits", &T::effective_bits, in("bit"), ""),
      field("noise_free_bits", &T::noise_free_bits, in("bit"), "6.6 standard deviations"),
      field("missing", &T::missing,
            "codes that never occur, though enough samples fall about them"),
      field("skewness", &T::skewness, ""), field("kurtosis", &T::kurtosis, ""),
      field("normal", &T::normal, "such as normal noise with these steps shows"),
      field("lag_correlation", &T::lag_correlation, "of neighbours"),
      field("tones", &T::tones, "the largest first"),
      field("tones_predicted", &T::tones_predicted, sample_difference, "amplitudes; 0: none"),
      field(
          "corner", [](const T& t) { return t.floor.corner; }, sample_frequency, "of 1/f noise"),
      field(
          "corner_standard", [](const T& t) { return t.floor.corner_standard; }, sample_frequency,
          "standard uncertainty"),
      field("trend", &T::trend, ""),
      field(
          "stability", [](const T& t) { return t.stability.deviations; }, ""),
      field(
          "best_average", [](const T& t) { return t.stability.best; },
          "samples after which averaging stops helping"),
      field(
          "lowest_deviation", [](const T& t) { return t.stability.lowest; }, sample_difference,
          "there"));
};

template <>
struct Fields<record::LinearityAssessment> {
  using T = record::LinearityAssessment;
  static double largest(const std::vector<double>& of) {
    return of.empty() ? 0.0 : *std::ranges::max_element(of);
  }
  static constexpr Measure lsb = in("LSB");
  static constexpr auto list = std::make_tuple(
      field(
          "first", [](const T& t) { return t.linearity.first; }, "code of the first DNL"),
      field(
          "largest_dnl", [](const T& t) { return t.linearity.largest_dnl(); }, lsb, "signed"),
      field(
          "largest_inl_end_point", [](const T& t) { return t.linearity.largest_inl_end_point(); },
          lsb, "signed"),
      field(
          "largest_inl_best_fit", [](const T& t) { return t.linearity.largest_inl_best_fit(); },
          lsb, "signed"),
      field(
          "largest_dnl_standard", [](const T& t) { return largest(t.linearity.dnl_standard); }, lsb,
          "standard uncertainty of a DNL, the largest"),
      field(
          "largest_inl_standard", [](const T& t) { return largest(t.linearity.inl_standard); }, lsb,
          "standard uncertainty of an INL, the largest"),
      field("dnl_limit", &T::dnl_limit, lsb, "of the board"),
      field("inl_limit", &T::inl_limit, lsb, "of the board"),
      field("dnl_beyond", &T::dnl_beyond, "by more than its expanded uncertainty"),
      field("inl_beyond", &T::inl_beyond, "by more than its expanded uncertainty"),
      field("undecided", &T::undecided, "too few samples to find either beyond its limit"),
      field("offset", &T::offset, lsb, "at the first transition"),
      field("gain", &T::gain, lsb, "from there to the last"),
      field("offset_expected", &T::offset_expected, lsb, "expanded uncertainty of the unit"),
      field("gain_expected", &T::gain_expected, lsb, "expanded uncertainty of the unit"),
      field("non_monotonic_codes", &T::non_monotonic_codes, "none where they cannot be seen"),
      field("needed", &T::needed, "samples for the uncertainty of INL that was asked for"),
      field(
          "missing", [](const T& t) { return t.linearity.missing; },
          "codes that never occur, and would if they were as wide as others"),
      field(
          "unseen", [](const T& t) { return t.linearity.unseen; },
          "codes that do not occur, as may be by chance"),
      field(
          "dnl", [](const T& t) { return t.linearity.dnl; }, lsb, "of each code"),
      field(
          "dnl_standard", [](const T& t) { return t.linearity.dnl_standard; }, lsb,
          "standard uncertainty"),
      field(
          "inl_end_point", [](const T& t) { return t.linearity.inl_end_point; }, lsb,
          "of the transition above each code"),
      field(
          "inl_best_fit", [](const T& t) { return t.linearity.inl_best_fit; }, lsb,
          "of the transition above each code"),
      field(
          "inl_standard", [](const T& t) { return t.linearity.inl_standard; }, lsb,
          "standard uncertainty"));
};

/// A harmonic, and how far it lies below the wave.
struct Harmonic {
  signal::Tone tone;
  double level;
};
template <>
struct Fields<Harmonic> {
  using T = Harmonic;
  static constexpr auto list = std::make_tuple(
      field(
          "order", [](const T& t) { return t.tone.order; }, ""),
      field(
          "frequency", [](const T& t) { return t.tone.frequency; }, sample_frequency, ""),
      field(
          "amplitude", [](const T& t) { return std::sqrt(2.0 * t.tone.power); }, sample_difference,
          ""),
      field("level", &T::level, unbounded_in("dB"), "to the wave"));
};

template <>
struct Fields<record::Wave> {
  using T = record::Wave;
  static std::vector<Harmonic> harmonics(const signal::SineFigures& of) {
    std::vector<Harmonic> result;
    for (const auto& tone : of.harmonics) {
      result.push_back({tone, 10.0 * std::log10(tone.power / of.fundamental.power)});
    }
    return result;
  }
  static constexpr Measure decibels = unbounded_in("dB");
  static constexpr auto list = std::make_tuple(
      field(
          "frequency", [](const T& t) { return t.fit.frequency; }, sample_frequency, ""),
      field(
          "frequency_standard", [](const T& t) { return t.fit.frequency_standard; },
          sample_frequency, "standard uncertainty"),
      field(
          "amplitude", [](const T& t) { return t.fit.amplitude; }, sample_difference, ""),
      field(
          "amplitude_standard", [](const T& t) { return t.fit.amplitude_standard; },
          sample_difference, "standard uncertainty"),
      field(
          "offset", [](const T& t) { return t.fit.offset; }, sample, ""),
      field(
          "offset_standard", [](const T& t) { return t.fit.offset_standard; }, sample_difference,
          "standard uncertainty"),
      field(
          "phase", [](const T& t) { return t.fit.phase; }, in("rad"), "at the first sample"),
      field(
          "phase_standard", [](const T& t) { return t.fit.phase_standard; }, in("rad"),
          "standard uncertainty"),
      field(
          "residual", [](const T& t) { return t.fit.residual; }, sample_difference,
          "rms after the sine fit"),
      field("low", &T::low, sample_difference, "of the confidence interval of it"),
      field("high", &T::high, sample_difference, "of the same"),
      field("predicted", &T::predicted, sample_difference, "by the board"),
      field("worse", &T::worse, "than predicted"),
      field("full_scale", &T::full_scale, "amplitude over half the range; 0 of readings"),
      field(
          "sinad", [](const T& t) { return t.fit.sinad(); }, decibels, ""),
      field("enob", &T::enob, unbounded_in("bit"), "of an amplitude that fills the range"),
      field(
          "snr", [](const T& t) { return t.figures.snr; }, decibels, ""),
      field(
          "thd", [](const T& t) { return t.figures.thd; }, decibels, ""),
      field(
          "sfdr", [](const T& t) { return t.figures.sfdr; }, decibels, ""),
      field(
          "harmonics", [](const T& t) { return harmonics(t.figures); }, ""),
      field(
          "noise_floor", [](const T& t) { return std::sqrt(t.figures.noise_floor); },
          sample_difference, "rms of one bin without lines"),
      field(
          "window", [](const T& t) { return t.spectrum.window; }, ""),
      field(
          "segment", [](const T& t) { return t.spectrum.segment; }, "samples"),
      field(
          "segments", [](const T& t) { return t.spectrum.segments; }, "averaged"),
      field("coherent", &T::coherent, ""),
      field("nearest", &T::nearest, sample_frequency, "coherent frequency"));
};

template <>
struct Fields<signal::StepFigures::Settling> {
  using T = signal::StepFigures::Settling;
  static constexpr auto list =
      std::make_tuple(field("band", &T::band, "part of the height"),
                      field("time", &T::time, sample_time, "for good; none: cannot be estimated"));
};

template <>
struct Fields<signal::StepFigures> {
  using T = signal::StepFigures;
  static constexpr auto list = std::make_tuple(
      field("before", &T::before, sample, "level"), field("after", &T::after, sample, "level"),
      field("noise", &T::noise, sample_difference, "before the step"),
      field("step_at", &T::step_at, in("samples"), "from which all times count"),
      field("delay", &T::delay, sample_time, "to half the height"),
      field("rise", &T::rise, sample_time, "from 10 % to 90 % of the height"),
      field("overshoot", &T::overshoot, "part of the height; 0 where noise hides it"),
      field("settling", &T::settling, ""));
};

/// What the board makes of a step of height one.
struct PredictedStep : signal::StepFigures {};
template <>
struct Fields<PredictedStep> {
  using T = PredictedStep;
  static constexpr auto list = std::make_tuple(
      field("delay", &T::delay, sample_time, "to half the height"),
      field("rise", &T::rise, sample_time, "from 10 % to 90 % of the height"),
      field("overshoot", &T::overshoot, "part of the height"), field("settling", &T::settling, ""));
};

template <>
struct Fields<record::SampleTimes> {
  using T = record::SampleTimes;
  static constexpr auto list = std::make_tuple(
      field("period", &T::period, in("s"), ""), field("jitter", &T::jitter, in("s"), "rms"),
      field("gaps", &T::gaps, "steps of more than one and a half periods"),
      field("longest", &T::longest, in("s"), "of the gaps"),
      field("backwards", &T::backwards, "steps that do not lead on"),
      field("first_odd", &T::first_odd, "sample behind the first of either; 0: none"));
};

template <>
struct Fields<ChannelRecord> {
  using T = ChannelRecord;
  static Units units(const T& t) {
    const bool codes = t.verdict.shows == record::Shows::codes;
    return {
        .quantity = t.unit, .sample = codes ? quantity::Unit{} : t.unit, .rate = t.verdict.rate};
  }
  static std::optional<PredictedStep> predicted_step(const record::Verdict& of) {
    return of.step_predicted ? std::optional(PredictedStep{*of.step_predicted}) : std::nullopt;
  }
  static constexpr auto list = std::make_tuple(
      field(
          "channel", [](const T& t) { return t.verdict.channel; }, ""),
      field("unit", &T::unit, "of the quantity"),
      field(
          "data", [](const T& t) { return t.verdict.shows; }, "what the samples are"),
      field(
          "input", [](const T& t) { return t.verdict.feed.input; }, ""),
      field(
          "samples", [](const T& t) { return t.verdict.samples; }, ""),
      field(
          "rate",
          [](const T& t) {
            return t.verdict.rate > 0.0 ? std::optional(t.verdict.rate) : std::nullopt;
          },
          in("Sa/s"), ""),
      field(
          "duration", [](const T& t) { return static_cast<double>(t.verdict.samples); },
          sample_time, ""),
      field("damage", &T::damage, "where and why the file ended early; empty: sound"),
      field(
          "at", [](const T& t) { return t.verdict.at; }, quantity_value, "the mean"),
      field(
          "meets_prediction", [](const T& t) { return t.verdict.meets_prediction(); },
          "nothing is significantly worse than predicted"),
      field("times", &T::times, "of the samples, where the file has them"),
      field(
          "steady", [](const T& t) { return t.verdict.steady; }, "of a steady input"),
      field(
          "linearity_assessment", [](const T& t) { return t.verdict.linearity_assessment; },
          "of a ramp or sine of codes"),
      field(
          "wave", [](const T& t) { return t.verdict.wave; }, "of a sine"),
      field(
          "step", [](const T& t) { return t.verdict.step; }, ""),
      field(
          "step_predicted", [](const T& t) { return predicted_step(t.verdict); },
          "of a step of height one"));
};

template <>
struct Fields<Records> {
  static constexpr auto list = std::make_tuple(field("channels", &Records::channels, ""));
};

}  // namespace tamlo::result
