// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <cstdint>
#include <optional>
#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/error.hpp"
#include "tamlo/export.hpp"
#include "tamlo/quantity/unit.hpp"

namespace tamlo {
namespace quantity TAMLO_API {

/// Text that is not in the notation. `column` counts characters (not bytes) from 1.
class NotationError : public Error {
 public:
  /// The column counts from 1.
  NotationError(std::size_t column, std::string problem, std::string hint);
  std::size_t column;
  std::string problem;  ///< a text that cannot stand there
  std::string hint;     ///< texts that can
};

/// The length of the decimal number at the head of `text`: 0 if there is none. The first point of
/// ".." does not belong to a number, so that "0..60" holds two.
std::size_t number_length(std::string_view text);

/// Reads a whole decimal number and moves it to SI by `unit`. Powers of ten are applied to the
/// text, so "2.5 mV" is the double nearest to 0.0025, exactly.
/// Throws NotationError for anything but one finite number; `column` is where `text` begins.
double parse_number(std::string_view text, const Unit& unit = {}, std::size_t column = 1);

/// The shortest text that parse_number reads back to the same bits in the same unit. Where the
/// unit has no such text (a factor like 60 may round), the result is empty.
std::string format_number(double si, const Unit& unit = {});

/// A whole number of 0 or more without a sign: 31, 0x1F, 0b11111, 0o37. `prefixes` are the letters
/// that may stand behind the 0. Nothing for any other text, and beyond 64 bits.
std::optional<std::uint64_t> parse_whole(std::string_view text, std::string_view prefixes = "xbo");

/// Characters in UTF-8 text.
std::size_t characters(std::string_view text);

/// Returns a text that is safe for a terminal or a file: control characters (C0, C1, DEL), those
/// that turn the direction of writing, and bytes that are not UTF-8 become \n, \t or \xNN.
std::string printable(std::string_view text);

/// The text in double quotes, those in it doubled, as a CSV has it (RFC 4180).
std::string csv_quoted(std::string_view text);
/// A text as TOML has it in its quotes.
std::string toml_quoted(std::string_view text);
/// A name as TOML takes it for a key: bare where it can be, else in quotes.
std::string toml_key(std::string_view name);

/// The preferred numbers of a series from 1 up to below 10, IEC 60063:2015: of 3, 6, 12 or 24 the
/// rounded ones of tradition, of 48, 96 or 192 those of three digits. Empty for another count.
std::vector<double> preferred_numbers(int count);

/// Those of all decades between two positive numbers, ends included.
std::vector<double> preferred_between(int count, double low, double high);

}  // namespace quantity
}  // namespace tamlo
