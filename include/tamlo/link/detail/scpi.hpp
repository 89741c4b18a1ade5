// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <string>
#include <string_view>

#include "tamlo/export.hpp"
#include "tamlo/quantity/unit.hpp"

/// Answers of instruments, as IEEE 488.2 and SCPI-99 write them.
namespace tamlo {
namespace link TAMLO_API {

/// A number of an answer, SI; none where it is 9.9E+37 or -9.9E+37, an overload.
struct ScpiNumber {
  std::optional<double> value{};
};

/// The first number of an answer, in a unit that may follow it with its multiple ("12.5 mV", "3.3E0
/// KOHM"; case does not count, M is milli but in MOHM and MHZ). Without a unit it is in volts, ohms
/// and so on, whatever multiple `like` has, and in degrees Celsius where `like` is. Nothing for a
/// text that is no number within ±1e30 (9.91E+37 says so of itself), is of another kind than
/// `like`, or has a quoted text, as an answer to SYST:ERR? has.
std::optional<ScpiNumber> parse_scpi_number(std::string_view text, const quantity::Unit& like);

/// Tells whether an answer is an entry of an error queue: a whole number, alone or before a comma
/// (SCPI-99, 21.8).
bool is_error_entry(std::string_view answer);

/// Returns the first entry of the error queue: nothing for `0,"No error"`, else its text.
std::optional<std::string> scpi_error(std::string_view answer);

}  // namespace link
}  // namespace tamlo
