// SPDX-License-Identifier: Apache-2.0
#include "tamlo/record/verdict.hpp"

#include <algorithm>
#include <cmath>

#include "tamlo/chain/chain.hpp"

namespace tamlo::record {
namespace {

// Noise of all sources but the converter's own, in codes.
double other_noise(chain::Chain chain, double x) {
  std::erase_if(chain.sources, [&](const chain::Source& source) {
    return source.kind() == chain::Kind::noise && source.parameter == chain.conversion.noise;
  });
  return chain::noise_in_codes(chain, x);
}

// What the converter must add for the deviation that was seen; none where the rest makes more.
double own_noise(const Verdict& v, double deviation, double others) {
  const double squares = deviation * deviation - v.predicted.step * v.predicted.step / 12.0;
  const double codes = squares / (v.predicted.per_code * v.predicted.per_code) - others * others;
  return std::sqrt(std::max(0.0, codes));
}

// INL as it adds to the code: a transition that comes late makes the code lower. Of a code the mean
// of the transitions to both sides.
std::vector<model::InlPoint> table_of(const signal::Linearity& l, std::int64_t first) {
  const auto n = l.inl_end_point.size();
  const std::size_t step = std::max<std::size_t>(1, (n + 1022) / 1023);
  std::vector<model::InlPoint> result{{.code = 0.0, .inl = 0.0}};
  for (std::size_t j = 0; j < n; j += step) {
    const double below = j > 0 ? l.inl_end_point[j - 1] : 0.0;
    result.push_back({.code = static_cast<double>(l.first - first) + static_cast<double>(j),
                      .inl = -(below + l.inl_end_point[j]) / 2.0});
  }
  result.push_back(
      {.code = static_cast<double>(l.first - first) + static_cast<double>(n), .inl = 0.0});
  return result;
}

// Takes away what offset and gain do to the readings at the ends of the span.
model::Correction correction_of(const chain::Chain& chain, const LinearityAssessment& s) {
  const auto& span = chain.channel.span;
  const auto first = static_cast<double>(chain::first_code(chain));
  const auto last = static_cast<double>(chain::last_code(chain));
  const auto error_at = [&](double x) {
    const double code = chain::code(chain, x, chain.nominal);
    const double off = *s.offset + *s.gain * (code - first) / (last - first);
    const auto& report = chain.report;
    return chain::exact_reading(chain, report.offset + report.gain * (code + off)) -
           chain::exact_reading(chain, report.offset + report.gain * code);
  };
  const double low = error_at(span.low), high = error_at(span.high);
  const double standard = *std::ranges::max_element(s.linearity.inl_standard);
  return {.coefficients = {-(high + low) / 2.0, -(high - low) / 2.0},
          .centre = span.middle(),
          .half_width = span.width() / 2.0,
          .standard_uncertainty = standard * chain::code_width_at(chain, span.middle())};
}

}  // namespace

Measured measured(const chain::Chain& chain, const Verdict& v) {
  Measured result;
  if (v.steady && v.shows == Shows::codes) {
    const double others = other_noise(chain, v.at);
    const auto& s = *v.steady;
    result.noise = {.value = own_noise(v, s.noise, others),
                    .low = own_noise(v, s.low, others),
                    .high = own_noise(v, s.high, others)};
    if (result.noise->value > 0.0) return result;
    result.noise.reset();
    result.reason =
        "the noise observed is less than the parts before the converter should make alone";
    return result;
  }
  if (!v.linearity_assessment) {
    result.reason =
        "noise comes from a steady record of codes, INL from a ramp or sine of codes that "
        "reaches both ends";
    return result;
  }
  const auto& l = v.linearity_assessment->linearity;
  result.inl = table_of(l, chain::first_code(chain));
  result.inl_uncertainty = *std::ranges::max_element(l.inl_standard);
  result.dnl = std::abs(l.largest_dnl());
  if (v.linearity_assessment->offset)
    result.correction = correction_of(chain, *v.linearity_assessment);
  return result;
}

}  // namespace tamlo::record
