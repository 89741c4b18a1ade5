// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/model/board.hpp"

/// Parser of the lines that a firmware prints.
namespace tamlo {
namespace link TAMLO_API {

enum class Holds : std::uint8_t {
  code,     ///< a register value
  reading,  ///< of the firmware, in the unit of the channel's span
  shown,    ///< by a meter, in the unit of its ranges
};
std::string_view name(Holds holds);

/// Value that a number in a line stands for: "pack_voltage.code", "coolant_flow.reading",
/// "bench.shown".
struct Slot {
  std::size_t index = 0;  ///< of the channel, or of the meter, among those of the board
  Holds holds = Holds::code;
};

/// Nothing for a name that is none of the board's.
std::optional<Slot> slot_of(const model::Board& board, std::string_view name);
/// Throws ArgumentError for such a name, with that of the link that has it.
Slot slot_of(const model::Board& board, std::string_view name, const model::Link& link);

/// The unit in which its numbers come; none of a code.
const quantity::Unit& unit_of(const model::Board& board, const Slot& slot);

/// Largest size of a number that a link may bring, in SI; one beyond it is malformed.
constexpr double largest_number = 1e30;

/// One value that came over a link.
struct Value {
  Slot of{};
  /// Code, or SI, within ±largest_number; none where a meter says that it is beyond its range.
  std::optional<double> value{};
  double place = 0.0;  ///< SI, of the last digit that a meter showed, where the text says it

  bool overload() const { return !value; }
};

/// Returns the number at a slot in SI: a code unchanged, a reading by the unit of its span, a
/// meter's value by the unit of its ranges.
double in_si(const model::Board& board, const Slot& slot, double number);

/// Reads lines of one link, each on its own. About 0.3 us a line.
class LineParser {
 public:
  /// Throws ArgumentError for a pattern that names no channel of the board, or nothing at all.
  LineParser(const model::Link& link, const model::Board& board);

  /// The values of a line, empty for one that has none: a heading, a comment. Throws nothing: a
  /// line that does not fit gives false, and problem() says why.
  bool parse(std::string_view line, std::vector<Value>& into);
  /// Why the last line was none.
  const std::string& problem() const { return problem_; }

 private:
  struct Place {
    std::string before{};        ///< the text that stands before it
    std::optional<Slot> slot{};  ///< none for "{}": any word
  };
  const model::Board& board_;
  model::LineForm form_;
  std::vector<Place> places_{};
  std::string behind_{};  ///< the text behind the last
  bool heading_ = false;  ///< of a CSV, has been seen
  std::string problem_{};

  bool by_pattern(std::string_view line, std::vector<Value>& into);
  bool by_cells(std::string_view line, std::vector<Value>& into);
  bool by_pairs(std::string_view line, std::vector<Value>& into);
  bool take(const std::optional<Slot>& slot, std::string_view word, std::vector<Value>& into);
  bool fail(std::string_view what);
};

/// One of the last place of a number in plain decimals: 0.01 of "12.50", 1 of "12"; 0 of any other
/// text.
double last_place(std::string_view text);

/// A finite number, whole text; false for any other, and for one beyond ±largest_number.
bool parse_number(std::string_view text, double& value);

/// True for a number that may be measured: finite, and within ±largest_number.
bool may_be_measured(double number);

/// A whole number: 2048, 0x800, 0b1000, 0o17, also negative; false for any other text.
bool parse_code(std::string_view text, double& value);

}  // namespace link
}  // namespace tamlo
