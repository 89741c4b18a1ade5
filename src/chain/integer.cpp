// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/integer.hpp"

#include <algorithm>
#include <cmath>

#include "tamlo/chain/chain.hpp"

namespace tamlo::chain {
namespace {

using model::Operation;
__extension__ using Wide = __int128;  // holds every product of two words

// Whether 64 bits hold all that comes up between two words as well, and faster.
bool fits_in_64(const model::IntegerScaling& scaling) {
  if (scaling.bits > 32) return false;
  const auto below = [](std::int64_t number, int bits) {
    return std::abs(static_cast<double>(number)) < std::ldexp(1.0, bits);
  };
  return std::ranges::all_of(scaling.steps, [&](const model::IntegerStep& step) {
    switch (step.operation) {
      case Operation::multiply:
        return below(step.operand, 29);
      case Operation::lines:
        return std::ranges::all_of(step.lines, [&](const model::IntegerLine& line) {
          return below(line.multiply, 27) && below(line.from, 33) && below(line.add, 61);
        });
      case Operation::polynomial:  // of sums below 2^31 + 2^30
        return (scaling.is_signed || scaling.bits < 32) &&
               std::ranges::all_of(step.coefficients, [&](std::int64_t c) { return below(c, 30); });
      default:
        return below(step.operand, 61);
    }
  });
}

std::size_t line_at(const std::vector<model::IntegerLine>& lines, double value) {
  const auto above = std::ranges::upper_bound(
      lines, value, {}, [](const auto& line) { return static_cast<double>(line.from); });
  return static_cast<std::size_t>(std::max<std::ptrdiff_t>(1, above - lines.begin()) - 1);
}

template <class Word>
Word over(const model::IntegerStep& step, Word value) {
  if (!step.round) return value / step.operand;
  const Word divisor = step.operand;
  const Word half = (divisor < 0 ? -divisor : divisor) / 2;
  return (value + (value < 0 ? -half : half)) / divisor;
}

template <class Word>
Word shifted(const model::IntegerStep& step, Word value) {
  const bool half = step.round && step.operand > 0;
  return (value + (half ? Word{1} << (step.operand - 1) : Word{0})) >> step.operand;
}

// Its products are as wide as the word, or it has overflowed: then the result is beyond any word.
template <class Word>
Word polynomial(const model::IntegerStep& step, Word value, int bits) {
  Word sum = step.coefficients.back();
  for (auto c = step.coefficients.rbegin() + 1; c != step.coefficients.rend(); ++c) {
    const Word product = sum * value;
    if ((product < 0 ? -product : product) >> (bits - 1) != 0)
      return Word{1} << (8 * sizeof(Word) - 4);
    sum = (product >> step.operand) + *c;
  }
  return sum;
}

template <class Word>
Word applied(const model::IntegerStep& step, Word value, int bits) {
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
      return std::clamp<Word>(value, step.operand, step.most);
    case Operation::lines: {
      const auto& line = step.lines[line_at(step.lines, static_cast<double>(value))];
      return line.multiply * (value - line.from) + line.add;
    }
    case Operation::polynomial:
      return polynomial(step, value, bits);
  }
  return value;
}

// Lines that meet in the middle of the gap between two of them: a point for each meeting.
double joined(const std::vector<model::IntegerLine>& lines, double value) {
  const auto on = [&](std::size_t i, double at) {
    return static_cast<double>(lines[i].multiply) * (at - static_cast<double>(lines[i].from)) +
           static_cast<double>(lines[i].add);
  };
  const auto meets_at = [&](std::size_t i) { return static_cast<double>(lines[i].from) - 0.5; };
  const auto height = [&](std::size_t i) {
    return (on(i - 1, meets_at(i)) + on(i, meets_at(i))) / 2.0;
  };
  const auto i = line_at(lines, value + 0.5);
  const bool first = i == 0, last = i + 1 == lines.size();
  if (first && last) return on(0, value);
  const auto slope = static_cast<double>(lines[i].multiply);
  if (first) return height(1) + slope * (value - meets_at(1));
  if (last) return height(i) + slope * (value - meets_at(i));
  const double along = (value - meets_at(i)) / (meets_at(i + 1) - meets_at(i));
  return std::lerp(height(i), height(i + 1), along);
}

// Two's complement of so many bits.
template <class Word>
Word wrapped(Word value, int bits, bool is_signed) {
  const Word size = Word{1} << bits;
  const Word low = value & (size - 1);
  return is_signed && low >= size / 2 ? low - size : low;
}

// All steps on a number that they take.
template <class Word>
IntegerResult stepped_in(const model::IntegerScaling& scaling, std::int64_t number) {
  IntegerResult result;
  Word value = wrapped<Word>(number, scaling.bits, scaling.is_signed);
  result.overflow = value != number;
  for (const auto& step : scaling.steps) {
    const Word before = value, full = applied(step, before, scaling.bits);
    value = wrapped(full, scaling.bits, scaling.is_signed);
    result.overflow = result.overflow || value != full;
    result.clamped = result.clamped || (step.operation == Operation::clamp && full != before);
  }
  result.value = static_cast<std::int64_t>(value);
  return result;
}

IntegerResult stepped(const model::IntegerScaling& scaling, std::int64_t number) {
  return stepped_in<Wide>(scaling, number);
}

// value / 2^bits, of up to 63 bits.
double halved(double value, std::int64_t bits) {
  return value / static_cast<double>(std::uint64_t{1} << bits);
}

}  // namespace

IntegerResult evaluate(const model::IntegerScaling& scaling, std::int64_t code) {
  if (scaling.per_code == 1.0) return stepped(scaling, code);
  return evaluate_mean(scaling, static_cast<double>(code));
}

IntegerResult evaluate_mean(const model::IntegerScaling& scaling, double mean) {
  // A mean of whole numbers is a multiple of a fraction, up to rounding.
  const double number = std::floor(mean * scaling.per_code + (0.5 + 1e-9));
  constexpr double most = 4611686018427387904.0;  // 2^62
  auto result = stepped(scaling, static_cast<std::int64_t>(std::clamp(number, -most, most)));
  result.overflow = result.overflow || std::abs(number) > most;
  return result;
}

double exact(const model::IntegerScaling& scaling, double code) {
  double value = code * scaling.per_code;
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
        value = halved(value, step.operand);
        break;
      case Operation::clamp:
        value = std::clamp(value, operand, static_cast<double>(step.most));
        break;
      case Operation::lines:
        value = joined(step.lines, value);
        break;
      case Operation::polynomial: {
        double sum = static_cast<double>(step.coefficients.back());
        for (auto c = step.coefficients.rbegin() + 1; c != step.coefficients.rend(); ++c) {
          sum = halved(sum * value, step.operand) + static_cast<double>(*c);
        }
        value = sum;
        break;
      }
    }
  }
  return value;
}

ArithmeticError arithmetic_error(const model::IntegerScaling& scaling, std::int64_t first,
                                 std::int64_t last) {
  ArithmeticError result;
  const auto from =
      static_cast<std::int64_t>(std::ceil(static_cast<double>(first) * scaling.per_code - 1e-9));
  const auto to =
      static_cast<std::int64_t>(std::floor(static_cast<double>(last) * scaling.per_code + 1e-9));
  // As many numbers as make 2^24 operations.
  std::int64_t operations = 4;
  for (const auto& step : scaling.steps) operations += 16 * std::ssize(step.coefficients);
  operations = std::max(operations, std::ssize(scaling.steps));
  const bool narrow = fits_in_64(scaling);
  const auto most = (std::int64_t{1} << (narrow ? 24U : 23U)) / operations;
  const std::int64_t stride = to - from < most ? 1 : ((to - from) / most) | 1;
  double sum = 0.0, lowest = 0.0, highest = 0.0;
  std::int64_t count = 0;
  const auto run = narrow ? stepped_in<std::int64_t> : stepped_in<Wide>;
  for (auto number = from; number <= to; number += stride) {
    const auto computed = run(scaling, number);
    const double code = static_cast<double>(number) / scaling.per_code;
    if (computed.overflow) {
      if (!result.first_overflow) {
        result.first_overflow = static_cast<std::int64_t>(std::floor(code));
      }
      continue;
    }
    const double error = static_cast<double>(computed.value) - exact(scaling, code);
    if (!std::isfinite(error)) continue;  // what has no exact value is no reading
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
