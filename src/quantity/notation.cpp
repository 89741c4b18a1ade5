// SPDX-License-Identifier: Apache-2.0
#include "tamlo/quantity/notation.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <utility>

#include "notation_cursor.hpp"
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
// What data sheets call the whole, of which there is one at a place: its range, or else its span.
constexpr std::string_view full_scale[] = {"full scale", "full-scale", "FSR", "FS", "f.s."};

bool is_ratio(const Unit& unit) { return unit.dimension.none() && !unit.symbol.empty(); }

class Reader : private NotationCursor {
 public:
  Reader(std::string_view text, const Expected& expected)
      : NotationCursor(text), expected_(expected) {}

  Value value() {
    skip_spaces();
    Value result;
    const auto start = at_;
    if (expected_.meant == Meant::limits ? noise_ahead() : number_ahead()) {
      const auto number = take_number(sample());
      const auto unit_at = at_;
      if (expected_.meant == Meant::noise && allows(Basis::relative)) {
        if (const auto decibels = take_signal_to_noise(number, start)) {
          expect_end("nothing after noise");
          return {.limits = {noise_and_steps(*decibels)}};
        }
        if (const auto sigmas = take_bits(start)) {
          expect_end("nothing after noise");
          return {.limits = {noise_of_bits(number, *sigmas, start)}};
        }
      }
      const auto unit_text = take_unit_text();
      const auto of_peaks = peak_to_peak_unit(unit_text);
      const bool rms = !of_peaks && take_word("rms");
      if (of_peaks || rms || expected_.meant == Meant::noise) {
        auto limit = noise(number, of_peaks.value_or(unit_text), start, unit_at);
        if (of_peaks) limit.size /= peak_to_peak_sigmas;
        if (!of_peaks && !rms) {
          at_ = start;
          fail(at_, fmt::format("\"{0} {1} rms\" or \"{0} {1} pp\": both may be meant", number,
                                unit_text));
        }
        if (!take_word("typ")) take_word("max");
        expect_end("nothing after noise");
        return {.limits = {limit}};
      }
      take_nominal(result, number, unit_text, start, unit_at);
    }
    while (take_plus_minus() || unsigned_limit_ahead()) {
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
    const auto low_text = take_number(sample());
    skip_spaces();
    const auto low_unit_at = at_;
    std::string_view low_unit;
    if (joint() == 0) low_unit = take_unit_text();
    skip_spaces();
    if (joint() == 0) {
      if (expected_.one_value) return one_value(low, low_text, low_unit_at);
      at_ = low_unit_at;
      fail(at_, "\"..\" and the upper end, as in 0..60 " + wanted_symbol());
    }
    at_ += joint();
    skip_spaces();
    const auto high = at_;
    const auto high_text = take_number(sample());
    const auto unit_at = at_;
    Range result;
    const auto unit_text = take_unit_text();
    if (!low_unit.empty() && low_unit != unit_text) {
      fail(low_unit_at, "both ends in one unit, as in 0..60 " + wanted_symbol());
    }
    const auto [low_number, unit] = spelled(low_text, unit_text);
    const auto high_number = spelled(high_text, unit_text).number;
    result.unit = unit;
    check_unit(result.unit, unit_at);
    expect_end("the end of the range");
    result.low = parse_number(low_number, result.unit, column(low));
    result.high = parse_number(high_number, result.unit, column(high));
    if (!(result.low < result.high)) {
      throw NotationError(column(high), in_quotes(high_text),
                          fmt::format("an upper end above {}", low_text));
    }
    return result;
  }

 private:
  Expected expected_;

  // The length of what joins the ends of a range here.
  std::size_t joint() const {
    const bool behind_digit =
        at_ > 0 && std::isdigit(static_cast<unsigned char>(text_[at_ - 1])) != 0;
    return joint_length(text_.substr(at_), behind_digit);
  }

  // Number and unit as this place understands them.
  Spelled spelled(std::string_view number, std::string_view unit_text) const {
    auto found = find_unit(unit_text);
    const bool fits = found && (!expected_.unit || found->dimension == expected_.unit->dimension);
    if (!fits && expected_.unit) {
      if (auto meant = data_sheet_value(number, unit_text, *expected_.unit)) return *meant;
    }
    if (!found) found = label_unit(unit_text);
    return {.number = std::string(number), .unit = *std::move(found)};
  }

  void take_nominal(Value& result, std::string_view number, std::string_view unit_text,
                    std::size_t start, std::size_t unit_at) {
    auto [meant, unit] = spelled(number, unit_text);
    check_unit(unit, unit_at);
    if (expected_.difference) unit.offset = 0.0;
    if (!expected_.unit) expected_.unit = unit;  // of the limits
    result.nominal = parse_number(meant, unit, column(start));
    result.unit = std::move(unit);
    take_word("typ");
  }

  Limit noise(std::string_view number, std::string_view unit_text, std::size_t start,
              std::size_t unit_at) const {
    Limit result{.distribution = Distribution::normal, .noise = true};
    resolve(result, unit_text, unit_at);
    require_basis(result, unit_at);
    result.size = positive(number, result.unit, start);
    return result;
  }

  Limit noise_of_bits(std::string_view number, double sigmas, std::size_t start) const {
    const double bits = parse_number(number, {}, column(start));
    if (!(bits >= 1.0 && bits <= 40.0)) {
      throw NotationError(column(start), in_quotes(number), "1 to 40 bits");
    }
    return noise_of_range(std::exp2(-bits) / sigmas);
  }

  // Of a place of limits: whether its text is that of noise.
  bool noise_ahead() const {
    return text_.find(" rms") != std::string_view::npos || peak_to_peak_unit(text_).has_value();
  }

  // "1 %" behind a value; of a place of limits a number without its sign. A number with a sign of
  // its own may be the one end of two.
  bool unsigned_limit_ahead() {
    const auto length = number_length(text_.substr(at_));
    if (length == 0 || text_[at_] == '+' || text_[at_] == '-') return false;
    const auto unit_at = std::min(text_.find_first_not_of(' ', at_ + length), text_.size());
    const auto unit = text_.substr(unit_at);
    const bool ratio = unit.starts_with('%') || unit.starts_with("ppm") || unit.starts_with("ppb");
    const bool limits = expected_.meant == Meant::limits;
    if (!ratio && !limits) return false;
    if (ratio && limits && allows(Basis::relative) && allows(Basis::span) &&
        unit.find(" of ") == std::string_view::npos) {
      const auto size = std::string(text_.substr(at_, length)) + " %";
      fail(at_, fmt::format("\"±{0} of span\" or \"±{0} of reading\": both may be meant", size));
    }
    return true;
  }

  Range one_value(std::size_t start, std::string_view number, std::size_t unit_at) {
    at_ = unit_at;
    Range result;
    const auto [meant, unit] = spelled(number, take_unit_text());
    result.unit = unit;
    check_unit(result.unit, unit_at);
    expect_end("\"..\" and an upper end, or the end of the value");
    result.low = result.high = parse_number(meant, result.unit, column(start));
    return result;
  }

  std::string wanted_symbol() const { return expected_.unit ? expected_.unit->symbol : "V"; }
  std::string sample() const {
    return wanted_symbol().empty() ? "0.25 ±0.3 %" : "2.5 " + wanted_symbol() + " ±0.05 %";
  }

  // The nominal's unit must have the dimension that this place expects.
  void check_unit(const Unit& unit, std::size_t at) const {
    if (!expected_.unit || unit.dimension == expected_.unit->dimension) return;
    while (at < text_.size() && text_[at] == ' ') ++at;
    throw NotationError(column(at), unit.symbol.empty() ? "no unit" : in_quotes(unit.symbol),
                        unit_advice(unit.symbol, *expected_.unit));
  }

  Limit limit() {
    Limit result;
    const auto start = at_;
    const auto number = take_number(sample());
    skip_spaces();
    const auto unit_at = at_;
    const auto unit_text = take_unit_text();
    resolve(result, unit_text, unit_at);
    if (take_word("of")) take_part(result, unit_at);
    require_basis(result, unit_at);
    result.size = positive(number, result.unit, start);
    if (take_word("box")) take_box(result);
    take_distribution(result);
    return result;
  }

  // "box -40..125 degC" or "box 165 K" behind a drift with temperature.
  void take_box(Limit& limit) {
    skip_spaces();
    const auto start = at_;
    if (limit.drift != Drift::temperature) fail(start, "a drift per kelvin before \"box\"");
    constexpr auto sample_of_box = "-40..125 degC";
    const auto low = take_number(sample_of_box);
    skip_spaces();
    const bool range = joint() > 0;
    std::string_view high = low;
    if (range) {
      at_ += joint();
      skip_spaces();
      high = take_number(sample_of_box);
    }
    const auto unit_at = at_;
    const auto unit = find_unit(take_unit_text());
    const bool fits = unit && unit->dimension == tamlo::quantity::unit("K").dimension;
    if (!fits || (!range && unit->offset != 0.0)) {
      fail(unit_at, "a range of temperatures, such as -40..125 degC, or its width in K");
    }
    const double top = parse_number(high, *unit, column(start));
    limit.box = range ? top - parse_number(low, *unit, column(start)) : top;
    if (!(limit.box > 0.0 && limit.box <= 2000.0)) fail(start, "a range of up to 2000 K");
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
    throw NotationError(column(at), unit_text.empty() ? "no unit" : in_quotes(unit_text),
                        celsius ? "a difference of temperatures, which is in K"
                                : limit_advice(unit_text, expected_));
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
    const auto part = part_ahead(unit_at);
    if (!part) fail(at_, "span, range or reading after \"of\"");
    if (limit.basis != Basis::relative) fail(unit_at, "%, ppm or ppb before \"of\"");
    limit.basis = *part;
  }

  std::optional<Basis> part_ahead(std::size_t unit_at) {
    for (const auto& part : parts) {
      if (take_word(part.text)) return here(part.basis);
    }
    for (const auto words : full_scale) {
      if (!take_word(words)) continue;
      if (allows(Basis::range) && allows(Basis::span)) {
        fail(unit_at, "\"of span\" or \"of range\": full scale may be either");
      }
      return allows(Basis::span) ? Basis::span : here(Basis::range);
    }
    return {};
  }

  // A part of a converter's full scale is what a percentage of one of its errors means anyway.
  Basis here(Basis basis) const {
    const bool of_converter =
        allows(Basis::code) && allows(Basis::relative) && !allows(Basis::span);
    return basis == Basis::range && !allows(basis) && of_converter ? Basis::relative : basis;
  }

  bool allows(Basis basis) const {
    return std::ranges::find(expected_.bases, basis) != expected_.bases.end();
  }

  void require_basis(const Limit& limit, std::size_t at) const {
    if (allows(limit.basis)) return;
    fail(at, limit_advice({}, expected_));
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
