// SPDX-License-Identifier: Apache-2.0
#include "tamlo/firmware/arithmetic.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "tamlo/names.hpp"

namespace tamlo::firmware {
namespace {

struct Powers {
  std::int64_t sum = 0, widest = 0;
};
Powers powers(const Arithmetic& arithmetic, std::int64_t x) {
  Powers result{.sum = arithmetic.coefficients.back()};
  for (auto c = arithmetic.coefficients.rbegin() + 1; c != arithmetic.coefficients.rend(); ++c) {
    const auto product = result.sum * x;
    result.widest = std::max(result.widest, std::abs(product));
    result.sum = (product >> arithmetic.product_shift) + *c;
  }
  result.widest = std::max(result.widest, std::abs(result.sum));
  return result;
}

}  // namespace

std::string_view name(Form form) {
  return name_in({"straight", "lines", "even lines", "polynomial"}, form);
}

int Arithmetic::table_bytes() const {
  if (form == Form::straight) return 0;
  if (form == Form::polynomial) {
    int bytes = 0;  // of constants, which stand in the code in place of a table
    for (const auto c : coefficients) bytes += std::abs(c) < 32768 ? 2 : 4;
    return bytes;
  }
  return static_cast<int>(lines.size()) * (multiply_bits + add_bits + from_bits) / 8;
}

std::int64_t Arithmetic::widest(std::int64_t stride) const {
  std::int64_t result = 0;
  if (form == Form::polynomial) {
    for (auto number = first; number <= last; number += stride) {
      result = std::max(result, powers(*this, number - first).widest);
    }
  }
  for (std::size_t i = 0; i < lines.size(); ++i) {
    const auto& line = lines[i];
    const auto end = i + 1 < lines.size() ? lines[i + 1].from - 1 : last;
    const auto product = line.multiply * (end - line.from);
    result = std::max({result, std::abs(product), line.add, product + line.add});
  }
  return result;
}

std::int64_t Arithmetic::evaluate(std::int64_t number) const {
  number = std::clamp(number, first, last);
  if (form == Form::polynomial) return (powers(*this, number - first).sum >> shift) + base;
  const auto above =
      std::ranges::upper_bound(lines, number, {}, &model::IntegerLine::from) - lines.begin();
  const auto& line = lines[static_cast<std::size_t>(std::max<std::ptrdiff_t>(1, above) - 1)];
  return ((line.multiply * (number - line.from) + line.add) >> shift) + base;
}

std::int64_t wrong_step(const Arithmetic& arithmetic) {
  const bool rises = arithmetic.evaluate(arithmetic.last) >= arithmetic.evaluate(arithmetic.first);
  std::int64_t result = 0;
  const auto take = [&](std::int64_t from, std::int64_t to) {
    const auto step = arithmetic.evaluate(to) - arithmetic.evaluate(from);
    result = std::max(result, rises ? -step : step);
  };
  if (arithmetic.form == Form::polynomial) {
    for (auto number = arithmetic.first; number < arithmetic.last; ++number)
      take(number, number + 1);
  }
  for (std::size_t i = 0; i < arithmetic.lines.size(); ++i) {
    const bool is_last = i + 1 == arithmetic.lines.size();
    const auto end = is_last ? arithmetic.last : arithmetic.lines[i + 1].from;
    const auto from = std::max(arithmetic.first, arithmetic.lines[i].from);
    take(from, std::max(from, is_last ? end : end - 1));
    if (!is_last) take(end - 1, end);
  }
  return result;
}

std::vector<model::IntegerStep> steps(const Arithmetic& arithmetic) {
  using model::Operation;
  std::vector<model::IntegerStep> result;
  const auto step = [&](Operation operation, std::int64_t operand) {
    if (operand == 0) return;
    result.push_back({.operation = operation, .operand = operand});
  };
  if (arithmetic.form == Form::straight) {
    const auto& line = arithmetic.lines.front();
    step(Operation::add, -arithmetic.first);
    result.push_back({.operation = Operation::multiply, .operand = line.multiply});
    step(Operation::add, line.add);
  } else if (arithmetic.form == Form::polynomial) {
    result.push_back(
        {.operation = Operation::clamp, .operand = arithmetic.first, .most = arithmetic.last});
    step(Operation::add, -arithmetic.first);
    result.push_back({.operation = Operation::polynomial,
                      .operand = arithmetic.product_shift,
                      .coefficients = arithmetic.coefficients});
  } else {
    result.push_back(
        {.operation = Operation::clamp, .operand = arithmetic.first, .most = arithmetic.last});
    result.push_back({.operation = Operation::lines, .lines = arithmetic.lines});
  }
  step(Operation::shift_right, arithmetic.shift);
  step(Operation::add, arithmetic.base);
  return result;
}

std::string added(std::int64_t base) {
  return base != 0 ? fmt::format(" {} {}", base < 0 ? '-' : '+', std::abs(base)) : "";
}

std::string in_words(const Arithmetic& arithmetic) {
  if (arithmetic.form == Form::polynomial) {
    const auto text = fmt::format("a polynomial of degree {}", arithmetic.coefficients.size() - 1);
    return arithmetic.shift > 0 || arithmetic.base != 0
               ? fmt::format("({} >> {}){}", text, arithmetic.shift, added(arithmetic.base))
               : text;
  }
  if (arithmetic.form != Form::straight) {
    const auto found =
        arithmetic.form == Form::lines
            ? std::string("found by search")
            : fmt::format("of {} numbers each", std::int64_t{1} << arithmetic.even_shift);
    return fmt::format("{} straight lines around the curve, {}: ((slope * along + start) >> {}){}",
                       arithmetic.lines.size(), found, arithmetic.shift, added(arithmetic.base));
  }
  const auto& line = arithmetic.lines.front();
  auto text = fmt::format("number * {}{}", line.multiply, added(line.add));
  if (arithmetic.shift > 0) text = fmt::format("({}) >> {}", text, arithmetic.shift);
  return arithmetic.base != 0 ? fmt::format("({}){}", text, added(arithmetic.base)) : text;
}

Worst worst(const Arithmetic& arithmetic, const Wanted& wanted) {
  Worst result{.error = -1.0};
  for (std::size_t i = 0; i < wanted.counts.size(); ++i) {
    const auto number =
        std::min(wanted.first + static_cast<std::int64_t>(i) * wanted.stride, wanted.last);
    const double error =
        std::abs(static_cast<double>(arithmetic.evaluate(number)) - wanted.counts[i]);
    if (error > result.error) result = {.error = error, .at = number};
  }
  return result;
}

}  // namespace tamlo::firmware
