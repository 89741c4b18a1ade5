// SPDX-License-Identifier: Apache-2.0
// A formula of readings as C in single precision, and how far its arithmetic may be off.
#include "tamlo/firmware/quantity_code.hpp"

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <cmath>
#include <functional>
#include <map>
#include <numbers>

#include "tamlo/math/detail/expression.hpp"
#include "tamlo/quantity/format.hpp"
#include "tamlo/quantity/notation.hpp"
#include "writer.hpp"

namespace tamlo::firmware {
namespace {

// Half a unit of the last place of a single, and what is lost where there is no smaller one.
constexpr double half_place = 0x1p-24, smallest = 0x1p-126;

// A part of a formula: its C, the interval of its exact value, the most that the code is off, and
// its value at some places, by which it is held against the formula itself.
struct Part {
  std::string text{};
  double low = 0.0, high = 0.0, error = 0.0;
  std::array<double, 4> at{};
  int operations = 0;
  double size() const { return std::max(std::abs(low), std::abs(high)); }
};

// What an operation adds to the error that its operands bring.
Part rounded(Part part) {
  part.error += half_place * (part.size() + part.error) + smallest;
  if (!(part.size() + part.error < 1e37)) throw FirmwareError("a value above those of a float");
  ++part.operations;
  return part;
}

Part constant(double value) {
  auto digits = fmt::format("{:.9g}", std::abs(value));
  if (digits.find_first_of(".e") == std::string::npos) digits += ".0";
  return {.text = fmt::format("{}{}f", std::signbit(value) ? "-" : "", digits),
          .low = value,
          .high = value,
          .error = half_place * std::abs(value),
          .at = {value, value, value, value}};
}

Part joined(const Part& a, const char* sign, const Part& b, double (*of)(double, double)) {
  const auto ends = {of(a.low, b.low), of(a.low, b.high), of(a.high, b.low), of(a.high, b.high)};
  Part result{.text = fmt::format("({} {} {})", a.text, sign, b.text),
              .low = std::min(ends),
              .high = std::max(ends),
              .operations = a.operations + b.operations};
  for (std::size_t i = 0; i < result.at.size(); ++i) result.at[i] = of(a.at[i], b.at[i]);
  return result;
}

Part sum(const Part& a, const Part& b) {
  auto result = joined(a, "+", b, [](double x, double y) { return x + y; });
  result.error = a.error + b.error;
  return rounded(result);
}

Part difference(const Part& a, const Part& b) {
  auto result = joined(a, "-", b, [](double x, double y) { return x - y; });
  result.error = a.error + b.error;
  return rounded(result);
}

Part product(const Part& a, const Part& b) {
  auto result = joined(a, "*", b, [](double x, double y) { return x * y; });
  result.error = a.size() * b.error + b.size() * a.error + a.error * b.error;
  return rounded(result);
}

Part quotient(const Part& a, const Part& b) {
  const double least = b.low * b.high > 0.0 ? std::min(std::abs(b.low), std::abs(b.high)) : 0.0;
  if (!(least > b.error)) {
    throw FirmwareError("its divisor may come to 0 within the spans of its channels");
  }
  auto result = joined(a, "/", b, [](double x, double y) { return x / y; });
  result.error = (a.error + result.size() * b.error) / (least - b.error);
  return rounded(result);
}

Part called(const std::string& name, const Part& a, double (*of)(double)) {
  auto result = a;
  result.text = fmt::format("{}({})", name, a.text);
  for (auto& value : result.at) value = of(value);
  return result;
}

Part root(const std::string& prefix, const Part& a) {
  if (a.low < 0.0)
    throw FirmwareError("the root of what may come below 0 within the spans of its channels");
  // What rounding brings below 0 is held there.
  const bool held = a.low <= a.error;
  auto result = called("sqrtf", a, [](double x) { return std::sqrt(x); });
  if (held) result.text = fmt::format("sqrtf({}_larger(0.0f, {}))", prefix, a.text);
  result.low = std::sqrt(a.low), result.high = std::sqrt(a.high);
  result.error = held ? std::sqrt(a.error) : a.error / std::sqrt(a.low - a.error);
  return rounded(result);
}

Part magnitude(const std::string& prefix, const Part& a) {
  auto result = called(prefix + "_magnitude", a, [](double x) { return std::abs(x); });
  result.low = a.low <= 0.0 && a.high >= 0.0 ? 0.0 : std::min(std::abs(a.low), std::abs(a.high));
  result.high = a.size();
  ++result.operations;
  return result;
}

Part extreme(const std::string& name, const Part& a, const Part& b, double (*of)(double, double)) {
  auto result = joined(a, ",", b, of);
  result.text = fmt::format("{}({}, {})", name, a.text, b.text);
  result.error = std::max(a.error, b.error);
  ++result.operations;
  return result;
}

// Reads a formula by descent: sums of products of powers.
class Reader {
 public:
  Reader(const std::string& text, std::string prefix, std::map<std::string, Part> names)
      : text_(text), prefix_(std::move(prefix)), names_(std::move(names)) {}
  Part read() {
    auto result = sum_of_terms();
    if (here() != '\0') refuse();
    return result;
  }

 private:
  const std::string& text_;
  std::string prefix_;
  std::map<std::string, Part> names_;
  std::size_t at_ = 0;
  int depth_ = 0;

  char here() {
    while (at_ < text_.size() && std::isspace(static_cast<unsigned char>(text_[at_])) != 0) ++at_;
    return at_ < text_.size() ? text_[at_] : '\0';
  }
  bool take(char sign) {
    if (here() != sign) return false;
    ++at_;
    return true;
  }
  [[noreturn]] void refuse() const {
    throw FirmwareError(fmt::format("\"{}\" at character {} has no code here",
                                    text_.substr(at_, text_.find_first_of(" (", at_) - at_),
                                    at_ + 1));
  }

  Part sum_of_terms() {
    constexpr int deepest = 100;
    if (++depth_ > deepest) refuse();
    auto result = term();
    for (;;) {
      if (take('+')) {
        result = sum(result, term());
      } else if (take('-')) {
        result = difference(result, term());
      } else {
        --depth_;
        return result;
      }
    }
  }
  Part term() {
    auto result = factor();
    for (;;) {
      if (take('*')) {
        result = product(result, factor());
      } else if (take('/')) {
        result = quotient(result, factor());
      } else {
        return result;
      }
    }
  }
  Part factor() {
    if (take('-')) {
      auto result = factor();
      result.text = fmt::format("(-{})", result.text);
      result.low = -std::exchange(result.high, -result.low);
      for (auto& value : result.at) value = -value;
      return result;
    }
    if (take('+')) return factor();
    return power();
  }
  Part power() {
    const auto base = primary();
    if (!take('^')) return base;
    const auto exponent = factor();
    constexpr double largest = 8.0;
    const double n = exponent.low;
    if (exponent.high != n || n != std::floor(n) || n < 1.0 || n > largest)
      throw FirmwareError("an exponent that is no whole number from 1 to 8");
    auto result = base;
    for (double i = 1.0; i < n; ++i) result = product(result, base);
    return result;
  }
  Part primary() {
    if (take('(')) {
      auto result = sum_of_terms();
      if (!take(')')) refuse();
      return result;
    }
    const char first = here();
    if (std::isdigit(static_cast<unsigned char>(first)) != 0 || first == '.') return number();
    const auto begin = at_;
    while (std::isalnum(static_cast<unsigned char>(text_[at_])) != 0 || text_[at_] == '_') ++at_;
    const auto name = text_.substr(begin, at_ - begin);
    if (const auto found = names_.find(name); found != names_.end()) return found->second;
    const auto after = at_;
    at_ = begin;
    if (name.empty()) refuse();
    const bool of_one = name == "abs" || name == "sqrt", of_some = name == "min" || name == "max";
    if (!of_one && !of_some) refuse();
    at_ = after;
    if (!take('(')) refuse();
    auto result = sum_of_terms();
    while (of_some && take(',')) {
      result = name == "min" ? extreme(prefix_ + "_smaller", result, sum_of_terms(),
                                       [](double x, double y) { return std::min(x, y); })
                             : extreme(prefix_ + "_larger", result, sum_of_terms(),
                                       [](double x, double y) { return std::max(x, y); });
    }
    if (!take(')')) refuse();
    if (of_some) return result;
    return name == "abs" ? magnitude(prefix_, result) : root(prefix_, result);
  }
  Part number() {
    double value = 0.0;
    const auto [end, error] =
        std::from_chars(text_.data() + at_, text_.data() + text_.size(), value);
    if (error != std::errc{}) refuse();
    at_ = static_cast<std::size_t>(end - text_.data());
    return constant(value);
  }
};

// The reading of a channel in SI, from its counts.
Part reading_of(const Plan& plan, const model::Channel& channel) {
  const auto& span = channel.span;
  const double count = plan.count, offset = span.unit.offset;
  Part counts{.text = fmt::format("(float){}", plan.identifier),
              .low = (span.low - offset) / count,
              .high = (span.high - offset) / count};
  if (counts.size() >= 0x1p24) counts.error = half_place * counts.size();
  for (std::size_t i = 0; i < counts.at.size(); ++i)
    counts.at[i] = std::lerp(counts.low, counts.high, 0.13 + 0.27 * static_cast<double>(i));
  // A quotient of two whole numbers is the nearest float.
  const double counts_of_one = std::round(1.0 / count);
  const bool whole = counts_of_one < 0x1p24 && std::abs(counts_of_one * count - 1.0) < 1e-12;
  auto divisor = constant(whole ? counts_of_one : count);
  if (whole) divisor.error = 0.0;
  const auto value = whole ? quotient(counts, divisor) : product(counts, divisor);
  return offset == 0.0 ? value : sum(value, constant(offset));
}

Part in_unit(const Part& value, const quantity::Unit& unit) {
  auto result = unit.offset == 0.0 ? value : difference(value, constant(unit.offset));
  return unit.scale() == 1.0 ? result : quotient(result, constant(unit.scale()));
}

// The functions that the text calls.
void helpers(Writer& to, const std::string& prefix, const std::string& text) {
  const auto helper = [&](const char* name, const char* parameters, const char* gives) {
    if (text.find(prefix + name) == std::string::npos) return;
    to.line("static float {}{}({}) {{", prefix, name, parameters);
    to.line("return {};", gives);
    to.line("}}");
    to.line("");
  };
  helper("_smaller", "float a, float b", "(a < b) ? a : b");
  helper("_larger", "float a, float b", "(a > b) ? a : b");
  helper("_magnitude", "float a", "(a < 0.0f) ? -a : a");
}

std::string declaration(const QuantityPlan& plan) {
  std::string parameters;
  for (const auto& name : plan.channels)
    parameters += (parameters.empty() ? "int32_t " : ", int32_t ") + identifier_of(name);
  return fmt::format("float {}_value({})", plan.identifier, parameters);
}

void comment(Writer& to, const QuantityPlan& plan, const CodeOptions& options) {
  const auto difference_unit = quantity::difference_unit(plan.unit);
  to.line("/* {} = {}", said(plan.quantity), said(plan.expression));
  to.line(" * Made by {} from a description whose hash is {}; make it again rather than edit it.",
          options.made_by, options.description);
  to.line(" *");
  to.line(" * readings              in the counts of NAME_reading of each channel");
  to.line(" * error of arithmetic   at most {} {}, while each reading lies in its span",
          quantity::significant(quantity::rounded_up(plan.bound, difference_unit, 3),
                                difference_unit, 3),
          said(difference_unit.symbol));
  to.line(" * operations            {} in single precision", plan.operations);
  to.line(" */");
}

}  // namespace

QuantityPlan plan(const model::Board& board, const model::Quantity& quantity,
                  const std::vector<Plan>& plans) {
  QuantityPlan result{.quantity = quantity.name,
                      .identifier = identifier_of(quantity.name),
                      .expression = quantity.expression,
                      .unit = quantity.span.unit,
                      .channels = model::channels_of(board, quantity)};
  std::map<std::string, Part> names{{"_pi", constant(std::numbers::pi)},
                                    {"_e", constant(std::numbers::e)}};
  Writer to;
  std::vector<Part> readings;
  for (const auto& name : result.channels) {
    const auto found = std::ranges::find(plans, name, &Plan::channel);
    if (found == plans.end()) throw FirmwareError("no code of " + name + ", which it needs");
    auto reading = reading_of(*found, *model::find(board.channels, name));
    readings.push_back(reading);
    result.operations += reading.operations;
    const auto local = found->identifier + "_si";
    to.line("const float {} = {};", local, reading.text);
    reading.text = local;
    reading.operations = 0;
    names.emplace(name, std::move(reading));
  }
  const auto value = Reader(quantity.expression, result.identifier, names).read();
  // What was read must be what everything else here computes with.
  const math::Expression formula(quantity.expression, result.channels);
  for (std::size_t i = 0; i < value.at.size(); ++i) {
    std::vector<double> x;
    for (const auto& reading : readings) x.push_back(reading.at[i]);
    const double exact = formula(x);
    if (!(std::abs(exact - value.at[i]) <= 1e-9 * (std::abs(exact) + value.size())))
      throw FirmwareError("its formula reads otherwise in C: put brackets about its parts");
  }
  const auto shown = in_unit(value, result.unit);
  to.line("return {};", shown.text);
  result.bound = shown.error * result.unit.scale();
  result.operations += shown.operations;
  result.source = to.text();
  result.calls_library = shown.text.find("sqrtf(") != std::string::npos;
  return result;
}

CodeFiles c_code(const QuantityPlan& plan, const CodeOptions& options) {
  const auto guard = upper(plan.quantity);
  Writer header, source;
  header.line("/* SPDX-License-Identifier: 0BSD */");
  comment(header, plan, options);
  header.line("#ifndef {}_H", guard);
  header.line("#define {}_H", guard);
  header.line("");
  header.line("#include <stdint.h>");
  header.line("");
  header.line("#ifdef __cplusplus");
  header.line("extern \"C\" {{");
  header.line("#endif");
  header.line("/* {} in {}, from readings in counts. */", said(plan.quantity),
              plan.unit.symbol.empty() ? "its unit" : said(plan.unit.symbol));
  header.line("{};", declaration(plan));
  header.line("#ifdef __cplusplus");
  header.line("}}");
  header.line("#endif");
  header.line("");
  header.line("#endif");
  source.line("/* SPDX-License-Identifier: 0BSD */");
  comment(source, plan, options);
  source.line("#include \"{}.h\"", plan.identifier);
  if (plan.calls_library) source.line("\n#include <math.h>");
  source.line("");
  helpers(source, plan.identifier, plan.source);
  source.line("{} {{", declaration(plan));
  for (std::size_t at = 0; at < plan.source.size();) {
    const auto end = plan.source.find('\n', at);
    source.line("{}", plan.source.substr(at, end - at));
    at = end + 1;
  }
  source.line("}}");
  return {.header = header.text(), .source = source.text()};
}

}  // namespace tamlo::firmware
