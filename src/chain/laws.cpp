// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/laws.hpp"

namespace tamlo::chain {
namespace {

double forward_of(const LinearSensorLaw& law, double in, Parameters p) {
  return p[law.at_low] + (in - law.low) / (law.high - law.low) * (p[law.at_high] - p[law.at_low]);
}

double inverse_of(const LinearSensorLaw& law, double out, Parameters p) {
  return law.low + (out - p[law.at_low]) / (p[law.at_high] - p[law.at_low]) * (law.high - law.low);
}

double forward_of(const DividerLaw& law, double in, Parameters p) {
  return in * p[law.bottom] / (p[law.top] + p[law.bottom]);
}

double inverse_of(const DividerLaw& law, double out, Parameters p) {
  return out * (p[law.top] + p[law.bottom]) / p[law.bottom];
}

// Codes of width 1 ± d instead of 1: their edges, and so the error, move by up to d/2; uniform
// within that, the variance of quantisation grows from 1/12 to (1 + d^2)/12.
double added(const ConverterLaw& law, Parameters p) {
  return p[law.offset] + p[law.inl] + p[law.dnl] / 2.0 + p[law.noise] + p[law.quantisation] +
         law.shift;
}

}  // namespace

double forward(const Law& law, double in, Parameters p) {
  return std::visit([&](const auto& of) { return forward_of(of, in, p); }, law);
}

double inverse(const Law& law, double out, Parameters p) {
  return std::visit([&](const auto& of) { return inverse_of(of, out, p); }, law);
}

double forward(const ConverterLaw& law, double volts, Parameters p) {
  const double ideal = volts / p[law.reference] * law.codes;
  return ideal * (1.0 + p[law.gain] / law.codes) + added(law, p);
}

double inverse(const ConverterLaw& law, double code, Parameters p) {
  const double ideal = (code - added(law, p)) / (1.0 + p[law.gain] / law.codes);
  return ideal / law.codes * p[law.reference];
}

}  // namespace tamlo::chain
