// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/integer.hpp"

#include <algorithm>
#include <cmath>

#include "tamlo/chain/chain.hpp"

namespace tamlo::chain {
namespace {

using model::Operation;
__extension__ using Wide = __int128;  // holds every product of two words

Wide over(const model::IntegerStep& step, Wide value) {
  if (!step.round) return value / step.operand;
  const Wide divisor = step.operand;
  const Wide half = (divisor < 0 ? -divisor : divisor) / 2;
  return (value + (value < 0 ? -half : half)) / divisor;
}

Wide shifted(const model::IntegerStep& step, Wide value) {
  const bool half = step.round && step.operand > 0;
  return (value + (half ? Wide{1} << (step.operand - 1) : Wide{0})) >> step.operand;
}

Wide applied(const model::IntegerStep& step, Wide value) {
  switch (step.operation) {
    case Operation::multiply:
      return value * step.operand;
    case Operation::add:
      return value + step.operand;
    case Operation::divide:
      return over(step, value);
    case Operation::shift_right:
      return shifted(step, value);
    case Operation::clamp:
      return std::clamp<Wide>(value, step.operand, step.most);
  }
  return value;
}

// Two's complement of so many bits.
Wide wrapped(Wide value, int bits, bool is_signed) {
  const Wide size = Wide{1} << bits;
  const Wide low = value & (size - 1);
  return is_signed && low >= size / 2 ? low - size : low;
}

}  // namespace

IntegerResult evaluate(const model::IntegerScaling& scaling, std::int64_t code) {
  IntegerResult result;
  Wide value = wrapped(code, scaling.bits, scaling.is_signed);
  result.overflow = value != code;
  for (const auto& step : scaling.steps) {
    const Wide before = value, full = applied(step, before);
    value = wrapped(full, scaling.bits, scaling.is_signed);
    result.overflow = result.overflow || value != full;
    result.clamped = result.clamped || (step.operation == Operation::clamp && full != before);
  }
  result.value = static_cast<std::int64_t>(value);
  return result;
}

double exact(const model::IntegerScaling& scaling, double code) {
  double value = code;
  for (const auto& step : scaling.steps) {
    const auto operand = static_cast<double>(step.operand);
    switch (step.operation) {
      case Operation::multiply:
        value *= operand;
        break;
      case Operation::add:
        value += operand;
        break;
      case Operation::divide:
        value /= operand;
        break;
      case Operation::shift_right:
        value = std::ldexp(value, -static_cast<int>(step.operand));
        break;
      case Operation::clamp:
        value = std::clamp(value, operand, static_cast<double>(step.most));
        break;
    }
  }
  return value;
}

ArithmeticError arithmetic_error(const model::IntegerScaling& scaling, std::int64_t first,
                                 std::int64_t last) {
  ArithmeticError result;
  double sum = 0.0, lowest = 0.0, highest = 0.0;
  std::int64_t count = 0;
  for (auto code = first; code <= last; ++code) {
    const auto computed = evaluate(scaling, code);
    if (computed.overflow) {
      if (!result.first_overflow) result.first_overflow = code;
      continue;
    }
    const double error =
        static_cast<double>(computed.value) - exact(scaling, static_cast<double>(code));
    lowest = count == 0 ? error : std::min(lowest, error);
    highest = count == 0 ? error : std::max(highest, error);
    sum += error;
    ++count;
  }
  if (count == 0) return result;
  const double mean = sum / static_cast<double>(count);
  result.mean = mean * scaling.count;
  result.largest = std::max(highest - mean, mean - lowest) * scaling.count;
  result.worst = std::max(std::abs(lowest), std::abs(highest)) * scaling.count;
  return result;
}

}  // namespace tamlo::chain
