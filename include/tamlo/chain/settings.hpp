// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/quantity/unit.hpp"

/// Static figures of a channel. Its behaviour in time is in dynamics.hpp.
namespace tamlo {
namespace chain TAMLO_API {

struct Chain;

/// A place of the span, and what the converter and the firmware make of it nominally.
struct OperatingPoint {
  double at{};
  double voltage{};  ///< at the pin
  std::int64_t code{};
  std::int64_t reported{};  ///< what the firmware finds for the code
  bool clipped{};
  double reading{};
  double code_width{};          ///< of the converter, in the unit of the quantity
  double step{};                ///< the smallest step of the reading, which the reporting coarsens
  double convention_changes{};  ///< what the other count convention would add to the reading
};

/// Level of a current loop outside its measurement (NAMUR NE 43:2003): the measuring range ends at
/// 3.8 and 20.5 mA; at or below 3.6 and at or above 21 mA the transmitter reports a failure.
struct LoopLevel {
  const char* meaning{};
  double current{};  ///< A
  std::int64_t reported{};
  bool clipped{};
  double reading{};
};

/// The resistor beside a resistive sensor that makes its output move most over the span.
struct BiasResistor {
  double resistance{};        ///< ohm, as the board has it
  double best{};              ///< ohm
  double output_span{};       ///< V, as the board has it
  double best_output_span{};  ///< V
};

/// Static figures of a channel: range, code width, noise, operating points.
struct Settings {
  std::vector<std::string> signal_path{};  ///< parts between the quantity and the converter
  double source_resistance{};              ///< ohm that the pin sees at the middle of the span
  double full_scale_range{};               ///< V
  double code_width{};                     ///< V
  double range_used{};                     ///< part of the full-scale range that the span covers
  double codes_used{};                     ///< codes between the ends of the span
  std::int64_t last_code{};
  double noise_in_codes{};          ///< of one conversion, at the middle of the span
  double noise_after_average{};     ///< codes, of a reading, with its quantisation, same place
  std::optional<double> allowed{};  ///< by the target's accuracy, at the upper end of the span
  std::vector<OperatingPoint> operating_points{};  ///< low end, middle, high end
  std::vector<LoopLevel> loop{};                   ///< of a 4 to 20 mA loop
  std::optional<double> loop_left{};  ///< V left for the wires at 21 mA, of a loop's supply
  std::optional<BiasResistor> bias_resistor{};
  /// Largest difference of a reading of the firmware's integers from exact scaling, all codes.
  std::optional<double> arithmetic_error{};
};

/// Returns the static figures of a channel: input range and code width (V at the pin, SI at the
/// quantity), part of the range used, bits, noise in codes, and three operating points. Exact for
/// the nominal parts. Throws nothing for a chain that build() gave.
Settings settings(const Chain& chain);

/// The bias resistor of a resistive sensor, found by search; none where the channel has no such
/// divider. For a resistance that only rises or falls it is the geometric mean of those at the
/// ends.
std::optional<BiasResistor> bias_resistor(const Chain& chain);

/// Volts of the loop's supply that are left for the wires at 21 mA, after the transmitter's burden
/// and the shunts; none without a loop of known supply.
std::optional<double> loop_left(const Chain& chain);

/// The value after one stage of the chain.
struct Step {
  std::string stage{};
  double value{};
  quantity::Unit unit{};
};

/// The quantity `x` through every stage to the reading, nominally, one conversion.
struct Trace {
  double at{};  ///< the quantity
  std::vector<Step> steps{};
  std::int64_t code{};
  bool clipped{};
  double reading{};
  double error{};  ///< reading - at
};

/// Returns the value of the quantity `x` (SI) at each stage of the nominal chain, to code and
/// reading. Beyond the input range the code is that of the end, and `clipped` says so. Throws
/// ArgumentError for a quantity beyond ±1e150.
Trace trace(const Chain& chain, double x);

/// Quantities that give one register value, traced back through every stage, and its reading.
/// `reported` must occur (codes_reported_as).
struct InverseTrace {
  std::vector<Step> steps{};
  std::int64_t reported{};
  double reading{};
  double from, to;              ///< the quantities, nominally, that are reported so, from < to
  bool open_below, open_above;  ///< the first and the last code also hold all that clips to them
};

/// Returns the quantities (SI) that are, nominally, reported as one register value, and what the
/// firmware reads then. `reported` must be a value that occurs (codes_reported_as).
InverseTrace inverse_trace(const Chain& chain, std::int64_t reported);

}  // namespace chain
}  // namespace tamlo
