// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/firmware/arithmetic.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo::chain {
struct Chain;
}  // namespace tamlo::chain

/// Integer firmware of a channel, with its proven bound (docs/method.md, "Firmware arithmetic").
namespace tamlo {
namespace firmware TAMLO_API {

/// (b0 x + b1 x1 + b2 x2 - a1 y1 - a2 y2 + half) >> 28.
struct IntegerSection {
  std::int64_t b0 = 0, b1 = 0, b2 = 0, a1 = 0, a2 = 0;
};
constexpr int coefficient_shift = 28;

/// One stage of average or filter. Values are whole numbers of 0 or more, a register value times
/// the gain of all stages so far.
struct FilterStage {
  /// Kind of a stage of an integer filter.
  enum class Kind : std::uint8_t { sum, running_sum, cascade, exponential, median, section, taps };
  Kind kind = Kind::sum;
  std::string name{};  ///< as the board has it
  int length = 1;      ///< samples that are kept; of a cascade the decimation
  int order = 1;       ///< of a cascade
  int decimation = 1;
  std::int64_t weight = 1;  ///< of an exponential: weight / 2^weight_shift
  int weight_shift = 0;
  IntegerSection section{};
  std::vector<std::int64_t> taps{};
  int fraction = 0;         ///< bits that come behind the point here
  int reduce = 0;           ///< bits that are dropped, rounded, from what comes out
  bool keeps_rest = false;  ///< what a step drops comes into the next: fewer bits behind the point
  bool wide = false;        ///< of a sum: it needs a word of 64 bits
  bool keeps_sign = false;  ///< an undershoot below 0 goes on into the next stage
  bool holds_zero = false;  ///< what comes out below 0 becomes 0
  int in_bits = 0, out_bits = 0;
  double gain = 1.0;      ///< of this stage
  double rounding = 0.0;  ///< limit, in register values: what this stage rounds, as it comes out
  /// Limit, in register values: what coefficients in integers move a reading by while its input
  /// changes by as much as it can.
  double transient = 0.0;
};

/// A filter in integers, with its bound.
struct IntegerFilter {
  std::vector<FilterStage> stages{};
  double per_code = 1.0;   ///< numbers to a register value
  double rounding = 0.0;   ///< limit, in register values
  double transient = 0.0;  ///< limit, in register values, while the input changes
  int settling = 1;        ///< readings after a start until one is valid
  int decimation = 1;      ///< conversions to a reading
  int bits = 0;            ///< of the numbers that come out
};

/// The integers of a channel's average and filter. Sums are kept whole; recursive stages have as
/// many bits behind the point as it takes for what they round, dead zone and limit cycles included,
/// to stay below an eighth of a register value. Throws FirmwareError where a value does not fit in
/// 30 bits.
IntegerFilter integer_filter(const chain::Chain& chain);

/// Request for a plan: count, allowed error, word sizes.
struct PlanRequest {
  std::optional<double> count{};  ///< SI: of the quantity; else a power of ten by the target
  std::optional<double> error{};  ///< SI: what the arithmetic may be off
  double of_target = 0.1;         ///< else: this part of the accuracy that the target asks for
};

/// All that the code of one channel is made of.
struct Plan {
  std::string channel{};
  std::string identifier{};  ///< the channel's name, as C takes it
  quantity::Unit unit{};
  std::int64_t first_reported = 0, last_reported = 0;
  double count = 1.0;  ///< SI: what one count of the reading is worth
  Arithmetic arithmetic{};
  IntegerFilter filter{};
  double allowed = 0.0;         ///< SI, of the arithmetic
  double bound = 0.0;           ///< SI: the largest error of the arithmetic, proven
  double bound_at = 0.0;        ///< the register value where it is met
  std::int64_t wrong_step = 0;  ///< counts: the largest step against the quantity; 0: none
  int operations = 0;           ///< of NAME_reading: additions, products, shifts, comparisons
  std::int64_t lowest = 0, highest = 0;  ///< readings that can come up, in counts
  bool corrected = false;                ///< a calibration's correction is in the numbers
  /// Place of a tare that the budget counts, such as "0 N m": the code does not subtract it.
  std::optional<std::string> tared{};
  /// Register values that the span can give with every part at its limits.
  std::int64_t lowest_code = 0, highest_code = 0;
  /// Tells whether the span can give this register value.
  bool gives(std::int64_t code) const { return lowest_code <= code && code <= highest_code; }
  /// Register values of a resistive sensor that is open or shorted; none of another sensor.
  std::optional<std::int64_t> open_code{}, shorted_code{};
  /// Register value without the reference voltage, wherever the quantity is; none where it depends
  /// on the quantity, as of a sensor that the same reference feeds.
  std::optional<std::int64_t> no_reference_code{};
  std::vector<std::int64_t> edges_up{};    ///< counts from which on a zone is entered
  std::vector<std::int64_t> edges_down{};  ///< counts below which it is left again
  int debounce = 1;                        ///< readings in a row that must say it
};

/// Returns the integer arithmetic of a channel: filter, pieces of the scaling, counts, zones and
/// faults, in words of 16, 32 or 64 bits. `bound` is the largest error of the arithmetic alone over
/// all register values (SI), proven by trying them all up to 2^20, and `wrong_step` how far a
/// reading may step against the quantity. Throws FirmwareError where no integers keep what is
/// asked, with what they would keep.
///
///     const auto plan = tamlo::firmware::plan(chain, {});
///     const auto files = tamlo::firmware::c_code(plan, {});
Plan plan(const chain::Chain& chain, const PlanRequest& request);

/// Returns the chain that the integers must follow: the plain formula in place of any integers.
chain::Chain formula(chain::Chain chain);

/// The channel with these integers in place of its scaling.
model::Channel with_integers(model::Channel channel, const Plan& plan);

/// Bits of the smallest integer type that holds every register value; negative where it has a sign.
int code_bits(const Plan& plan);

}  // namespace firmware
}  // namespace tamlo
