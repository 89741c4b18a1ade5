// SPDX-License-Identifier: Apache-2.0
#include "tamlo/quantity/notation.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cctype>
#include <utility>

#include "notation_words.hpp"

namespace tamlo::quantity {
namespace {

constexpr std::size_t most_limits = 64;  // of one value

struct Part {
  std::string_view text;
  Basis basis;
};
constexpr Part parts[] = {
    {"span", Basis::span}, {"range", Basis::range}, {"reading", Basis::relative}};

bool is_ratio(const Unit& unit) { return unit.dimension.none() && !unit.symbol.empty(); }

std::string in_quotes(std::string_view text) {
  return text.empty() ? "nothing" : fmt::format("\"{}\"", text);
}

// A cursor over one text. Each step consumes what it reads, or throws with its column.
class Reader {
 public:
  Reader(std::string_view text, const Expected& expected) : text_(text), expected_(expected) {}

  Value value() {
    skip_spaces();
    Value result;
    if (number_ahead()) {
      const auto start = at_;
      const auto number = take_number();
      const auto unit_at = at_;
      result.unit = take_unit();
      if (take_word("rms")) {
        Limit noise{.distribution = Distribution::normal, .noise = true};
        resolve(noise, result.unit.symbol, unit_at);
        require_basis(noise, unit_at);
        noise.size = positive(number, noise.unit, start);
        expect_end("nothing after \"rms\"");
        return {.nominal = {}, .unit = {}, .limits = {noise}};
      }
      check_unit(result.unit, unit_at);
      if (expected_.difference) result.unit.offset = 0.0;
      if (!expected_.unit) expected_.unit = result.unit;  // of the limits
      result.nominal = parse_number(number, result.unit, column(start));
    }
    while (take_plus_minus()) {
      if (result.limits.size() == most_limits) fail(at_, "at most 64 limits");
      result.limits.push_back(limit());
    }
    expect_end("a limit that begins with ± or +-, or the end");
    if (!result.nominal && result.limits.empty()) fail(at_, "a value such as \"" + sample() + "\"");
    return result;
  }

  Range range() {
    skip_spaces();
    const auto low = at_;
    const auto low_text = take_number();
    skip_spaces();
    if (!text_.substr(at_).starts_with("..") || text_.substr(at_).starts_with("...")) {
      if (expected_.one_value) return one_value(low, low_text);
      fail(at_, "\"..\" and the upper end, as in 0..60 " + wanted_symbol());
    }
    at_ += 2;
    skip_spaces();
    const auto high = at_;
    const auto high_text = take_number();
    const auto unit_at = at_;
    Range result;
    result.unit = take_unit();
    check_unit(result.unit, unit_at);
    expect_end("the end of the range");
    result.low = parse_number(low_text, result.unit, column(low));
    result.high = parse_number(high_text, result.unit, column(high));
    if (!(result.low < result.high)) {
      throw NotationError(column(high), in_quotes(high_text),
                          fmt::format("an upper end above {}", low_text));
    }
    return result;
  }

 private:
  std::string_view text_;
  Expected expected_;
  std::size_t at_ = 0;

  Range one_value(std::size_t start, std::string_view number) {
    const auto unit_at = at_;
    Range result{.unit = take_unit()};
    check_unit(result.unit, unit_at);
    expect_end("\"..\" and an upper end, or the end of the value");
    result.low = result.high = parse_number(number, result.unit, column(start));
    return result;
  }

  std::size_t column(std::size_t at) const { return characters(text_.substr(0, at)) + 1; }
  std::string wanted_symbol() const { return expected_.unit ? expected_.unit->symbol : "V"; }
  std::string sample() const {
    return wanted_symbol().empty() ? "0.25 ±0.3 %" : "2.5 " + wanted_symbol() + " ±0.05 %";
  }

  [[noreturn]] void fail(std::size_t at, std::string allowed) const {
    throw NotationError(column(at), in_quotes(text_.substr(at)), std::move(allowed));
  }

  void skip_spaces() {
    while (at_ < text_.size() && text_[at_] == ' ') ++at_;
  }
  bool number_ahead() const { return number_length(text_.substr(at_)) > 0; }

  std::string_view take_number() {
    const auto length = number_length(text_.substr(at_));
    if (length == 0) fail(at_, "a number, as in \"" + sample() + "\"");
    const auto result = text_.substr(at_, length);
    at_ += length;
    return result;
  }

  // The text up to whatever may follow a unit.
  std::string_view take_unit_text() {
    skip_spaces();
    const auto rest = text_.substr(at_);
    auto end = rest.size();
    for (const std::string_view stop :
         {plus_minus, std::string_view("+-"), std::string_view("("), std::string_view(".."),
          std::string_view(" of "), std::string_view(" rms")}) {
      auto at = rest.find(stop);
      // The parenthesis of a root is one of the unit.
      while (stop == "(" && at < rest.size() && rest.substr(0, at).ends_with("sqrt")) {
        at = rest.find(stop, at + 1);
      }
      end = std::min(end, at);
    }
    auto result = rest.substr(0, end);
    at_ += end;
    while (result.ends_with(' ')) result.remove_suffix(1);
    return result;
  }

  Unit take_unit() {
    const auto unit_text = take_unit_text();
    return find_unit(unit_text).value_or(label_unit(unit_text));
  }

  bool take_word(std::string_view word) {
    skip_spaces();
    const auto rest = text_.substr(at_);
    if (!rest.starts_with(word)) return false;
    if (rest.size() > word.size() && std::isalnum(static_cast<unsigned char>(rest[word.size()]))) {
      return false;
    }
    at_ += word.size();
    return true;
  }

  bool take_plus_minus() {
    skip_spaces();
    for (const std::string_view sign : {plus_minus, std::string_view("+-")}) {
      if (!text_.substr(at_).starts_with(sign)) continue;
      at_ += sign.size();
      skip_spaces();
      return true;
    }
    return false;
  }

  void expect_end(std::string allowed) {
    skip_spaces();
    if (at_ != text_.size()) fail(at_, std::move(allowed));
  }

  // The nominal's unit must have the dimension that this place expects.
  void check_unit(const Unit& unit, std::size_t at) const {
    if (!expected_.unit || unit.dimension == expected_.unit->dimension) return;
    while (at < text_.size() && text_[at] == ' ') ++at;
    throw NotationError(column(at), unit.symbol.empty() ? "no unit" : in_quotes(unit.symbol),
                        unit_advice(unit.symbol));
  }

  std::string unit_advice(std::string_view found) const {
    const auto& symbol = expected_.unit->symbol;
    std::string advice = symbol.empty() ? "a number without a unit" : "a unit of " + symbol;
    if (!symbol.empty() && find_unit("m" + symbol)) {
      advice += fmt::format(", such as {0}, m{0} or k{0}", symbol);
    }
    // "22 k": a multiple without the unit that it is of.
    const auto whole = std::string(found) + symbol;
    if (found.size() == 1 && !symbol.empty() && find_unit(whole)) {
      return advice + fmt::format(" (did you mean {}?)", whole);
    }
    if (const auto near = similar_unit(found); !near.empty() && near != found) {
      advice += fmt::format(" (did you mean {}? capitals count)", near);
    }
    return advice;
  }

  Limit limit() {
    Limit result;
    const auto start = at_;
    const auto number = take_number();
    skip_spaces();
    const auto unit_at = at_;
    const auto unit_text = take_unit_text();
    resolve(result, unit_text, unit_at);
    if (take_word("of")) take_part(result, unit_at);
    require_basis(result, unit_at);
    result.size = positive(number, result.unit, start);
    take_distribution(result);
    return result;
  }

  // A limit cannot be negative, and "±0 %" says nothing wrong.
  double positive(std::string_view number, const Unit& unit, std::size_t start) const {
    const auto size = parse_number(number, unit, column(start));
    if (size < 0.0) throw NotationError(column(start), in_quotes(number), "a size of 0 or more");
    return size;
  }

  // Finds out what a limit's unit is a part of. A unit of the value's own dimension is absolute
  // even where it ends in "/K"; only then is "/K" a drift.
  void resolve(Limit& limit, std::string_view unit_text, std::size_t at) const {
    if (basis_of(limit, unit_text)) return;
    for (const auto& [text, drift, per] : drifts) {
      if (!unit_text.ends_with(text)) continue;
      if (!basis_of(limit, unit_text.substr(0, unit_text.size() - text.size()))) continue;
      limit.drift = drift;
      limit.per = per;
      return;
    }
    const auto any = find_unit(unit_text);
    const bool celsius = any && any->offset != 0.0;
    if (!expected_.unit && !unit_text.empty() && !celsius) {
      limit.basis = Basis::absolute;
      limit.unit = any.value_or(label_unit(unit_text));
      return;
    }
    throw NotationError(
        column(at), unit_text.empty() ? "no unit" : in_quotes(unit_text),
        celsius ? "a difference of temperatures, which is in K" : limit_advice(unit_text));
  }

  bool basis_of(Limit& limit, std::string_view unit_text) const {
    auto unit = find_unit(unit_text);
    if (!unit && expected_.unit && !expected_.unit->dimension.label.empty()) {
      unit = label_unit(unit_text);
    }
    if (!unit || unit->offset != 0.0) return false;
    const auto code = tamlo::quantity::unit("LSB").dimension;
    const auto digits = tamlo::quantity::unit("digits").dimension;
    if (is_ratio(*unit)) {
      limit.basis = Basis::relative;
    } else if (expected_.unit && unit->dimension == expected_.unit->dimension) {
      limit.basis = Basis::absolute;
    } else if (unit->dimension == code) {
      limit.basis = Basis::code;
    } else if (unit->dimension == digits) {
      limit.basis = Basis::digit;
    } else {
      return false;
    }
    limit.unit = *std::move(unit);
    return true;
  }

  void take_part(Limit& limit, std::size_t unit_at) {
    skip_spaces();
    for (const auto& part : parts) {
      if (!take_word(part.text)) continue;
      if (limit.basis != Basis::relative) fail(unit_at, "%, ppm or ppb before \"of\"");
      limit.basis = part.basis;
      return;
    }
    fail(at_, "span, range or reading after \"of\"");
  }

  void require_basis(const Limit& limit, std::size_t at) const {
    if (std::ranges::find(expected_.bases, limit.basis) != expected_.bases.end()) return;
    fail(at, limit_advice({}));
  }

  std::string limit_advice(std::string_view unit_text) const {
    std::vector<std::string> kinds;
    for (const auto basis : expected_.bases) {
      switch (basis) {
        case Basis::absolute:
          kinds.push_back(wanted_symbol());
          break;
        case Basis::relative:
          kinds.emplace_back("%, ppm");
          break;
        case Basis::code:
          kinds.emplace_back("LSB");
          break;
        case Basis::digit:
          kinds.emplace_back("digits");
          break;
        case Basis::span:
          kinds.emplace_back("% of span");
          break;
        case Basis::range:
          kinds.emplace_back("% of range");
          break;
      }
    }
    std::erase(kinds, "");
    auto advice =
        fmt::format("a limit in {}, also per K, per year or per 1000 h", fmt::join(kinds, ", "));
    if (const auto near = similar_unit(unit_text); !near.empty() && near != unit_text) {
      advice += fmt::format(" (did you mean {}? capitals count)", near);
    }
    return advice;
  }

  void take_distribution(Limit& limit) {
    skip_spaces();
    if (at_ >= text_.size() || text_[at_] != '(') return;
    const auto start = at_++;
    if (take_word("typ")) {
      limit.distribution = Distribution::normal;
    } else if (take_word("uniform")) {
      limit.distribution = Distribution::uniform;
    } else if (take_word("triangular")) {
      limit.distribution = Distribution::triangular;
    } else if (take_word("arcsine")) {
      limit.distribution = Distribution::arcsine;
    } else if (text_.substr(at_).starts_with("k=")) {
      at_ += 2;
      const auto number_at = at_;
      limit.distribution = Distribution::normal;
      limit.coverage_factor = parse_number(take_number(), {}, column(number_at));
      if (!(limit.coverage_factor > 0.0)) fail(number_at, "a coverage factor above 0");
    } else {
      fail(start, "(k=2), (typ), (uniform), (triangular) or (arcsine)");
    }
    skip_spaces();
    if (at_ >= text_.size() || text_[at_] != ')') fail(at_, "\")\"");
    ++at_;
  }
};

}  // namespace

Value parse_value(std::string_view text, const Expected& expected) {
  return Reader(text, expected).value();
}

double parse_slope(std::string_view text, const Unit& unit) {
  const auto change = difference_unit(unit);
  const auto slash = text.rfind('/');
  const auto allowed = "a change over time, such as \"1 " + change.symbol + "/s\"";
  if (slash == std::string_view::npos) throw NotationError(1, "no time", allowed);
  const auto per = find_unit(text.substr(slash + 1));
  if (!per || per->dimension != find_unit("s")->dimension) {
    throw NotationError(characters(text.substr(0, slash + 1)) + 1,
                        "\"" + std::string(text.substr(slash + 1)) + "\"", allowed);
  }
  const auto value = parse_value(text.substr(0, slash), {.unit = change});
  if (!value.nominal || !value.limits.empty() || *value.nominal == 0.0) {
    throw NotationError(1, "\"" + std::string(text) + "\"", allowed);
  }
  return *value.nominal / per->scale();
}

Range parse_range(std::string_view text, const Expected& expected) {
  return Reader(text, expected).range();
}

}  // namespace tamlo::quantity
