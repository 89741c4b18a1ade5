// SPDX-License-Identifier: Apache-2.0
// Formulas of small integers, linear in one name.
#include <fmt/format.h>

#include <cctype>
#include <cstdlib>
#include <numeric>
#include <string>

#include "tamlo/error.hpp"
#include "tamlo/firmware/registers.hpp"

namespace tamlo::firmware {
namespace {

constexpr std::int64_t most = 1'000'000'000;

// (x * times + plus) / over.
Formula shortened(Formula formula) {
  const auto divisor = std::gcd(std::gcd(formula.times, formula.plus), formula.over);
  if (divisor > 1)
    formula = {formula.times / divisor, formula.plus / divisor, formula.over / divisor};
  if (formula.over < 0) formula = {-formula.times, -formula.plus, -formula.over};
  if (std::abs(formula.times) > most || std::abs(formula.plus) > most || formula.over > most) {
    throw ArgumentError("a formula of too large numbers");
  }
  return formula;
}

class Parser {
 public:
  explicit Parser(std::string_view text) : rest_(text) {}

  Formula whole() {
    const auto result = sum();
    if (peek() != 0) fail();
    if (result.times == 0) throw ArgumentError("a formula without the setting");
    return result;
  }

 private:
  std::string_view rest_;
  std::string name_{};
  int depth_ = 0;

  [[noreturn]] void fail() const {
    throw ArgumentError(rest_.empty() ? "a formula that ends too early"
                                      : fmt::format("a formula that stops at \"{}\"", rest_));
  }
  char peek() {
    while (!rest_.empty() && rest_.front() == ' ') rest_.remove_prefix(1);
    return rest_.empty() ? '\0' : rest_.front();
  }
  bool takes(char c) {
    if (peek() != c) return false;
    rest_.remove_prefix(1);
    return true;
  }

  Formula sum() {
    auto result = product();
    for (;;) {
      const int sign = takes('+') ? 1 : takes('-') ? -1 : 0;
      if (sign == 0) return result;
      const auto other = product();
      result = shortened({result.times * other.over + sign * other.times * result.over,
                          result.plus * other.over + sign * other.plus * result.over,
                          result.over * other.over});
    }
  }

  Formula product() {
    auto result = factor();
    for (;;) {
      const bool times = takes('*');
      if (!times && !takes('/')) return result;
      auto other = factor();
      if (other.times != 0 && (!times || result.times != 0)) {
        throw ArgumentError("a formula that is not linear in the setting");
      }
      if (!times) {
        if (other.plus == 0) throw ArgumentError("a formula that divides by 0");
        other = {0, other.over, other.plus};
      }
      if (other.times != 0) std::swap(result, other);
      result = shortened(
          {result.times * other.plus, result.plus * other.plus, result.over * other.over});
    }
  }

  Formula factor() {
    if (++depth_ > 32) throw ArgumentError("a formula of too many brackets");
    Formula result{.times = 0};
    if (takes('-')) {
      result = factor();
      result = {-result.times, -result.plus, result.over};
    } else if (takes('(')) {
      result = sum();
      if (!takes(')')) fail();
    } else if (std::isdigit(static_cast<unsigned char>(peek())) != 0) {
      while (!rest_.empty() && std::isdigit(static_cast<unsigned char>(rest_.front())) != 0) {
        result.plus = result.plus * 10 + (rest_.front() - '0');
        if (result.plus > most) throw ArgumentError("a formula of too large numbers");
        rest_.remove_prefix(1);
      }
    } else {
      const auto word = name();
      if (word.empty() || (!name_.empty() && word != name_)) fail();
      name_ = word;
      result.times = 1;
    }
    --depth_;
    return result;
  }

  std::string name() {
    peek();
    std::string result;
    while (!rest_.empty() &&
           (std::isalnum(static_cast<unsigned char>(rest_.front())) != 0 || rest_.front() == '_')) {
      result += rest_.front();
      rest_.remove_prefix(1);
    }
    return result;
  }
};

}  // namespace

Formula parse_formula(std::string_view text) { return Parser(text).whole(); }

}  // namespace tamlo::firmware
