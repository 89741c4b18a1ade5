// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/detail/integer.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>
#include <random>
#include <vector>

#include "boards.hpp"
#include "tamlo/budget/budget.hpp"

namespace tamlo::chain {
namespace {

using model::IntegerScaling;
using model::Operation;

// The same arithmetic by the compiler's own integers, over all codes of 16 bits.
TEST(Integer, IsWhatTheMachineDoes) {
  const IntegerScaling wide{.steps = {{Operation::multiply, 15259},
                                      {Operation::add, 500},
                                      {Operation::divide, 1000},
                                      {Operation::add, -40}},
                            .bits = 32,
                            .is_signed = true};
  const IntegerScaling narrow{.steps = {{Operation::multiply, 3}, {Operation::shift_right, 1}},
                              .bits = 16,
                              .is_signed = false};
  const IntegerScaling small{.steps = {{Operation::multiply, 5}}, .bits = 16, .is_signed = true};
  for (std::int32_t code = 0; code <= 65535; ++code) {
    ASSERT_EQ(evaluate(wide, code).value, (code * 15259 + 500) / 1000 - 40);
    const auto product = static_cast<std::uint16_t>(3 * code);
    ASSERT_EQ(evaluate(narrow, code).value, product >> 1);
    ASSERT_EQ(evaluate(narrow, code).overflow, 3 * code > 65535) << code;
    if (code > 32767) continue;
    ASSERT_EQ(evaluate(small, code).value, static_cast<std::int16_t>(5 * code));
    ASSERT_EQ(evaluate(small, code).overflow, 5 * code > 32767) << code;
  }
  EXPECT_EQ(evaluate(wide, -1000).value, (-1000 * 15259 + 500) / 1000 - 40);    // toward zero
  EXPECT_EQ(evaluate({.steps = {{Operation::shift_right, 1}}}, -3).value, -2);  // downward
}

TEST(Integer, RoundsAndClamps) {
  const IntegerScaling rounded{
      .steps = {{.operation = Operation::divide, .operand = 10, .round = true}}};
  const IntegerScaling shifted{
      .steps = {{.operation = Operation::shift_right, .operand = 3, .round = true},
                {.operation = Operation::clamp, .operand = -20, .most = 1000}}};
  for (int code = -30000; code <= 30000; ++code) {
    const double tenth = code / 10.0;
    ASSERT_EQ(evaluate(rounded, code).value, std::llround(tenth)) << code;  // halves away from zero
    const auto eighth = static_cast<std::int64_t>(std::floor(code / 8.0 + 0.5));
    ASSERT_EQ(evaluate(shifted, code).value, std::clamp<std::int64_t>(eighth, -20, 1000)) << code;
  }
  EXPECT_EQ(exact(shifted, -1000.0), -20.0);
}

// The first code that overflows, for every word, against the compiler's own wide integers.
TEST(Integer, FirstOverflowOfEveryWord) {
  for (const int bits : {16, 32}) {
    for (const bool is_signed : {true, false}) {
      for (const std::int64_t factor : {3, 1000, 70000, 500000}) {
        const IntegerScaling scaling{.steps = {{Operation::multiply, factor}, {Operation::add, 7}},
                                     .bits = bits,
                                     .is_signed = is_signed};
        const std::int64_t most = (std::int64_t{1} << (is_signed ? bits - 1 : bits)) - 1;
        std::optional<std::int64_t> first;
        for (std::int64_t code = 0; code <= 65535 && !first; ++code) {
          if (code > most || code * factor > most || code * factor + 7 > most) first = code;
        }
        EXPECT_EQ(arithmetic_error(scaling, 0, 65535).first_overflow, first) << bits << factor;
      }
    }
  }
}

TEST(Integer, OverflowIsFoundAtItsFirstCode) {
  // 2^31 / 640000 = 3355.44...: code 3356 is the first beyond.
  const IntegerScaling scaling{.steps = {{Operation::multiply, 640000}, {Operation::divide, 40960}},
                               .bits = 32,
                               .is_signed = true,
                               .count = 1e-3};
  const auto error = arithmetic_error(scaling, 0, 4095);
  EXPECT_EQ(error.first_overflow, 3356);
  EXPECT_LE(error.worst, 1e-3);  // the error of the others is that of the division
  EXPECT_FALSE(arithmetic_error(scaling, 0, 3355).first_overflow);
}

// Steps drawn at random, up to the largest that a file takes: over all numbers, what each of them
// gives one by one.
IntegerScaling drawn_scaling(std::mt19937_64& random) {
  const auto below = [&](std::int64_t n) { return static_cast<std::int64_t>(random() % n); };
  const auto sized = [&](int bits) {  // of any size up to so many bits
    const auto size = below(std::int64_t{1} << (1 + below(bits)));
    return random() % 3 == 0 ? -size : size;
  };
  IntegerScaling result{.bits = std::array{8, 16, 31, 32, 48, 64}[random() % 6],
                        .is_signed = random() % 4 != 0};
  for (auto n = 1 + below(4); n > 0; --n) {
    model::IntegerStep step{.operation = static_cast<Operation>(random() % 7)};
    step.round = random() % 2 == 0;
    switch (step.operation) {
      case Operation::multiply:
      case Operation::add:
        step.operand = sized(40);
        break;
      case Operation::divide:
        step.operand = sized(20);
        if (step.operand == 0) step.operand = 7;
        break;
      case Operation::shift_right:
        step.operand = below(63);
        break;
      case Operation::clamp:
        step.operand = sized(30);
        step.most = step.operand + below(std::int64_t{1} << 30);
        break;
      case Operation::lines:
        for (std::int64_t from = sized(10); step.lines.size() < 3; from += 1 + below(2000)) {
          step.lines.push_back({.from = from, .multiply = sized(30), .add = sized(35)});
        }
        break;
      case Operation::polynomial:
        step.operand = below(32);
        for (int i = 0; i < 3; ++i) step.coefficients.push_back(sized(33));
        break;
    }
    result.steps.push_back(step);
  }
  return result;
}

TEST(Integer, TheErrorIsThatOfEveryNumber) {
  std::mt19937_64 random(20261127);
  int overflowed = 0, narrow = 0;
  for (int i = 0; i < 3000; ++i) {
    const auto scaling = drawn_scaling(random);
    constexpr std::int64_t first = -300, last = 700;
    std::optional<std::int64_t> first_overflow;
    std::vector<double> errors;
    for (auto code = first; code <= last; ++code) {
      const auto found = evaluate(scaling, code);
      if (found.overflow) {
        if (!first_overflow) first_overflow = code;
        continue;
      }
      errors.push_back(static_cast<double>(found.value) -
                       exact(scaling, static_cast<double>(code)));
    }
    const auto error = arithmetic_error(scaling, first, last);
    SCOPED_TRACE(::testing::Message() << "scaling " << i << ", bits " << scaling.bits);
    ASSERT_EQ(error.first_overflow, first_overflow);
    overflowed += first_overflow ? 1 : 0;
    if (errors.empty()) continue;
    narrow += scaling.bits <= 32 ? 1 : 0;
    double mean = 0.0, worst = 0.0, largest = 0.0;
    for (const double e : errors) mean += e / static_cast<double>(errors.size());
    for (const double e : errors) worst = std::max(worst, std::abs(e));
    for (const double e : errors) largest = std::max(largest, std::abs(e - mean));
    EXPECT_NEAR(error.mean, mean, 1e-9 * (1.0 + worst));
    EXPECT_DOUBLE_EQ(error.worst, worst);
    EXPECT_NEAR(error.largest, largest, 1e-9 * (1.0 + worst));
  }
  EXPECT_GT(overflowed, 500);
  EXPECT_GT(narrow, 1000);
}

// code * 2500 >> 12 drops a fraction that is uniform over 1024 places: -(1 - 1/1024) / 2 counts.
TEST(Integer, TruncationIsABiasOfHalfACount) {
  const IntegerScaling truncated{
      .steps = {{Operation::multiply, 2500}, {Operation::shift_right, 12}}, .count = 1e-3};
  const auto error = arithmetic_error(truncated, 0, 4095);
  EXPECT_NEAR(error.mean, -0.5e-3 * (1.0 - 1.0 / 1024), 1e-12);
  EXPECT_NEAR(error.worst, (1.0 - 1.0 / 1024) * 1e-3, 1e-12);

  auto board = testing::board({.span = "0..2.4 V"});
  board.channels.front().scaling.integer = truncated;
  const auto chain = build(board, "x");
  EXPECT_NEAR(bias(chain, 1.2), error.mean, 1e-12);
  EXPECT_DOUBLE_EQ(reading(chain, 3000), 1.831);  // 1831.05
  const auto budget = budget::evaluate(chain, {.at = {1.2}});
  const auto index = testing::source(chain, "firmware rounding");
  EXPECT_NEAR(budget.points.front().contributions[index].contribution,
              error.largest / std::sqrt(3.0), 1e-12);

  // Brute force: every code, the mean and the spread of what an ideal unit reads.
  double sum = 0.0, squares = 0.0;
  for (int k = 0; k < 4096; ++k) {
    const double e = reading(chain, k) - k * 2.5 / 4096;
    sum += e;
    squares += e * e;
  }
  EXPECT_NEAR(sum / 4096, bias(chain, 1.2), 1e-12);
  EXPECT_NEAR(std::sqrt(squares / 4096 - std::pow(sum / 4096, 2)) /
                  budget.points.front().contributions[index].contribution,
              1.0, 0.01);
}

}  // namespace
}  // namespace tamlo::chain
