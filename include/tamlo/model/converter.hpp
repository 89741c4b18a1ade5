// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/quantity/value.hpp"

/// Converters as plain data.
namespace tamlo {
namespace model TAMLO_API {

using quantity::Range;
using quantity::Value;

/// Place of the first code transition: at half a code width (the converter rounds) or at a whole
/// one (it truncates, and reads half a code width low on average).
enum class FirstTransition : std::uint8_t { half_code, full_code };

/// Numbering of the codes: from 0, or from -2^(N-1) where zero volts is in the middle.
enum class Coding : std::uint8_t { straight_binary, offset_binary, twos_complement };

/// A selectable attenuation inside the converter.
struct Attenuation {
  std::string name{};
  Value ratio{};
  Range usable{};              ///< V at the pin
  std::optional<Value> inl{};  ///< in place of the converter's
};

/// SourceInstrument clock over divider, within the limits of the converter. Hz.
struct Clock {
  double source = 0.0;
  int divider = 1;
  std::vector<int> dividers{};  ///< the ones that the hardware has; empty: every whole number
  std::optional<Range> limits{};
};

/// Architecture of a converter. A delta sigma converter gives filtered values at its own data rate.
enum class Architecture : std::uint8_t { sar, delta_sigma, other };

/// Format of the result register.
struct RegisterFormat {
  /// Operation on the code.
  enum class Kind : std::uint8_t {
    plain,       ///< the code itself, also right-aligned in a wider word
    shifted,     ///< left-aligned in a word of `bits`
    replicated,  ///< widened to `bits`, the high bits again in the low ones
    dropped,     ///< without the lowest `bits`
    divided,     ///< divided by a whole number, toward zero
    counts,      ///< re-scaled: `at_low` and `at_high` at the ends of the span, held in `range`
  };
  Kind kind = Kind::plain;
  int bits = 0;
  std::int64_t divisor = 1;
  std::int64_t at_low = 0, at_high = 0;
  std::int64_t least = 0, most = 0;
};

/// INL as it was measured at one code; straight between two points.
struct InlPoint {
  double code = 0.0;
  double inl = 0.0;  ///< LSB
};

/// An analog-to-digital converter.
struct Converter {
  std::string name{};
  int resolution = 0;  ///< bits
  Architecture architecture = Architecture::sar;
  std::string reference{};
  std::string negative_reference{};    ///< of the low end; none: the low end is 0 V
  std::optional<Range> input_range{};  ///< V, at the nominal reference; none: 0 to the reference
  Coding coding = Coding::straight_binary;
  FirstTransition first_transition = FirstTransition::half_code;
  Value offset{};  ///< relative limits are parts of the full-scale range
  Value gain{};    ///< error at full scale after the offset is removed
  Value inl{};
  Value total_error{};                ///< total unadjusted error, in place of the three above
  std::vector<InlPoint> inl_table{};  ///< as it was measured; `inl` is then its uncertainty
  Value dnl{};
  Value noise{};                       ///< input-referred, of one conversion
  Value leakage{};                     ///< A, into or out of the pin
  std::optional<Range> input_limit{};  ///< V; beyond it the part is damaged
  std::vector<Attenuation> attenuations{};
  std::optional<Clock> clock{};
  std::optional<double> conversion{};            ///< cycles, without the sampling
  std::optional<double> sampling_capacitor{};    ///< F
  double switch_resistance = 0.0;                ///< ohm
  std::optional<double> jitter{};                ///< s rms, of the sampling instant
  std::optional<double> max_rate{};              ///< conversions a second, all channels together
  std::optional<double> data_rate{};             ///< of a delta sigma converter
  int sinc_order = 3;                            ///< of its own filter
  std::vector<std::string> scan{};               ///< channels in their order; empty: as in the file
  std::vector<RegisterFormat> formats_before{};  ///< what the code goes through before `reporting`
  RegisterFormat reporting{};
  std::vector<std::string> defaults{};
};

std::string_view name(Architecture architecture);
std::string_view name(Coding coding);
std::string_view name(FirstTransition transition);

}  // namespace model
}  // namespace tamlo
