// SPDX-License-Identifier: Apache-2.0
// Formulas of small integers: one straight line of the setting over another.
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

struct Straight {
  std::int64_t times = 0, plus = 0;
};

Straight product(const Straight& a, const Straight& b) {
  if (a.times != 0 && b.times != 0) throw ArgumentError("a formula of the setting times itself");
  return {a.times * b.plus + b.times * a.plus, a.plus * b.plus};
}

Straight sum(const Straight& a, const Straight& b) { return {a.times + b.times, a.plus + b.plus}; }

struct Ratio {
  Straight above{}, below{0, 1};
};

Ratio shortened(Ratio ratio) {
  auto& [above, below] = ratio;
  if (below.times == 0 && below.plus == 0) throw ArgumentError("a formula that divides by 0");
  auto divisor = std::gcd(std::gcd(above.times, above.plus), std::gcd(below.times, below.plus));
  if (below.times < 0 || (below.times == 0 && below.plus < 0)) divisor = -divisor;
  for (auto* number : {&above.times, &above.plus, &below.times, &below.plus}) {
    *number /= divisor;
    if (std::abs(*number) > most) throw ArgumentError("a formula of too large numbers");
  }
  return ratio;
}

class Parser {
 public:
  explicit Parser(std::string_view text) : rest_(text) {}

  Formula whole() {
    const auto [above, below] = terms();
    if (peek() != 0) fail();
    if (above.times * below.plus == above.plus * below.times)
      throw ArgumentError("a formula without the setting");
    return {above.times, above.plus, below.times, below.plus};
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

  Ratio terms() {
    auto result = factors();
    for (;;) {
      const int sign = takes('+') ? 1 : takes('-') ? -1 : 0;
      if (sign == 0) return result;
      const auto other = factors();
      const Straight signs{0, sign};
      result = shortened({sum(product(result.above, other.below),
                              product(signs, product(other.above, result.below))),
                          product(result.below, other.below)});
    }
  }

  Ratio factors() {
    auto result = factor();
    for (;;) {
      const bool times = takes('*');
      if (!times && !takes('/')) return result;
      auto other = factor();
      if (!times) std::swap(other.above, other.below);
      result = shortened({product(result.above, other.above), product(result.below, other.below)});
    }
  }

  Ratio factor() {
    if (++depth_ > 32) throw ArgumentError("a formula of too many brackets");
    Ratio result;
    if (takes('-')) {
      result = factor();
      result.above = product(result.above, {0, -1});
    } else if (takes('(')) {
      result = terms();
      if (!takes(')')) fail();
    } else if (std::isdigit(static_cast<unsigned char>(peek())) != 0) {
      while (!rest_.empty() && std::isdigit(static_cast<unsigned char>(rest_.front())) != 0) {
        result.above.plus = result.above.plus * 10 + (rest_.front() - '0');
        if (result.above.plus > most) throw ArgumentError("a formula of too large numbers");
        rest_.remove_prefix(1);
      }
    } else {
      const auto word = name();
      if (word.empty() || (!name_.empty() && word != name_)) fail();
      name_ = word;
      result.above.times = 1;
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
