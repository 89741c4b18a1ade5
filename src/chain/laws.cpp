// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/laws.hpp"

namespace tamlo::chain {
namespace {

// Codes of width 1 ± d instead of 1: their edges, and so the error, move by up to d/2; uniform
// within that, the variance of quantisation grows from 1/12 to (1 + d^2)/12.
double added(const ConverterLaw& law, Parameters p) {
  return p[law.offset] + p[law.inl] + p[law.dnl] / 2.0 + p[law.noise] + p[law.quantisation] +
         law.shift;
}

// The code of 0 V, from which the gain error grows.
double zero_code(const ConverterLaw& law, const Ends& range) {
  return -range.low / (range.high - range.low) * law.codes;
}

}  // namespace

Signal forward(const Law& law, const Signal& in, Parameters p) {
  return std::visit(
      [&](const auto& of) -> Signal {
        // A sensor takes the quantity, and most have no resistance to speak of.
        if constexpr (requires { forward_of(of, in, p); }) {
          return forward_of(of, in, p);
        } else {
          return {.value = forward_of(of, in.value, p)};
        }
      },
      law);
}

double inverse(const Law& law, double out, Parameters p) {
  return std::visit([&](const auto& of) { return inverse_of(of, out, p); }, law);
}

Ends ends(const ConverterLaw& law, Parameters p) {
  const double ratio = p[law.attenuation], reference = p[law.reference];
  const double low = law.has_negative ? p[law.negative_reference] : law.low_factor * reference;
  return {.low = low / ratio, .high = law.high_factor * reference / ratio};
}

double forward(const ConverterLaw& law, double volts, Parameters p) {
  const auto range = ends(law, p);
  const double ideal = (volts - range.low) / (range.high - range.low) * law.codes;
  const double grown = p[law.gain] / law.codes;
  return ideal + (ideal - zero_code(law, range)) * grown + added(law, p);
}

double inverse(const ConverterLaw& law, double code, Parameters p) {
  const auto range = ends(law, p);
  const double grown = p[law.gain] / law.codes;
  const double ideal = (code - added(law, p) + zero_code(law, range) * grown) / (1.0 + grown);
  return range.low + ideal / law.codes * (range.high - range.low);
}

}  // namespace tamlo::chain
