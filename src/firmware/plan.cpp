// SPDX-License-Identifier: Apache-2.0
#include "tamlo/firmware/plan.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>

#include "tamlo/chain/chain.hpp"
#include "tamlo/math/detail/power_of_ten.hpp"
#include "tamlo/quantity/format.hpp"
#include "writer.hpp"

namespace tamlo::firmware {
namespace {

constexpr std::int64_t tried = std::int64_t{1} << 20;     // numbers of which every one is tried
constexpr std::int64_t designed = std::int64_t{1} << 16;  // numbers that a curve is fitted to

// The reading that a number stands for, in counts.
class Ideal {
 public:
  Ideal(const chain::Chain& chain, double per_code, double count)
      : chain_(formula(chain)), per_code_(per_code), count_(count) {}
  double operator()(std::int64_t number) const { return at(static_cast<double>(number)); }
  double at(double number) const {
    if (line_) return line_->first + line_->second * number;
    const double reading = chain::reading(chain_, number / per_code_);
    return (reading - chain_.channel.span.unit.offset) / count_;
  }
  /// Goes on as the line through both ends, which costs less to follow.
  void take_line(std::int64_t first, std::int64_t last) {
    const double low = (*this)(first);
    const double slope = ((*this)(last)-low) / static_cast<double>(last - first);
    line_ = std::pair(low - slope * static_cast<double>(first), slope);
  }
  Wanted wanted(std::int64_t first, std::int64_t last, std::int64_t most) const {
    Wanted result{.first = first, .last = last, .stride = 1 + (last - first) / most};
    if (result.stride > 1)
      result.stride = std::int64_t{1}
                      << static_cast<int>(std::ceil(std::log2(static_cast<double>(result.stride))));
    for (auto number = first;; number = std::min(last, number + result.stride)) {
      result.counts.push_back((*this)(number));
      if (number == last) return result;
    }
  }

 private:
  chain::Chain chain_;
  double per_code_, count_;
  std::optional<std::pair<double, double>> line_{};  // counts at 0, and to a number
};

// Straight is what no place leaves the line through both ends by more than rounding.
bool is_straight(const Ideal& ideal, std::int64_t first, std::int64_t last) {
  const double low = ideal(first), high = ideal(last);
  if (!std::isfinite(low) || !std::isfinite(high)) return false;
  constexpr int places = 257;
  for (int i = 1; i < places; ++i) {
    const double number = std::lerp(static_cast<double>(first), static_cast<double>(last),
                                    static_cast<double>(i) / places);
    const double line = std::lerp(low, high, static_cast<double>(i) / places);
    if (!(std::abs(ideal.at(number) - line) <= 1e-9 * std::abs(high - low) + 1e-7)) return false;
  }
  return true;
}

// Numbers of the span and a little beyond: a curve may have no value further out.
std::pair<std::int64_t, std::int64_t> covered(const chain::Chain& chain, const Ideal& ideal,
                                              double per_code, double count) {
  const auto& span = chain.channel.span;
  const auto number_at = [&](double x) {
    const auto found = chain::register_value(chain, chain::code(chain, x, chain.nominal));
    return static_cast<double>(found) * per_code;
  };
  const double low = number_at(span.low), high = number_at(span.high);
  auto first = static_cast<std::int64_t>(std::floor(std::min(low, high)));
  auto last = static_cast<std::int64_t>(std::ceil(std::max(low, high)));
  const double beyond = 0.01 * span.width() / count;
  const double from = (span.low - span.unit.offset) / count - beyond;
  const double to = (span.high - span.unit.offset) / count + beyond;
  const auto holds = [&](std::int64_t number) {
    const double counts = ideal(number);
    return std::isfinite(counts) && counts >= from && counts <= to;
  };
  const auto lowest = static_cast<std::int64_t>(
      std::ceil(static_cast<double>(chain.report.first_reported) * per_code));
  const auto highest = static_cast<std::int64_t>(
      std::floor(static_cast<double>(chain.report.last_reported) * per_code));
  while (first > lowest && holds(first - 1)) --first;
  while (last < highest && holds(last + 1)) ++last;
  return {first, last};
}

// What the arithmetic may be off: a part of what the target allows, else half a code.
double allowed_by(const chain::Chain& chain, const PlanRequest& request) {
  if (request.error) return *request.error;
  const auto& span = chain.channel.span;
  const auto& accuracy = chain.channel.target.accuracy;
  if (!accuracy) return chain::code_width_at(chain, span.middle()) / 2.0;
  double allowed = chain::allowed_at(chain, *accuracy, span.middle());
  if (accuracy->basis == quantity::Basis::relative) {
    // Of the reading, which may be 0 in the middle: then what half of the larger end is allowed.
    if (allowed > 0.0) return request.of_target * allowed;
    return request.of_target / 2.0 *
           std::max(chain::allowed_at(chain, *accuracy, span.low),
                    chain::allowed_at(chain, *accuracy, span.high));
  }
  for (const double x : {span.low, span.high}) {
    allowed = std::min(allowed, chain::allowed_at(chain, *accuracy, x));
  }
  return request.of_target * allowed;
}

// The largest power of ten of the span's unit, of which two are allowed; it must fit in 32 bits.
double count_by(const chain::Chain& chain, double allowed) {
  const auto& span = chain.channel.span;
  const double unit = span.unit.scale();
  const double largest =
      std::max(std::abs(span.low - span.unit.offset), std::abs(span.high - span.unit.offset));
  double count = unit * math::power_of_ten(std::floor(std::log10(allowed / 2.0 / unit) + 1e-9));
  while (largest / count > 1e9) count *= 10.0;
  return count;
}

int operations_of(const Plan& plan) {
  const auto& arithmetic = plan.arithmetic;
  int result = 3 + (arithmetic.base != 0 ? 1 : 0);  // multiply, add, shift
  const auto bits = code_bits(plan);
  const auto values = plan.last_reported - plan.first_reported + 1;
  if (values != std::int64_t{1} << std::abs(bits)) ++result;  // what no register holds
  if (plan.first_reported != 0) ++result;
  if (plan.filter.per_code != 1.0) ++result;
  if (arithmetic.form != Form::straight) result += 3;  // both ends, and from the start of the piece
  if (arithmetic.form == Form::even_lines) ++result;
  if (arithmetic.form == Form::polynomial) {  // product, two for the shift, addition, of each power
    result += 4 * (static_cast<int>(arithmetic.coefficients.size()) - 2) + 1;
  }
  for (auto n = arithmetic.lines.size(); arithmetic.form == Form::lines && n > 1; n -= n / 2)
    result += 3;
  return result;
}

// What may be met between numbers of which only every so-many-th is tried. Of a straight one the
// line leaves the formula by a line, most at an end, and the shift drops less than one. A curve and
// its integers change by no more than the curve does from one that is tried to the next.
double between(const Arithmetic& arithmetic, const Wanted& numbers, double met) {
  if (numbers.stride == 1) return met;
  double result = met, change = 0.0;
  for (std::size_t i = 1; i < numbers.counts.size(); ++i) {
    change = std::max(change, std::abs(numbers.counts[i] - numbers.counts[i - 1]));
  }
  if (arithmetic.form != Form::straight) return met + change;
  const auto& line = arithmetic.lines.front();
  const double scale = std::ldexp(1.0, arithmetic.shift);
  for (const auto& [number, counts] : {std::pair{arithmetic.first, numbers.counts.front()},
                                       std::pair{arithmetic.last, numbers.counts.back()}}) {
    const double product =
        static_cast<double>(line.multiply) * static_cast<double>(number - line.from);
    const double exact =
        (product + static_cast<double>(line.add)) / scale + static_cast<double>(arithmetic.base);
    const double off = exact - counts;
    result = std::max({result, std::abs(off), std::abs(off - (1.0 - 1.0 / scale))});
  }
  return result;
}

// Every number, and every register value where one is no whole number of them.
void bound_of(Plan& plan, const Ideal& ideal) {
  const auto& arithmetic = plan.arithmetic;
  const double per_code = plan.filter.per_code;
  const auto numbers = ideal.wanted(arithmetic.first, arithmetic.last, tried);
  const auto met = worst(arithmetic, numbers);
  plan.bound = between(arithmetic, numbers, met.error) * plan.count;
  plan.bound_at = static_cast<double>(met.at) / per_code;
  if (per_code == std::floor(per_code)) return;
  for (auto code = plan.first_reported; code <= plan.last_reported; ++code) {
    const double number = static_cast<double>(code) * per_code;
    if (number < static_cast<double>(arithmetic.first) ||
        number > static_cast<double>(arithmetic.last))
      continue;
    const auto taken = static_cast<std::int64_t>(std::floor(number + 0.5));
    const double error =
        std::abs(static_cast<double>(arithmetic.evaluate(taken)) - ideal.at(number)) * plan.count;
    if (error <= plan.bound) continue;
    plan.bound = error;
    plan.bound_at = static_cast<double>(code);
  }
}

// Pieces, or a polynomial of fewer bytes.
Arithmetic cheaper(const Wanted& wanted, double allowed) {
  auto lines = pieces(wanted, allowed);
  const auto curve = polynomial(wanted, allowed);
  return curve && curve->table_bytes() < lines.table_bytes() ? *curve : lines;
}

Arithmetic arithmetic_of(const Ideal& ideal, std::int64_t first, std::int64_t last,
                         double allowed) {
  const auto all = ideal.wanted(first, last, tried);
  // Between the numbers that a long curve is fitted to it may leave the line by a little.
  double within = allowed;
  for (int attempt = 0; attempt < 8; ++attempt) {
    const auto sparse = ideal.wanted(first, last, designed);
    const auto result = cheaper(sparse, within);
    const double met = between(result, all, worst(result, all).error);
    if (met <= allowed + 1e-9) return result;
    within -= 1.5 * (met - allowed);
  }
  throw FirmwareError(fmt::format(
      "an arithmetic error of {:.3g} counts is not reached by lines between so many register "
      "values; allow more",
      allowed));
}

// Counts at which the firmware changes the zone; a threshold parts two.
void add_edges(Plan& plan, const model::Channel& channel) {
  auto zones = channel.zones;
  if (!zones && channel.threshold) {
    zones = model::Zones{.edges = {channel.threshold->at},
                         .hysteresis = channel.threshold->hysteresis,
                         .debounce = channel.threshold->debounce};
  }
  if (!zones) return;
  // A reading that is the edge, up to rounding, has reached it.
  const auto counts = [&](double x) {
    return static_cast<std::int64_t>(std::ceil((x - plan.unit.offset) / plan.count - 1e-6));
  };
  plan.debounce = zones->debounce;
  for (const double edge : zones->edges) {
    plan.edges_up.push_back(counts(edge));
    plan.edges_down.push_back(counts(edge - zones->hysteresis));
  }
}

// What a sound sensor can give, and what a broken one does.
void add_faults(Plan& plan, const chain::Chain& chain) {
  const auto& span = chain.channel.span;
  const auto reported = [&](double code) { return chain::register_value(chain, code); };
  const auto low = chain::worst_case(chain, span.low, chain::code);
  const auto high = chain::worst_case(chain, span.high, chain::code);
  plan.lowest_code = reported(std::min(low.low, high.low));
  plan.highest_code = reported(std::max(low.high, high.high));
  constexpr double open = 1e12;
  if (const auto code = chain::code_of_resistance(chain, open)) plan.open_code = reported(*code);
  if (const auto code = chain::code_of_resistance(chain, 0.0)) plan.shorted_code = reported(*code);
  auto without = chain.nominal;
  without[chain.conversion.reference] *= 1e-6;
  const auto at = [&](double x) { return reported(chain::code(chain, x, without)); };
  if (at(span.middle()) == at(span.high)) plan.no_reference_code = at(span.high);
}

}  // namespace

Plan plan(const chain::Chain& chain, const PlanRequest& request) {
  Plan result{.channel = chain.channel.name,
              .identifier = identifier_of(chain.channel.name),
              .unit = chain.channel.span.unit,
              .first_reported = chain.report.first_reported,
              .last_reported = chain.report.last_reported,
              .filter = integer_filter(chain),
              .allowed = allowed_by(chain, request),
              .corrected = chain.channel.correction && !chain.channel.correction->of_each_unit};
  if (const auto& tare = chain.channel.scaling.tare) {
    result.tared =
        fmt::format("{} {}", quantity::significant(*tare, result.unit, 6), result.unit.symbol);
  }
  require(result.allowed > 0.0 && std::isfinite(result.allowed), "an arithmetic error above 0");
  result.count = request.count ? *request.count : count_by(chain, result.allowed);
  require(result.count > 0.0 && std::isfinite(result.count), "a count above 0");
  const double per_code = result.filter.per_code;
  Ideal ideal(chain, per_code, result.count);
  const auto whole = [&](std::int64_t reported) {
    return static_cast<std::int64_t>(std::llround(static_cast<double>(reported) * per_code));
  };
  auto first = whole(result.first_reported), last = whole(result.last_reported);
  const double allowed = result.allowed / result.count;
  const auto too_fine = [&](double counts) { return std::abs(counts) >= 2147483647.0; };
  if (is_straight(ideal, first, last)) {
    if (too_fine(ideal(first)) || too_fine(ideal(last))) {
      throw FirmwareError("readings beyond 32 bits; take a larger count");
    }
    ideal.take_line(first, last);
    result.arithmetic = straight(ideal.wanted(first, last, tried), allowed);
  } else {
    std::tie(first, last) = covered(chain, ideal, per_code, result.count);
    if (too_fine(ideal(first)) || too_fine(ideal(last))) {
      throw FirmwareError("readings beyond 32 bits; take a larger count");
    }
    result.arithmetic = arithmetic_of(ideal, first, last, allowed);
  }
  bound_of(result, ideal);
  result.wrong_step = wrong_step(result.arithmetic);
  add_edges(result, chain.channel);
  add_faults(result, chain);
  result.operations = operations_of(result);
  const auto ends =
      std::minmax({result.arithmetic.evaluate(first), result.arithmetic.evaluate(last)});
  result.lowest = ends.first;
  result.highest = ends.second;
  if (result.arithmetic.form == Form::polynomial) {
    for (auto number = first; number <= last; ++number) {
      result.lowest = std::min(result.lowest, result.arithmetic.evaluate(number));
      result.highest = std::max(result.highest, result.arithmetic.evaluate(number));
    }
  }
  for (auto line = result.arithmetic.lines.begin(); line != result.arithmetic.lines.end(); ++line) {
    for (const auto at : {line->from, std::max(first, line->from - 1)}) {
      result.lowest = std::min(result.lowest, result.arithmetic.evaluate(at));
      result.highest = std::max(result.highest, result.arithmetic.evaluate(at));
    }
  }
  return result;
}

}  // namespace tamlo::firmware
