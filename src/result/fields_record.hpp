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
struct Fields<signal::Tone> : FieldsOf<signal::Tone> {
  static constexpr Field list[] = {
      field("frequency", TAMLO_GET(t.frequency), sample_frequency, ""),
      field("amplitude", TAMLO_GET(std::sqrt(2.0 * t.power)), sample_difference, ""),
      field("order", TAMLO_GET(t.order), "of a harmonic; 1 is the wave itself")};
};

template <>
struct Fields<signal::Trend> : FieldsOf<signal::Trend> {
  static constexpr Field list[] = {
      field("slope", TAMLO_GET(t.slope), sample_slope, ""),
      field("standard_uncertainty", TAMLO_GET(t.standard_uncertainty), sample_slope, ""),
      field("moves", TAMLO_GET(t.moves), "beyond what 99 % of steady records show")};
};

template <>
struct Fields<signal::Deviation> : FieldsOf<signal::Deviation> {
  static constexpr Field list[] = {
      field("averaged", TAMLO_GET(t.averaged), "samples"),
      field("deviation", TAMLO_GET(t.deviation), sample_difference, "overlapping Allan deviation"),
      field("low", TAMLO_GET(t.low), sample_difference, "of its confidence interval"),
      field("high", TAMLO_GET(t.high), sample_difference, "of the same"),
      field("kind", TAMLO_GET(t.kind), "of the noise there"),
      field("stride", TAMLO_GET(t.stride),
            "samples from one average to the next; 1 is full overlap")};
};

template <>
struct Fields<record::Steady> : FieldsOf<record::Steady> {
  static constexpr Field list[] = {
      field("mean", TAMLO_GET(t.mean), sample, ""),
      field("deviation", TAMLO_GET(t.deviation), sample_difference, "standard deviation of all"),
      field("noise", TAMLO_GET(t.noise), sample_difference, "the same without the tones"),
      field("low", TAMLO_GET(t.low), sample_difference, "of the confidence interval of the noise"),
      field("high", TAMLO_GET(t.high), sample_difference, "of the same"),
      field("predicted", TAMLO_GET(t.predicted), sample_difference, "noise, by the board"),
      field("differs", TAMLO_GET(t.differs), "1: more than predicted, -1: less, 0: as predicted"),
      field("min", TAMLO_GET(t.min), sample, ""),
      field("max", TAMLO_GET(t.max), sample, ""),
      field("effective_bits", TAMLO_GET(t.effective_bits), in("bit"), ""),
      field("noise_free_bits", TAMLO_GET(t.noise_free_bits), in("bit"), "6.6 standard deviations"),
      field("missing", TAMLO_GET(t.missing),
            "codes that never occur, though enough samples fall about them"),
      field("skewness", TAMLO_GET(t.skewness), ""),
      field("kurtosis", TAMLO_GET(t.kurtosis), ""),
      field("normal", TAMLO_GET(t.normal), "such as normal noise with these steps shows"),
      field("lag_correlation", TAMLO_GET(t.lag_correlation), "of neighbours"),
      field("tones", TAMLO_GET(t.tones), "the largest first"),
      field("tones_predicted", TAMLO_GET(t.tones_predicted), sample_difference,
            "amplitudes; 0: none"),
      field("corner", TAMLO_GET(t.floor.corner), sample_frequency, "of 1/f noise"),
      field("corner_standard", TAMLO_GET(t.floor.corner_standard), sample_frequency,
            "standard uncertainty"),
      field("trend", TAMLO_GET(t.trend), ""),
      field("stability", TAMLO_GET(t.stability.deviations), ""),
      field("best_average", TAMLO_GET(t.stability.best),
            "samples after which averaging stops helping"),
      field("lowest_deviation", TAMLO_GET(t.stability.lowest), sample_difference, "there")};
};

template <>
struct Fields<record::LinearityAssessment> : FieldsOf<record::LinearityAssessment> {
  static double largest(const std::vector<double>& of) {
    return of.empty() ? 0.0 : *std::ranges::max_element(of);
  }
  static constexpr Measure lsb = in("LSB");
  static constexpr Field list[] = {
      field("first", TAMLO_GET(t.linearity.first), "code of the first DNL"),
      field("largest_dnl", TAMLO_GET(t.linearity.largest_dnl()), lsb, "signed"),
      field("largest_inl_end_point", TAMLO_GET(t.linearity.largest_inl_end_point()), lsb, "signed"),
      field("largest_inl_best_fit", TAMLO_GET(t.linearity.largest_inl_best_fit()), lsb, "signed"),
      field("largest_dnl_standard", TAMLO_GET(largest(t.linearity.dnl_standard)), lsb,
            "standard uncertainty of a DNL, the largest"),
      field("largest_inl_standard", TAMLO_GET(largest(t.linearity.inl_standard)), lsb,
            "standard uncertainty of an INL, the largest"),
      field("dnl_limit", TAMLO_GET(t.dnl_limit), lsb, "of the board"),
      field("inl_limit", TAMLO_GET(t.inl_limit), lsb, "of the board"),
      field("dnl_beyond", TAMLO_GET(t.dnl_beyond), "by more than its expanded uncertainty"),
      field("inl_beyond", TAMLO_GET(t.inl_beyond), "by more than its expanded uncertainty"),
      field("undecided", TAMLO_GET(t.undecided), "too few samples to find either beyond its limit"),
      field("offset", TAMLO_GET(t.offset), lsb, "at the first transition"),
      field("gain", TAMLO_GET(t.gain), lsb, "from there to the last"),
      field("offset_expected", TAMLO_GET(t.offset_expected), lsb,
            "expanded uncertainty of the unit"),
      field("gain_expected", TAMLO_GET(t.gain_expected), lsb, "expanded uncertainty of the unit"),
      field("non_monotonic_codes", TAMLO_GET(t.non_monotonic_codes),
            "none where they cannot be seen"),
      field("needed", TAMLO_GET(t.needed), "samples for the uncertainty of INL that was asked for"),
      field("missing", TAMLO_GET(t.linearity.missing),
            "codes that never occur, and would if they were as wide as others"),
      field("unseen", TAMLO_GET(t.linearity.unseen),
            "codes that do not occur, as may be by chance"),
      field("dnl", TAMLO_GET(t.linearity.dnl), lsb, "of each code"),
      field("dnl_standard", TAMLO_GET(t.linearity.dnl_standard), lsb, "standard uncertainty"),
      field("inl_end_point", TAMLO_GET(t.linearity.inl_end_point), lsb,
            "of the transition above each code"),
      field("inl_best_fit", TAMLO_GET(t.linearity.inl_best_fit), lsb,
            "of the transition above each code"),
      field("inl_standard", TAMLO_GET(t.linearity.inl_standard), lsb, "standard uncertainty")};
};

/// A harmonic, and how far it lies below the wave.
struct Harmonic {
  signal::Tone tone;
  double level;
};
template <>
struct Fields<Harmonic> : FieldsOf<Harmonic> {
  static constexpr Field list[] = {
      field("order", TAMLO_GET(t.tone.order), ""),
      field("frequency", TAMLO_GET(t.tone.frequency), sample_frequency, ""),
      field("amplitude", TAMLO_GET(std::sqrt(2.0 * t.tone.power)), sample_difference, ""),
      field("level", TAMLO_GET(t.level), unbounded_in("dB"), "to the wave")};
};

template <>
struct Fields<record::Wave> : FieldsOf<record::Wave> {
  static std::vector<Harmonic> harmonics(const signal::SineFigures& of) {
    std::vector<Harmonic> result;
    for (const auto& tone : of.harmonics) {
      result.push_back({tone, 10.0 * std::log10(tone.power / of.fundamental.power)});
    }
    return result;
  }
  static constexpr Measure decibels = unbounded_in("dB");
  static constexpr Field list[] = {
      field("frequency", TAMLO_GET(t.fit.frequency), sample_frequency, ""),
      field("frequency_standard", TAMLO_GET(t.fit.frequency_standard), sample_frequency,
            "standard uncertainty"),
      field("amplitude", TAMLO_GET(t.fit.amplitude), sample_difference, ""),
      field("amplitude_standard", TAMLO_GET(t.fit.amplitude_standard), sample_difference,
            "standard uncertainty"),
      field("offset", TAMLO_GET(t.fit.offset), sample, ""),
      field("offset_standard", TAMLO_GET(t.fit.offset_standard), sample_difference,
            "standard uncertainty"),
      field("phase", TAMLO_GET(t.fit.phase), in("rad"), "at the first sample"),
      field("phase_standard", TAMLO_GET(t.fit.phase_standard), in("rad"), "standard uncertainty"),
      field("residual", TAMLO_GET(t.fit.residual), sample_difference, "rms after the sine fit"),
      field("low", TAMLO_GET(t.low), sample_difference, "of the confidence interval of it"),
      field("high", TAMLO_GET(t.high), sample_difference, "of the same"),
      field("predicted", TAMLO_GET(t.predicted), sample_difference, "by the board"),
      field("worse", TAMLO_GET(t.worse), "than predicted"),
      field("full_scale", TAMLO_GET(t.full_scale), "amplitude over half the range; 0 of readings"),
      field("sinad", TAMLO_GET(t.fit.sinad()), decibels, ""),
      field("enob", TAMLO_GET(t.enob), unbounded_in("bit"), "of an amplitude that fills the range"),
      field("snr", TAMLO_GET(t.figures.snr), decibels, ""),
      field("thd", TAMLO_GET(t.figures.thd), decibels, ""),
      field("sfdr", TAMLO_GET(t.figures.sfdr), decibels, ""),
      field("harmonics", TAMLO_GET(harmonics(t.figures)), ""),
      field("noise_floor", TAMLO_GET(std::sqrt(t.figures.noise_floor)), sample_difference,
            "rms of one bin without lines"),
      field("window", TAMLO_GET(t.spectrum.window), ""),
      field("segment", TAMLO_GET(t.spectrum.segment), "samples"),
      field("segments", TAMLO_GET(t.spectrum.segments), "averaged"),
      field("coherent", TAMLO_GET(t.coherent), ""),
      field("nearest", TAMLO_GET(t.nearest), sample_frequency, "coherent frequency")};
};

template <>
struct Fields<signal::StepFigures::Settling> : FieldsOf<signal::StepFigures::Settling> {
  static constexpr Field list[] = {
      field("band", TAMLO_GET(t.band), "part of the height"),
      field("time", TAMLO_GET(t.time), sample_time, "for good; none: cannot be estimated")};
};

template <>
struct Fields<signal::StepFigures> : FieldsOf<signal::StepFigures> {
  static constexpr Field list[] = {
      field("before", TAMLO_GET(t.before), sample, "level"),
      field("after", TAMLO_GET(t.after), sample, "level"),
      field("noise", TAMLO_GET(t.noise), sample_difference, "before the step"),
      field("step_at", TAMLO_GET(t.step_at), in("samples"), "from which all times count"),
      field("delay", TAMLO_GET(t.delay), sample_time, "to half the height"),
      field("rise", TAMLO_GET(t.rise), sample_time, "from 10 % to 90 % of the height"),
      field("overshoot", TAMLO_GET(t.overshoot), "part of the height; 0 where noise hides it"),
      field("settling", TAMLO_GET(t.settling), "")};
};

/// What the board makes of a step of height one.
struct PredictedStep : signal::StepFigures {};
template <>
struct Fields<PredictedStep> : FieldsOf<PredictedStep> {
  static constexpr Field list[] = {
      field("delay", TAMLO_GET(t.delay), sample_time, "to half the height"),
      field("rise", TAMLO_GET(t.rise), sample_time, "from 10 % to 90 % of the height"),
      field("overshoot", TAMLO_GET(t.overshoot), "part of the height"),
      field("settling", TAMLO_GET(t.settling), "")};
};

template <>
struct Fields<record::SampleTimes> : FieldsOf<record::SampleTimes> {
  static constexpr Field list[] = {
      field("period", TAMLO_GET(t.period), in("s"), ""),
      field("jitter", TAMLO_GET(t.jitter), in("s"), "rms"),
      field("gaps", TAMLO_GET(t.gaps), "steps of more than one and a half periods"),
      field("longest", TAMLO_GET(t.longest), in("s"), "of the gaps"),
      field("backwards", TAMLO_GET(t.backwards), "steps that do not lead on"),
      field("first_odd", TAMLO_GET(t.first_odd), "sample behind the first of either; 0: none")};
};

template <>
struct Fields<ChannelRecord> : FieldsOf<ChannelRecord> {
  static Units units(const T& t) {
    const bool codes = t.verdict.shows == record::Shows::codes;
    return {
        .quantity = t.unit, .sample = codes ? quantity::Unit{} : t.unit, .rate = t.verdict.rate};
  }
  static std::optional<PredictedStep> predicted_step(const record::Verdict& of) {
    return of.step_predicted ? std::optional(PredictedStep{*of.step_predicted}) : std::nullopt;
  }
  static constexpr Field list[] = {
      field("channel", TAMLO_GET(t.verdict.channel), ""),
      field("unit", TAMLO_GET(t.unit), "of the quantity"),
      field("data", TAMLO_GET(t.verdict.shows), "what the samples are"),
      field("input", TAMLO_GET(t.verdict.feed.input), ""),
      field("samples", TAMLO_GET(t.verdict.samples), ""),
      field("rate", TAMLO_GET(t.verdict.rate > 0.0 ? std::optional(t.verdict.rate) : std::nullopt),
            in("Sa/s"), ""),
      field("duration", TAMLO_GET(static_cast<double>(t.verdict.samples)), sample_time, ""),
      field("damage", TAMLO_GET(t.damage), "where and why the file ended early; empty: sound"),
      field("at", TAMLO_GET(t.verdict.at), quantity_value, "the mean"),
      field("meets_prediction", TAMLO_GET(t.verdict.meets_prediction()),
            "nothing is significantly worse than predicted"),
      field("times", TAMLO_GET(t.times), "of the samples, where the file has them"),
      field("steady", TAMLO_GET(t.verdict.steady), "of a steady input"),
      field("linearity_assessment", TAMLO_GET(t.verdict.linearity_assessment),
            "of a ramp or sine of codes"),
      field("wave", TAMLO_GET(t.verdict.wave), "of a sine"),
      field("step", TAMLO_GET(t.verdict.step), ""),
      field("step_predicted", TAMLO_GET(predicted_step(t.verdict)), "of a step of height one")};
};

template <>
struct Fields<Records> : FieldsOf<Records> {
  static constexpr Field list[] = {field("channels", TAMLO_GET(t.channels), "")};
};

}  // namespace tamlo::result
