// SPDX-License-Identifier: Apache-2.0
#include "quantity_formula.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>
#include <utility>

#include "tamlo/firmware/arithmetic.hpp"

namespace tamlo::firmware {
namespace {

// What is lost where there is no smaller number.
constexpr double smallest = 0x1p-126;

// What an operation adds to the error that its operands bring.
Part rounded(Part part) {
  part.error += half_place * (part.size() + part.error) + smallest;
  if (!(part.size() + part.error < 1e37)) throw FirmwareError("a value above those of a float");
  ++part.operations;
  return part;
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

}  // namespace

double Part::size() const { return std::max(std::abs(low), std::abs(high)); }

Part constant(double value) {
  auto digits = fmt::format("{}", std::abs(value));
  if (digits.find_first_of(".e") == std::string::npos) digits += ".0";
  return {.text = fmt::format("{}{}f", std::signbit(value) ? "-" : "", digits),
          .low = value,
          .high = value,
          .error = half_place * std::abs(value),
          .at = {value, value, value, value}};
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

namespace {

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

}  // namespace

Part read_formula(const std::string& text, const std::string& prefix,
                  const std::map<std::string, Part>& names) {
  return Reader(text, prefix, names).read();
}

}  // namespace tamlo::firmware
