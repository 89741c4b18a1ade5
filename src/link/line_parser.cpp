// SPDX-License-Identifier: Apache-2.0
#include "tamlo/link/detail/line_parser.hpp"

#include <fmt/format.h>

#include <charconv>
#include <cmath>

#include "tamlo/error.hpp"
#include "tamlo/math/detail/power_of_ten.hpp"
#include "tamlo/quantity/detail/number.hpp"
#include "words.hpp"

namespace tamlo::link {
namespace {

// What meters show of what they cannot hold.
bool says_overload(std::string_view word) {
  return word == "OL" || word == "-OL" || word == "OVLD" || word == "OVERLOAD";
}

}  // namespace

std::string_view name(Holds holds) {
  return holds == Holds::code ? "code" : holds == Holds::reading ? "reading" : "shown";
}

bool parse_number(std::string_view text, double& value) {
  const auto* end = text.data() + text.size();
  if (text.starts_with('+')) text.remove_prefix(1);
  const auto [stop, error] = std::from_chars(text.data(), end, value);
  return error == std::errc{} && stop == end && !text.empty() && may_be_measured(value);
}

bool may_be_measured(double number) { return std::abs(number) <= largest_number; }

double last_place(std::string_view text) {
  if (text.starts_with('-') || text.starts_with('+')) text.remove_prefix(1);
  if (text.empty() || text.find_first_not_of("0123456789.") != std::string_view::npos) return 0.0;
  const auto point = text.find('.');
  if (point == std::string_view::npos) return 1.0;
  return math::power_of_ten(-static_cast<double>(text.size() - point - 1));
}

std::optional<Slot> slot_of(const model::Board& board, std::string_view text) {
  const auto dot = text.rfind('.');
  if (dot == std::string_view::npos) return {};
  const auto word = text.substr(dot + 1);
  const auto holds = word == "code"      ? Holds::code
                     : word == "reading" ? Holds::reading
                                         : Holds::shown;
  if (word != name(holds)) return {};
  const auto among = [&](const auto& list) -> std::optional<Slot> {
    for (std::size_t i = 0; i < list.size(); ++i) {
      if (list[i].name == text.substr(0, dot)) return Slot{.index = i, .holds = holds};
    }
    return {};
  };
  return holds == Holds::shown ? among(board.meters) : among(board.channels);
}

Slot slot_of(const model::Board& board, std::string_view name, const model::Link& link) {
  if (const auto slot = slot_of(board, name)) return *slot;
  throw ArgumentError(
      fmt::format("\"{}\" of the link {}: no channel of the board with .code or .reading, or "
                  "meter with .shown",
                  name, link.name));
}

const quantity::Unit& unit_of(const model::Board& board, const Slot& slot) {
  static const quantity::Unit none{};
  switch (slot.holds) {
    case Holds::code:
      break;
    case Holds::reading:
      return board.channels[slot.index].span.unit;
    case Holds::shown:
      return board.meters[slot.index].ranges.front().full_scale.unit;
  }
  return none;
}

double in_si(const model::Board& board, const Slot& slot, double number) {
  const auto& unit = unit_of(board, slot);
  return number * unit.scale() + unit.offset;
}

bool parse_code(std::string_view text, double& value) {
  const bool negative = text.starts_with('-');
  if (negative) text.remove_prefix(1);
  const auto whole = quantity::parse_whole(text, "xXbBo");
  if (!whole) return false;
  value = negative ? -static_cast<double>(*whole) : static_cast<double>(*whole);
  return true;
}

LineParser::LineParser(const model::Link& link, const model::Board& board)
    : board_(board), form_(link.form) {
  if (form_ == model::LineForm::number)
    places_.push_back({.slot = slot_of(board, link.pattern, link)});
  if (form_ != model::LineForm::pattern) return;
  std::string_view rest = link.pattern;
  for (auto open = rest.find('{'); open != std::string_view::npos; open = rest.find('{')) {
    const auto close = rest.find('}', open);
    if (close == std::string_view::npos) {
      throw ArgumentError(fmt::format("\"{}\" of the link {}: a bracket that does not close",
                                      link.pattern, link.name));
    }
    const auto inner = rest.substr(open + 1, close - open - 1);
    places_.push_back(
        {.before = std::string(rest.substr(0, open)),
         .slot = inner.empty() ? std::nullopt : std::optional(slot_of(board, inner, link))});
    rest.remove_prefix(close + 1);
  }
  behind_ = rest;
  if (places_.empty()) {
    throw ArgumentError(fmt::format("\"{}\" of the link {}: no value in it, such as {{NAME.code}}",
                                    link.pattern, link.name));
  }
}

bool LineParser::fail(std::string_view what) {
  problem_ = what;
  return false;
}

bool LineParser::take(const std::optional<Slot>& slot, std::string_view word,
                      std::vector<Value>& into) {
  if (!slot) return true;
  Value value{.of = *slot};
  double number = 0.0;
  if (slot->holds == Holds::shown && says_overload(word)) {
    into.push_back(value);
    return true;
  }
  if (slot->holds == Holds::code) {
    if (!parse_code(word, number)) return fail("a code that is no whole number");
  } else {
    if (!parse_number(word, number)) return fail("a reading that is no number within ±1e30");
    if (slot->holds == Holds::shown) {
      value.place = last_place(word) * unit_of(board_, *slot).scale();
    }
    number = in_si(board_, *slot, number);
    if (!may_be_measured(number)) return fail("a reading beyond ±1e30");
  }
  value.value = number;
  into.push_back(value);
  return true;
}

bool LineParser::parse(std::string_view line, std::vector<Value>& into) {
  into.clear();
  line = trimmed(line);
  if (line.empty() || line.front() == '#') return true;
  switch (form_) {
    case model::LineForm::pattern:
      return by_pattern(line, into);
    case model::LineForm::csv:
      return by_cells(line, into);
    case model::LineForm::pairs:
      return by_pairs(line, into);
    case model::LineForm::number:
      return take(places_.front().slot, line, into);
  }
  return false;
}

// Each value ends where the text behind it begins, or at a space.
bool LineParser::by_pattern(std::string_view line, std::vector<Value>& into) {
  for (std::size_t i = 0; i < places_.size(); ++i) {
    const auto& place = places_[i];
    if (!line.starts_with(place.before)) return fail("a line that is not the pattern");
    line.remove_prefix(place.before.size());
    const auto& next = i + 1 < places_.size() ? places_[i + 1].before : behind_;
    const auto end = next.empty() ? line.find_first_of(" \t") : line.find(next);
    const auto word = line.substr(0, end);
    if (end == std::string_view::npos && !next.empty()) {
      return fail("a line that is not the pattern");
    }
    if (!take(place.slot, trimmed(word), into)) return false;
    line.remove_prefix(word.size());
  }
  return line == behind_ || fail("a line that goes on behind the pattern");
}

bool LineParser::by_cells(std::string_view line, std::vector<Value>& into) {
  std::size_t column = 0;
  for (bool more = true; more; ++column) {
    const auto comma = line.find(',');
    more = comma != std::string_view::npos;
    const auto cell = trimmed(line.substr(0, comma));
    if (!heading_) {
      places_.push_back({.slot = slot_of(board_, cell)});
    } else if (column >= places_.size()) {
      return fail("more cells than the heading has");
    } else if (!take(places_[column].slot, cell, into)) {
      return false;
    }
    if (more) line.remove_prefix(comma + 1);
  }
  if (heading_) return column == places_.size() || fail("fewer cells than the heading has");
  heading_ = true;
  for (const auto& place : places_) {
    if (place.slot) return true;
  }
  places_.clear();
  heading_ = false;
  return fail("a heading without NAME.code or NAME.reading");
}

bool LineParser::by_pairs(std::string_view line, std::vector<Value>& into) {
  while (!line.empty()) {
    const auto end = line.find_first_of(" \t,;");
    const auto word = line.substr(0, end);
    const auto equals = word.find('=');
    if (equals != std::string_view::npos) {
      const auto slot = slot_of(board_, word.substr(0, equals));
      if (slot && !take(slot, word.substr(equals + 1), into)) return false;
    }
    if (end == std::string_view::npos) break;
    line.remove_prefix(end + 1);
  }
  return !into.empty() || fail("a line without NAME.code=... or NAME.reading=...");
}

}  // namespace tamlo::link
