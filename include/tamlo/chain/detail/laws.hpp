// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <tuple>
#include <variant>
#include <vector>

#include "tamlo/chain/detail/parts/driving_sensors.hpp"
#include "tamlo/chain/detail/parts/front_end.hpp"
#include "tamlo/chain/detail/parts/pin.hpp"
#include "tamlo/chain/detail/parts/resistive_sensors.hpp"
#include "tamlo/chain/detail/parts/sensor_feed.hpp"
#include "tamlo/chain/detail/sampling.hpp"
#include "tamlo/chain/detail/signal.hpp"
#include "tamlo/export.hpp"
#include "tamlo/math/interval.hpp"
#include "tamlo/model/converter.hpp"

/// Laws of the parts of a chain: signal out for signal in, with the parameters of the whole chain.
/// A law knows its parameters by index, so one part that acts in two places is one parameter. Each
/// law states whether the resistance after it depends on the input value: loops over many values
/// take it from there.
namespace tamlo {
namespace chain TAMLO_API {

template <class Laws>
struct OneOf;
template <class... Laws>
struct OneOf<std::tuple<Laws...>> {
  using type = std::variant<Laws...>;
};
/// One of those that the files of parts list.
using Law = OneOf<decltype(std::tuple_cat(DrivingSensorLaws(), ResistiveSensorLaws(),
                                          FrontEndLaws(), SensorFeedLaws(), PinLaws()))>::type;

/// Returns the signal after a part of which the law is known. A sensor takes the quantity, and most
/// have no resistance to speak of.
template <class Law, class P>
Signal one(const Law& law, const Signal& in, const P& p) {
  if constexpr (requires { forward_of(law, in, p); }) {
    return forward_of(law, in, p);
  } else {
    return {.value = forward_of(law, in.value, p)};
  }
}

/// Returns the signal after the part for the signal `in` before it.
Signal forward(const Law& law, const Signal& in, Parameters p);
/// Returns the value before the part that gives the value `out` after it.
double inverse(const Law& law, double out, Parameters p);

/// Volts at the pin to an unquantised code, counted from 0 at the low end of the range:
/// code k stands for k - 1/2 to k + 1/2.
struct ConverterLaw {
  std::size_t attenuation{};         ///< ratio inside the converter
  std::size_t reference{};           ///< V
  std::size_t negative_reference{};  ///< V; only with has_negative
  bool has_negative = false;
  double low_factor = 0.0;     ///< low end of the range in units of the reference
  double high_factor = 1.0;    ///< high end
  std::size_t offset{};        ///< LSB
  std::size_t gain{};          ///< LSB at full scale, in proportion to the code
  std::size_t inl{};           ///< LSB
  std::size_t dnl{};           ///< LSB
  std::size_t noise{};         ///< LSB
  std::size_t quantisation{};  ///< LSB
  double codes{};              ///< 2^N
  double code_zero = 0.0;      ///< codes from the low end to the one that stands for 0
  double shift{};              ///< -1/2 for a converter that truncates, else 0
  std::vector<model::InlPoint> inl_table{};  ///< by rising code, counted from the low end
};

/// The ends of the converter's range at the pin, V.
template <class P>
inline math::Interval ends(const ConverterLaw& law, const P& p) {
  const double ratio = p[law.attenuation], reference = p[law.reference];
  const double negative = p[law.negative_reference];  // some parameter, where there is none
  const double low = law.has_negative ? negative : law.low_factor * reference;
  const double at_pin = 1.0 / ratio;
  return {.low = low * at_pin, .high = law.high_factor * reference * at_pin};
}

// Codes of width 1 ± d instead of 1: their edges, and so the error, move by up to d/2; uniform
// within that, the variance of quantisation grows from 1/12 to (1 + d^2)/12.
template <class P>
inline double added_codes(const ConverterLaw& law, const P& p) {
  return p[law.offset] + p[law.inl] + p[law.dnl] / 2.0 + p[law.noise] + p[law.quantisation] +
         law.shift;
}

/// INL of a measured table at a code; 0 without one.
double measured_inl(const ConverterLaw& law, double code);

template <class P>
inline double without_table(const ConverterLaw& law, double volts, const P& p) {
  const auto range = ends(law, p);
  const double per_volt = law.codes / (range.high - range.low);
  const double ideal = (volts - range.low) * per_volt;
  return ideal + (ideal - law.code_zero) * p[law.gain] / law.codes + added_codes(law, p);
}

template <class P>
inline double forward(const ConverterLaw& law, double volts, const P& p) {
  const double plain = without_table(law, volts, p);
  if (law.inl_table.empty()) return plain;
  const auto range = ends(law, p);
  return plain + measured_inl(law, (volts - range.low) * law.codes / (range.high - range.low));
}

template <class P>
inline double inverse(const ConverterLaw& law, double code, const P& p) {
  const auto range = ends(law, p);
  const double grown = p[law.gain] / law.codes;
  const double ideal = (code - added_codes(law, p) + law.code_zero * grown) / (1.0 + grown);
  return range.low + ideal / law.codes * (range.high - range.low);
}

}  // namespace chain
}  // namespace tamlo
