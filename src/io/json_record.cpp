// SPDX-License-Identifier: Apache-2.0
#include <functional>

#include "json_parts.hpp"
#include "tamlo/io/json.hpp"

namespace tamlo::io {
namespace {

using Convert = std::function<Json(double)>;

// Values and differences of what was captured, and times.
struct Scale {
  Convert value, difference;
  double rate;
  Json time(double samples) const { return rate > 0.0 ? samples / rate : samples; }
  Json frequency(double cycles) const { return rate > 0.0 ? cycles * rate : cycles; }
};

Json tone(const record::Tone& t, const Scale& in) {
  return {{"frequency", in.frequency(t.frequency)},
          {"amplitude", in.difference(std::sqrt(2.0 * t.power))},
          {"order", t.order}};
}

Json steady(const record::Steady& s, const Scale& in) {
  const auto deviation = [&](const record::Deviation& d) -> Json {
    return {{"averaged", d.averaged},      {"deviation", in.difference(d.deviation)},
            {"low", in.difference(d.low)}, {"high", in.difference(d.high)},
            {"kind", name(d.kind)},        {"stride", d.stride}};
  };
  return {{"mean", in.value(s.mean)},
          {"deviation", in.difference(s.deviation)},
          {"noise", in.difference(s.noise)},
          {"low", in.difference(s.low)},
          {"high", in.difference(s.high)},
          {"predicted", in.difference(s.predicted)},
          {"differs", s.differs},
          {"min", in.value(s.min)},
          {"max", in.value(s.max)},
          {"effective_bits", or_null(s.effective_bits)},
          {"noise_free_bits", or_null(s.noise_free_bits)},
          {"missing", s.missing},
          {"skewness", s.skewness},
          {"kurtosis", s.kurtosis},
          {"normal", s.normal},
          {"lag_correlation", s.lag_correlation},
          {"tones", each(s.tones, [&](const auto& t) { return tone(t, in); })},
          {"tones_predicted", each(s.tones_predicted, in.difference)},
          {"corner", in.frequency(s.floor.corner)},
          {"corner_standard", in.frequency(s.floor.corner_standard)},
          {"trend",
           {{"slope", in.difference(s.trend.slope * (in.rate > 0.0 ? in.rate : 1.0))},
            {"standard_uncertainty",
             in.difference(s.trend.standard_uncertainty * (in.rate > 0.0 ? in.rate : 1.0))},
            {"moves", s.trend.moves}}},
          {"stability", each(s.stability.deviations, deviation)},
          {"best_average", s.stability.best}};
}

Json linearity_assessment(const record::LinearityAssessment& s) {
  const auto& l = s.linearity;
  return {
      {"first", l.first},
      {"dnl", l.dnl},
      {"dnl_standard", l.dnl_standard},
      {"inl_end_point", l.inl_end_point},
      {"inl_best_fit", l.inl_best_fit},
      {"inl_standard", l.inl_standard},
      {"missing", l.missing},
      {"largest_dnl", l.largest_dnl()},
      {"largest_inl_end_point", l.largest_inl_end_point()},
      {"largest_inl_best_fit", l.largest_inl_best_fit()},
      {"dnl_limit", or_null(s.dnl_limit)},
      {"inl_limit", or_null(s.inl_limit)},
      {"dnl_beyond", s.dnl_beyond},
      {"inl_beyond", s.inl_beyond},
      {"offset", or_null(s.offset)},
      {"gain", or_null(s.gain)},
      {"offset_expected", or_null(s.offset_expected)},
      {"gain_expected", or_null(s.gain_expected)},
      {"non_monotonic_codes", s.non_monotonic_codes ? Json(*s.non_monotonic_codes) : Json(nullptr)},
      {"needed", s.needed}};
}

Json wave(const record::Wave& w, const Scale& in) {
  const auto& f = w.figures;
  return {{"frequency", in.frequency(w.fit.frequency)},
          {"frequency_standard", in.frequency(w.fit.frequency_standard)},
          {"amplitude", in.difference(w.fit.amplitude)},
          {"amplitude_standard", in.difference(w.fit.amplitude_standard)},
          {"offset", in.value(w.fit.offset)},
          {"offset_standard", in.difference(w.fit.offset_standard)},
          {"phase", w.fit.phase},
          {"phase_standard", w.fit.phase_standard},
          {"residual", in.difference(w.fit.residual)},
          {"low", in.difference(w.low)},
          {"high", in.difference(w.high)},
          {"predicted", in.difference(w.predicted)},
          {"worse", w.worse},
          {"full_scale", w.full_scale},
          {"sinad", finite(w.fit.sinad())},
          {"enob", finite(w.enob)},
          {"snr", finite(f.snr)},
          {"thd", finite(f.thd)},
          {"sfdr", finite(f.sfdr)},
          {"harmonics", each(f.harmonics, [&](const auto& t) { return tone(t, in); })},
          {"noise_floor", in.difference(std::sqrt(f.noise_floor))},
          {"window", name(w.spectrum.window)},
          {"segment", w.spectrum.segment},
          {"segments", w.spectrum.segments},
          {"coherent", w.coherent},
          {"nearest", in.frequency(w.nearest)}};
}

Json step(const std::optional<record::StepFigures>& s, const Scale& in, bool of_height_one) {
  if (!s) return nullptr;
  const auto settling = [&](const record::StepFigures::Settling& of) -> Json {
    return {{"band", of.band}, {"time", of.time ? in.time(*of.time) : Json(nullptr)}};
  };
  Json result;
  if (!of_height_one) {
    result = {{"before", in.value(s->before)},
              {"after", in.value(s->after)},
              {"noise", in.difference(s->noise)},
              {"step_at", s->step_at}};
  }
  result.update({{"delay", in.time(s->delay)},
                 {"rise", in.time(s->rise)},
                 {"overshoot", s->overshoot},
                 {"settling", each(s->settling, settling)}});
  return result;
}

Json times(const std::optional<SampleTimes>& t) {
  if (!t) return nullptr;
  return {{"period", t->period},   {"jitter", t->jitter},       {"gaps", t->gaps},
          {"longest", t->longest}, {"backwards", t->backwards}, {"first_odd", t->first_odd}};
}

Json of_record(const RecordResult& result) {
  const auto& v = result.verdict;
  const InUnit in(result.unit);
  const bool codes = v.shows == record::Shows::codes;
  const Scale scale{.value = [&](double x) { return codes ? finite(x) : in.value(x); },
                    .difference = [&](double x) { return codes ? finite(x) : in.difference(x); },
                    .rate = v.rate};
  return {{"channel", v.channel},
          {"unit", in.symbol()},
          {"shows", name(v.shows)},
          {"input", name(v.feed.input)},
          {"samples", v.samples},
          {"rate", v.rate > 0.0 ? Json(v.rate) : Json(nullptr)},
          {"damage", result.read.damage},
          {"times", times(result.read.times)},
          {"at", in.value(v.at)},
          {"meets_prediction", v.meets_prediction()},
          {"steady", v.steady ? steady(*v.steady, scale) : Json(nullptr)},
          {"linearity_assessment",
           v.linearity_assessment ? linearity_assessment(*v.linearity_assessment) : Json(nullptr)},
          {"wave", v.wave ? wave(*v.wave, scale) : Json(nullptr)},
          {"step", step(v.step, scale, false)},
          {"step_predicted", step(v.step_predicted, scale, true)}};
}

}  // namespace

std::string to_json(const std::vector<RecordResult>& results) {
  return document("record", each(results, of_record));
}

}  // namespace tamlo::io
