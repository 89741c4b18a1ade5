// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>

#include "tamlo/export.hpp"

namespace tamlo::model {
struct IntegerScaling;
}  // namespace tamlo::model

/// Exact model of a firmware that scales in integers.
namespace tamlo {
namespace chain TAMLO_API {

/// Result of integer steps for one register value.
struct IntegerResult {
  std::int64_t value = 0;  ///< as the machine has it: wrapped where it overflowed
  bool overflow = false;   ///< some step went beyond the word
  bool clamped = false;    ///< some clamp held it
};

/// All steps on one register value, each result wrapped into the word.
IntegerResult evaluate(const model::IntegerScaling& scaling, std::int64_t code);
/// Evaluates the steps for a mean of register values, which becomes the nearest whole number of
/// `per_code` of it, halves upward. A mean beyond the word is held at its end, and counts as
/// overflow.
IntegerResult evaluate_mean(const model::IntegerScaling& scaling, double mean);

/// Evaluates the steps in real numbers: no rounding, no overflow. Lines that do not join run
/// through the middle of each gap, so that the result has no jumps.
double exact(const model::IntegerScaling& scaling, double code);

/// Error of the integer arithmetic over all codes against exact scaling, in SI of the reading.
/// Codes that overflow are listed, and not part of the error.
struct ArithmeticError {
  double mean = 0.0;                           ///< a bias
  double largest = 0.0;                        ///< the largest distance from the mean, either way
  double worst = 0.0;                          ///< the largest error itself
  std::optional<std::int64_t> first_overflow;  ///< the lowest code that overflows
};

/// Over the register values `first`..`last`, `per_code` numbers to each: exhaustive up to 2^22
/// numbers, fewer of many or costly steps; of more every so-many-th. The lowest overflow is that of
/// those tried.
ArithmeticError arithmetic_error(const model::IntegerScaling& scaling, std::int64_t first,
                                 std::int64_t last);

}  // namespace chain
}  // namespace tamlo
