// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <optional>
#include <string>
#include <string_view>

#include "notation_words.hpp"
#include "tamlo/quantity/detail/number.hpp"

namespace tamlo::quantity {

inline std::string in_quotes(std::string_view text) {
  return text.empty() ? "nothing" : fmt::format("\"{}\"", text);
}

/// Reads one text piece by piece. Each step consumes what it reads, or throws with its column.
class NotationCursor {
 public:
  explicit NotationCursor(std::string_view text) : text_(text) {}

 protected:
  std::string_view text_;
  std::size_t at_ = 0;

  std::size_t column(std::size_t at) const { return characters(text_.substr(0, at)) + 1; }
  [[noreturn]] void fail(std::size_t at, std::string allowed) const {
    throw NotationError(column(at), in_quotes(text_.substr(at)), std::move(allowed));
  }

  void skip_spaces() {
    while (at_ < text_.size() && text_[at_] == ' ') ++at_;
  }
  bool number_ahead() const { return number_length(text_.substr(at_)) > 0; }

  // The text up to whatever may follow a unit.
  std::string_view take_unit_text() {
    skip_spaces();
    const auto rest = text_.substr(at_);
    auto end = rest.size();
    for (const std::string_view stop :
         {plus_minus, std::string_view("+-"), std::string_view("("), std::string_view(".."),
          std::string_view(" of "), std::string_view(" rms"), std::string_view(" to "),
          std::string_view(" - "), std::string_view(" \u2013"), std::string_view(" max"),
          std::string_view(" typ"), std::string_view(" min"), std::string_view(" box")}) {
      auto at = rest.find(stop);
      // The parenthesis of a root is one of the unit.
      while (stop == "(" && at < rest.size() && rest.substr(0, at).ends_with("sqrt")) {
        at = rest.find(stop, at + 1);
      }
      end = std::min(end, at);
    }
    // Nor has a unit a number of its own, apart from 1000 h.
    for (auto at = rest.find(' '); at < end; at = rest.find(' ', at + 1)) {
      if (number_length(rest.substr(at + 1)) > 0) end = at;
    }
    auto result = rest.substr(0, end);
    at_ += end;
    while (result.ends_with(' ')) result.remove_suffix(1);
    return result;
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

  // "72 dB SNR", "70.5 dB SINAD at 1 kHz", "11.4 bit ENOB", in dB (IEC 60748-4-3: an ideal
  // converter of N bits has 20 log10(2^N sqrt(3/2))). None where none of them follows.
  std::optional<double> take_signal_to_noise(std::string_view number, std::size_t start) {
    const auto before = at_;
    const bool in_decibels = take_word("dB");
    const bool in_bits = !in_decibels && (take_word("bits") || take_word("bit"));
    const bool known =
        in_decibels ? take_word("SNR") || take_word("SINAD") : in_bits && take_word("ENOB");
    if (!known) {
      at_ = before;
      return {};
    }
    const double value = parse_number(number, {}, column(start));
    const double result = in_bits ? 20.0 * std::log10(std::exp2(value) * std::sqrt(1.5)) : value;
    if (!(result >= 1.0 && result <= 240.0)) {
      throw NotationError(column(start), in_quotes(number), "1 to 240 dB");
    }
    if (take_word("at")) {
      skip_spaces();
      take_number("1 kHz");
      take_unit_text();
    }
    take_word("typ");
    return result;
  }

  // Standard deviations in the smallest step of a resolution: "18.5 bit noise-free" is
  // log2(range / 6.6 rms), "21 bit effective" log2(range / rms). None where no bits follow.
  std::optional<double> take_bits(std::size_t start) {
    const auto before = at_;
    std::optional<double> sigmas;
    bool bits = false;
    for (;;) {
      if (take_word("noise-free") || take_word("noise free")) {
        sigmas = peak_to_peak_sigmas;
      } else if (take_word("effective")) {
        sigmas = 1.0;
      } else if (take_word("bits") || take_word("bit")) {
        bits = true;
      } else {
        break;
      }
    }
    if (!bits) at_ = before;
    if (bits && !sigmas) {
      const auto number = text_.substr(start, before - start);
      fail(start, fmt::format("\"{0} bit noise-free\" or \"{0} bit effective\": both may be meant",
                              number));
    }
    return bits ? sigmas : std::nullopt;
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

  std::string_view take_number(const std::string& sample) {
    const auto length = number_length(text_.substr(at_));
    if (length == 0) fail(at_, "a number, as in \"" + sample + "\"");
    const auto result = text_.substr(at_, length);
    at_ += length;
    return result;
  }

  // "(k=2)", "(typ)"; as data sheets have them "typ", "max" and "3 sigma" without parentheses, too.
  void take_distribution(Limit& limit) {
    skip_spaces();
    const auto start = at_;
    const bool inside = at_ < text_.size() && text_[at_] == '(';
    if (inside) ++at_;
    if (const auto factor = take_sigmas()) {
      limit.distribution = Distribution::normal;
      limit.coverage_factor = *factor;
    } else if (take_word("typ")) {
      limit.distribution = Distribution::normal;
    } else if (take_word("min")) {
      fail(start, "a limit as its largest size: ±, max or typ");
    } else if (!take_word("max")) {
      if (!inside) return;
      take_named(limit, start);
    }
    if (!inside) return;
    skip_spaces();
    if (at_ >= text_.size() || text_[at_] != ')') fail(at_, "\")\"");
    ++at_;
  }

  // "3 sigma": a coverage factor.
  std::optional<double> take_sigmas() {
    const auto start = at_;
    if (const auto length = number_length(text_.substr(at_)); length > 0) {
      const auto number = take_number("2");
      skip_spaces();
      const bool sign = text_.substr(at_).starts_with("\u03c3");
      if (sign) at_ += 2;
      if (sign || take_word("sigma")) return coverage_factor(number, start);
    }
    at_ = start;
    return {};
  }

  double coverage_factor(std::string_view number, std::size_t at) const {
    const double factor = parse_number(number, {}, column(at));
    if (!(factor > 0.0)) fail(at, "a coverage factor above 0");
    return factor;
  }

  void take_named(Limit& limit, std::size_t start) {
    if (take_word("uniform")) {
      limit.distribution = Distribution::uniform;
    } else if (take_word("triangular")) {
      limit.distribution = Distribution::triangular;
    } else if (take_word("arcsine")) {
      limit.distribution = Distribution::arcsine;
    } else if (text_.substr(at_).starts_with("k=")) {
      at_ += 2;
      const auto number_at = at_;
      limit.distribution = Distribution::normal;
      limit.coverage_factor = coverage_factor(take_number("2"), number_at);
    } else {
      fail(start, "(k=2), (typ), (3 sigma), (uniform), (triangular) or (arcsine)");
    }
  }
};

}  // namespace tamlo::quantity
