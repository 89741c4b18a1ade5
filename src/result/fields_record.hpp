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
      field("frequency", TAMLO_AT(frequency), sample_frequency, ""),
      field("amplitude", TAMLO_GET(std::sqrt(2.0 * t.power)), sample_difference, ""),
      field("order", TAMLO_AT(order), "of a harmonic; 1 is the wave itself")};
};

template <>
struct Fields<signal::Trend> : FieldsOf<signal::Trend> {
  static constexpr Field list[] = {
      field("slope", TAMLO_AT(slope), sample_slope, ""),
      field("standard_uncertainty", TAMLO_AT(standard_uncertainty), sample_slope, ""),
      field("moves", TAMLO_AT(moves), "beyond what 99 % of steady records show")};
};

template <>
struct Fields<signal::Deviation> : FieldsOf<signal::Deviation> {
  static constexpr Field list[] = {
      field("averaged", TAMLO_AT(averaged), "samples"),
      field("deviation", TAMLO_AT(deviation), sample_difference, "overlapping Allan deviation"),
      field("low", TAMLO_AT(low), sample_difference, "of its confidence interval"),
      field("high", TAMLO_AT(high), sample_difference, "of the same"),
      field("kind", TAMLO_AT(kind), "of the noise there"),
      field("stride", TAMLO_AT(stride), "samples from one average to the next; 1 is full overlap")};
};

template <>
struct Fields<record::Steady> : FieldsOf<record::Steady> {
  static constexpr Field list[] = {
      field("mean", TAMLO_AT(mean), sample, ""),
      field("deviation", TAMLO_AT(deviation), sample_difference, "standard deviation of all"),
      field("noise", TAMLO_AT(noise), sample_difference, "the same without the tones"),
      field("low", TAMLO_AT(low), sample_difference, "of the confidence interval of the noise"),
      field("high", TAMLO_AT(high), sample_difference, "of the same"),
      field("predicted", TAMLO_AT(predicted), sample_difference, "noise, by the board"),
      field("differs", TAMLO_AT(differs), "1: more than predicted, -1: less, 0: as predicted"),
      field("min", TAMLO_AT(min), sample, ""),
      field("max", TAMLO_AT(max), sample, ""),
      field("effective_bits", TAMLO_AT(effective_bits), in("bit"), ""),
      field("noise_free_bits", TAMLO_AT(noise_free_bits), in("bit"), "6.6 standard deviations"),
      field("missing", TAMLO_AT(missing),
            "codes that never occur, though enough samples fall about them"),
      field("skewness", TAMLO_AT(skewness), ""),
      field("kurtosis", TAMLO_AT(kurtosis), ""),
      field("normal", TAMLO_AT(normal), "such as normal noise with these steps shows"),
      field("lag_correlation", TAMLO_AT(lag_correlation), "of neighbours"),
      field("tones", TAMLO_AT(tones), "the largest first"),
      field("tones_predicted", TAMLO_AT(tones_predicted), sample_difference, "amplitudes; 0: none"),
      field("corner", TAMLO_AT(floor.corner), sample_frequency, "of 1/f noise"),
      field("corner_standard", TAMLO_AT(floor.corner_standard), sample_frequency,
            "standard uncertainty"),
      field("trend", TAMLO_AT(trend), ""),
      field("stability", TAMLO_AT(stability.deviations), ""),
      field("best_average", TAMLO_AT(stability.best),
            "samples after which averaging stops helping"),
      field("lowest_deviation", TAMLO_AT(stability.lowest), sample_difference, "there")};
};

template <>
struct Fields<record::LinearityAssessment> : FieldsOf<record::LinearityAssessment> {
  static double largest(const std::vector<double>& values) {
    return values.empty() ? 0.0 : *std::ranges::max_element(values);
  }
  static constexpr Measure lsb = in("LSB");
  static constexpr Field list[] = {
      field("first", TAMLO_AT(linearity.first), "code of the first DNL"),
      field("largest_dnl", TAMLO_GET(t.linearity.largest_dnl()), lsb, "signed"),
      field("largest_inl_end_point", TAMLO_GET(t.linearity.largest_inl_end_point()), lsb, "signed"),
      field("largest_inl_best_fit", TAMLO_GET(t.linearity.largest_inl_best_fit()), lsb, "signed"),
      field("largest_dnl_standard", TAMLO_GET(largest(t.linearity.dnl_standard)), lsb,
            "standard uncertainty of a DNL, the largest"),
      field("largest_inl_standard", TAMLO_GET(largest(t.linearity.inl_standard)), lsb,
            "standard uncertainty of an INL, the largest"),
      field("dnl_limit", TAMLO_AT(dnl_limit), lsb, "of the board"),
      field("inl_limit", TAMLO_AT(inl_limit), lsb, "of the board"),
      field("dnl_beyond", TAMLO_AT(dnl_beyond), "by more than its expanded uncertainty"),
      field("inl_beyond", TAMLO_AT(inl_beyond), "by more than its expanded uncertainty"),
      field("undecided", TAMLO_AT(undecided), "too few samples to find either beyond its limit"),
      field("offset", TAMLO_AT(offset), lsb, "at the first transition"),
      field("gain", TAMLO_AT(gain), lsb, "from there to the last"),
      field("offset_expected", TAMLO_AT(offset_expected), lsb, "expanded uncertainty of the unit"),
      field("gain_expected", TAMLO_AT(gain_expected), lsb, "expanded uncertainty of the unit"),
      field("non_monotonic_codes", TAMLO_AT(non_monotonic_codes), "none where they cannot be seen"),
      field("needed", TAMLO_AT(needed), "samples for the uncertainty of INL that was asked for"),
      field("missing", TAMLO_AT(linearity.missing),
            "codes that never occur, and would if they were as wide as others"),
      field("unseen", TAMLO_AT(linearity.unseen), "codes that do not occur, as may be by chance"),
      field("dnl", TAMLO_AT(linearity.dnl), lsb, "of each code"),
      field("dnl_standard", TAMLO_AT(linearity.dnl_standard), lsb, "standard uncertainty"),
      field("inl_end_point", TAMLO_AT(linearity.inl_end_point), lsb,
            "of the transition above each code"),
      field("inl_best_fit", TAMLO_AT(linearity.inl_best_fit), lsb,
            "of the transition above each code"),
      field("inl_standard", TAMLO_AT(linearity.inl_standard), lsb, "standard uncertainty")};
};

/// A harmonic, and how far it lies below the wave.
struct Harmonic {
  signal::Tone tone;
  double level;
};
template <>
struct Fields<Harmonic> : FieldsOf<Harmonic> {
  static constexpr Field list[] = {
      field("order", TAMLO_AT(tone.order), ""),
      field("frequency", TAMLO_AT(tone.frequency), sample_frequency, ""),
      field("amplitude", TAMLO_GET(std::sqrt(2.0 * t.tone.power)), sample_difference, ""),
      field("level", TAMLO_AT(level), unbounded_in("dB"), "to the wave")};
};

template <>
struct Fields<record::Wave> : FieldsOf<record::Wave> {
  static std::vector<Harmonic> harmonics(const signal::SineFigures& sine_figures) {
    std::vector<Harmonic> result;
    for (const auto& tone : sine_figures.harmonics) {
      result.push_back({tone, 10.0 * std::log10(tone.power / sine_figures.fundamental.power)});
    }
    return result;
  }
  static constexpr Measure decibels = unbounded_in("dB");
  static constexpr Field list[] = {
      field("frequency", TAMLO_AT(fit.frequency), sample_frequency, ""),
      field("frequency_standard", TAMLO_AT(fit.frequency_standard), sample_frequency,
            "standard uncertainty"),
      field("amplitude", TAMLO_AT(fit.amplitude), sample_difference, ""),
      field("amplitude_standard", TAMLO_AT(fit.amplitude_standard), sample_difference,
            "standard uncertainty"),
      field("offset", TAMLO_AT(fit.offset), sample, ""),
      field("offset_standard", TAMLO_AT(fit.offset_standard), sample_difference,
            "standard uncertainty"),
      field("phase", TAMLO_AT(fit.phase), in("rad"), "at the first sample"),
      field("phase_standard", TAMLO_AT(fit.phase_standard), in("rad"), "standard uncertainty"),
      field("residual", TAMLO_AT(fit.residual), sample_difference, "rms after the sine fit"),
      field("low", TAMLO_AT(low), sample_difference, "of the confidence interval of it"),
      field("high", TAMLO_AT(high), sample_difference, "of the same"),
      field("predicted", TAMLO_AT(predicted), sample_difference, "by the board"),
      field("worse", TAMLO_AT(worse), "than predicted"),
      field("full_scale", TAMLO_AT(full_scale), "amplitude over half the range; 0 of readings"),
      field("sinad", TAMLO_GET(t.fit.sinad()), decibels, ""),
      field("enob", TAMLO_AT(enob), unbounded_in("bit"), "of an amplitude that fills the range"),
      field("snr", TAMLO_AT(figures.snr), decibels, ""),
      field("thd", TAMLO_AT(figures.thd), decibels, ""),
      field("sfdr", TAMLO_AT(figures.sfdr), decibels, ""),
      field("harmonics", TAMLO_GET(harmonics(t.figures)), ""),
      field("noise_floor", TAMLO_GET(std::sqrt(t.figures.noise_floor)), sample_difference,
            "rms of one bin without lines"),
      field("window", TAMLO_AT(spectrum.window), ""),
      field("segment", TAMLO_AT(spectrum.segment), "samples"),
      field("segments", TAMLO_AT(spectrum.segments), "averaged"),
      field("coherent", TAMLO_AT(coherent), ""),
      field("nearest", TAMLO_AT(nearest), sample_frequency, "coherent frequency")};
};

template <>
struct Fields<signal::StepFigures::Settling> : FieldsOf<signal::StepFigures::Settling> {
  static constexpr Field list[] = {
      field("band", TAMLO_AT(band), "part of the height"),
      field("time", TAMLO_AT(time), sample_time, "for good; none: cannot be estimated")};
};

template <>
struct Fields<signal::StepFigures> : FieldsOf<signal::StepFigures> {
  static constexpr Field list[] = {
      field("before", TAMLO_AT(before), sample, "level"),
      field("after", TAMLO_AT(after), sample, "level"),
      field("noise", TAMLO_AT(noise), sample_difference, "before the step"),
      field("step_at", TAMLO_AT(step_at), in("samples"), "from which all times count"),
      field("delay", TAMLO_AT(delay), sample_time, "to half the height"),
      field("rise", TAMLO_AT(rise), sample_time, "from 10 % to 90 % of the height"),
      field("overshoot", TAMLO_AT(overshoot), "part of the height; 0 where noise hides it"),
      field("settling", TAMLO_AT(settling), "")};
};

/// Step answer that the board predicts, for a step of height one.
struct PredictedStep : signal::StepFigures {};
template <>
struct Fields<PredictedStep> : FieldsOf<PredictedStep> {
  static constexpr Field list[] = {
      field("delay", TAMLO_AT(delay), sample_time, "to half the height"),
      field("rise", TAMLO_AT(rise), sample_time, "from 10 % to 90 % of the height"),
      field("overshoot", TAMLO_AT(overshoot), "part of the height"),
      field("settling", TAMLO_AT(settling), "")};
};

template <>
struct Fields<record::SampleTimes> : FieldsOf<record::SampleTimes> {
  static constexpr Field list[] = {
      field("period", TAMLO_AT(period), in("s"), ""),
      field("jitter", TAMLO_AT(jitter), in("s"), "rms"),
      field("gaps", TAMLO_AT(gaps), "steps of more than one and a half periods"),
      field("longest", TAMLO_AT(longest), in("s"), "of the gaps"),
      field("backwards", TAMLO_AT(backwards), "steps back"),
      field("held_back", TAMLO_AT(held_back), "steps of less than half a period: they had waited"),
      field("backlog", TAMLO_AT(backlog), "the most of those in a row"),
      field("first_odd", TAMLO_AT(first_odd), "sample behind the first of these; 0: none")};
};

template <>
struct Fields<ChannelRecord> : FieldsOf<ChannelRecord> {
  static Units units(const T& t) {
    const bool codes = t.verdict.shows == record::Shows::codes;
    return {
        .quantity = t.unit, .sample = codes ? quantity::Unit{} : t.unit, .rate = t.verdict.rate};
  }
  static std::optional<PredictedStep> predicted_step(const record::Verdict& verdict) {
    return verdict.step_predicted ? std::optional(PredictedStep{*verdict.step_predicted})
                                  : std::nullopt;
  }
  static constexpr Field list[] = {
      field("channel", TAMLO_AT(verdict.channel), ""),
      field("unit", TAMLO_AT(unit), "of the quantity"),
      field("alone", TAMLO_AT(verdict.alone), "without a board: predictions are 0"),
      field("data", TAMLO_AT(verdict.shows), "what the samples are"),
      field("input", TAMLO_AT(verdict.feed.input), ""),
      field("samples", TAMLO_AT(verdict.samples), ""),
      field("rate", TAMLO_GET(t.verdict.rate > 0.0 ? std::optional(t.verdict.rate) : std::nullopt),
            in("Sa/s"), ""),
      field("duration", TAMLO_GET(static_cast<double>(t.verdict.samples)), sample_time, ""),
      field("damage", TAMLO_AT(damage), "where and why the file ended early; empty: sound"),
      field("at", TAMLO_AT(verdict.at), quantity_value, "the mean"),
      field("meets_prediction", TAMLO_GET(t.verdict.meets_prediction()),
            "nothing is significantly worse than predicted"),
      field("times", TAMLO_AT(times), "of the samples, where the file has them"),
      field("steady", TAMLO_AT(verdict.steady), "of a steady input"),
      field("linearity_assessment", TAMLO_AT(verdict.linearity_assessment),
            "of a ramp or sine of codes"),
      field("wave", TAMLO_AT(verdict.wave), "of a sine"),
      field("step", TAMLO_AT(verdict.step), ""),
      field("step_predicted", TAMLO_GET(predicted_step(t.verdict)), "of a step of height one")};
};

template <>
struct Fields<Records> : FieldsOf<Records> {
  static constexpr const char* command = "record";
  static constexpr Field list[] = {field("channels", TAMLO_AT(channels), "")};
};

}  // namespace tamlo::result
