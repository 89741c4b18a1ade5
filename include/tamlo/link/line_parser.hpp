// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/model/board.hpp"

/// What stands in the lines that a firmware prints.
namespace tamlo {
namespace link TAMLO_API {

enum class Holds : std::uint8_t {
  code,     ///< a register value
  reading,  ///< of the firmware, in the unit of the channel's span
};
std::string_view name(Holds holds);

/// One value of a line.
struct Value {
  std::size_t channel = 0;  ///< of the board
  Holds holds = Holds::code;
  double value = 0.0;  ///< a code, or SI
};

/// Reads lines of one link, each on its own. About 0.3 us a line.
class LineParser {
 public:
  /// Throws ArgumentError for a pattern that names no channel of the board, or nothing at all.
  LineParser(const model::Link& link, const model::Board& board);

  /// The values of a line, empty for one that has none: a heading, a comment. Throws nothing: a
  /// line that does not fit gives false, and problem() says why.
  bool parse(std::string_view line, std::vector<Value>& into);
  const std::string& problem() const { return problem_; }

 private:
  struct Slot {
    std::string before{};  ///< the text that stands before it
    std::size_t channel = 0;
    Holds holds = Holds::code;
    bool skipped = false;  ///< "{}": any word
  };
  const model::Board& board_;
  model::LineForm form_;
  std::vector<Slot> slots_{};
  std::string behind_{};  ///< the text behind the last
  bool heading_ = false;  ///< of a CSV, has been seen
  std::string problem_{};

  bool by_pattern(std::string_view line, std::vector<Value>& into);
  bool by_cells(std::string_view line, std::vector<Value>& into);
  bool by_pairs(std::string_view line, std::vector<Value>& into);
  bool take(const Slot& slot, std::string_view word, std::vector<Value>& into);
  bool fail(std::string_view what);
  bool slot_of(std::string_view name, Slot& slot) const;
};

/// A whole number: 2048, 0x800, 0b1000, 0o17, also negative; false for any other text.
bool parse_code(std::string_view text, double& value);

}  // namespace link
}  // namespace tamlo
