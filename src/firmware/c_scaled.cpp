// SPDX-License-Identifier: Apache-2.0
// A number to counts of the reading, as C: a straight line, pieces of lines, a polynomial.
#include <cmath>

#include "writer.hpp"

namespace tamlo::firmware {
namespace {

void scaled_straight(Writer& to, const Plan& plan) {
  const auto& arithmetic = plan.arithmetic;
  const auto& line = arithmetic.lines.front();
  // An int may have 16 bits: the word is that of the product, not of the number.
  const auto word = unsigned_type(arithmetic.bits);
  const auto number = number_type(plan) == word ? "number" : fmt::format("({})number", word);
  const auto product = fmt::format("({} * {}u)", number, std::abs(line.multiply));
  auto sum = line.multiply < 0 ? fmt::format("({}u - {})", line.add, product)
             : line.add != 0   ? fmt::format("({} + {}u)", product, line.add)
                               : product;
  if (arithmetic.shift > 0) sum = fmt::format("{} >> {}", sum, arithmetic.shift);
  to.line("static int32_t {}_scaled({} number) {{", plan.identifier, number_type(plan));
  // Of a word of 16 bits C makes an int of its own.
  if (arithmetic.bits < 32) sum = fmt::format("({})({})", word, sum);
  to.line("const {} sum = {};", word, sum);
  to.line("return (int32_t)sum{};", added(arithmetic.base));
  to.line("}}");
}

// The number, held where the curve was fitted.
void hold_number(Writer& to, const Plan& plan, std::int64_t first, std::int64_t last) {
  hold(to, number_type(plan), "number", first > 0 ? std::optional(first) : std::nullopt, last);
}

// The last piece that begins at or before the number: half of what is left, again and again.
void find_piece(Writer& to, std::size_t pieces) {
  to.line("unsigned int piece = 0;");
  for (auto left = pieces; left > 1;) {
    const auto half = left / 2;
    to.line("piece += (held >= piece_from[piece + {}u]) ? {}u : 0u;", half, half);
    left -= half;
  }
}

void scaled_lines(Writer& to, const Plan& plan, std::int64_t first_number) {
  const auto& arithmetic = plan.arithmetic;
  const auto& name = plan.identifier;
  const auto type = number_type(plan);
  const bool even = arithmetic.form == Form::even_lines;
  std::vector<std::int64_t> from, slope, start;
  for (const auto& line : arithmetic.lines) {
    from.push_back(line.from - first_number);
    slope.push_back(line.multiply);
    start.push_back(line.add >> arithmetic.add_shift);
  }
  const bool single = slope.size() == 1;
  to.line("static int32_t {}_scaled({} number) {{", name, type);
  if (!single) {
    if (!even) table(to, unsigned_type(arithmetic.from_bits), "piece_from", from);
    table(to, fmt::format("int{}_t", arithmetic.multiply_bits), "piece_slope", slope);
    table(to, unsigned_type(arithmetic.add_bits), "piece_begins_at", start);
  }
  const auto first = arithmetic.first - first_number, last = arithmetic.last - first_number;
  hold_number(to, plan, first, last);
  if (single) {
    to.line("const {} along = {};", type,
            first > 0 ? fmt::format("({})(held - {}u)", type, first) : "held");
  } else if (even) {
    if (first > 0) to.line("held = ({})(held - {}u);", type, first);
    to.line("const unsigned int piece = (unsigned int)(held >> {});", arithmetic.even_shift);
    to.line("const {} along = ({})(held & {}u);", type, type,
            (std::int64_t{1} << arithmetic.even_shift) - 1);
  } else {
    find_piece(to, arithmetic.lines.size());
    to.line("const {} along = ({})(held - piece_from[piece]);", type, type);
  }
  const bool wide = arithmetic.bits == 64;
  const std::string word = wide ? "int64_t" : "int32_t", bare = "u" + word;
  const auto slopes = single ? fmt::format("{}", slope.front()) : "piece_slope[piece]";
  const auto starts = single ? fmt::format("{}u", start.front()) : "piece_begins_at[piece]";
  to.line("const {} product = ({}){} * ({})along;", word, word, slopes, word);
  const auto begin = arithmetic.add_shift > 0
                         ? fmt::format("(({}){} << {})", bare, starts, arithmetic.add_shift)
                         : starts;
  to.line("return (int32_t)((({})product + {}) >> {}){};", bare, begin, arithmetic.shift,
          added(arithmetic.base));
  to.line("}}");
}

void scaled_polynomial(Writer& to, const Plan& plan, std::int64_t first_number) {
  const auto& arithmetic = plan.arithmetic;
  const auto type = number_type(plan);
  const auto first = arithmetic.first - first_number, last = arithmetic.last - first_number;
  to.line("static int32_t {}_scaled({} number) {{", plan.identifier, type);
  to.line("int32_t sum = {};", arithmetic.coefficients.back());
  hold_number(to, plan, first, last);
  if (first > 0) to.line("held = ({})(held - {}u);", type, first);
  to.line("/* a shift of what may be negative, without one */");
  const std::uint32_t offset = std::uint32_t{1} << 31;
  for (auto c = arithmetic.coefficients.rbegin() + 1; c != arithmetic.coefficients.rend(); ++c) {
    to.line("{{");
    to.line("const int32_t product = sum * (int32_t)held;");
    to.line("sum = (int32_t)(((uint32_t)product + {:#x}u) >> {}) - {} + {};", offset,
            arithmetic.product_shift, offset >> arithmetic.product_shift, *c);
    to.line("}}");
  }
  const auto shifted = arithmetic.shift > 0
                           ? fmt::format("(int32_t)((uint32_t)sum >> {})", arithmetic.shift)
                           : "sum";
  to.line("return {}{};", shifted, added(arithmetic.base));
  to.line("}}");
}

}  // namespace

void scaled_function(Writer& to, const Plan& plan) {
  const auto first_number = static_cast<std::int64_t>(
      std::llround(static_cast<double>(plan.first_reported) * plan.filter.per_code));
  if (plan.arithmetic.form == Form::straight) {
    scaled_straight(to, plan);
  } else if (plan.arithmetic.form == Form::polynomial) {
    scaled_polynomial(to, plan, first_number);
  } else {
    scaled_lines(to, plan, first_number);
  }
}

}  // namespace tamlo::firmware
