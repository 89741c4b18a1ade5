// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo::model {
struct Board;
}  // namespace tamlo::model

namespace tamlo::chain {
struct Chain;
}  // namespace tamlo::chain

/// Is the description of a channel sound, and what needs attention? The catalogue with its reasons
/// is docs/findings.md.
namespace tamlo {
namespace check TAMLO_API {

enum class Severity : std::uint8_t {
  error,    ///< readings are wrong or a part is destroyed
  warning,  ///< a unit at its limits, or a target, is in danger
  advice,   ///< sound, but something is unused
};
std::string_view name(Severity severity);

/// Finding about a description: the problem, its effect, and its remedy.
struct Finding {
  std::string identifier{};  ///< stable: "span-beyond-range"
  Severity severity{};
  std::string channel{};
  std::string key{};     ///< of the description, that it is about: "channel.pack_voltage.span"
  std::string found{};   ///< what is so, with its numbers
  std::string why{};     ///< why it matters
  std::string remedy{};  ///< what cures it, with a number
  /// The remedy as single keys, "channel.x.average.count=64", where it is of these.
  std::vector<std::string> changes{};
};

/// Tells whether there is an error among the findings; remedies are not looked for. The chain is
/// that of the board.
bool has_error(const model::Board& board, const chain::Chain& chain);

/// Something that a description does not say, so that no finding and no figure can tell of it.
struct Omission {
  std::string channel{};
  std::string key{};   ///< of the description, where it would stand
  std::string what{};  ///< "no temperature range: drift counts nothing"
};

/// Returns the limits and conditions that the description of a channel lacks: of converter,
/// reference and parts, temperature range, settling, interference. Throws ChainError as
/// chain::build() does.
std::vector<Omission> omissions(const model::Board& board, std::string_view channel);

/// Returns what needs attention in one channel of a sound board, the gravest first
/// (docs/findings.md has each finding with its reason). A remedy was applied to a copy of the board
/// before it is named: there the finding is gone, no other error or warning came up, and advice
/// leaves the reading no less certain. Throws ChainError as chain::build() does.
std::vector<Finding> check(const model::Board& board, std::string_view channel);

/// Returns what needs attention in a sound quantity of several channels.
std::vector<Finding> check(const model::Board& board, const model::Quantity& quantity);

/// A finding, and where in the files the key stands that it is about. Lines and columns count from
/// 1; 0 where the board was built in code.
struct LocatedFinding : Finding {
  std::string file{};
  std::uint64_t line = 0, column = 0, end_column = 0;
};
/// All that is found about some channels and quantities.
struct Examined {
  std::vector<std::string> channels{};
  std::vector<std::string> quantities{};  ///< of several channels
  std::vector<LocatedFinding> findings{};
  std::vector<Omission> omissions{};     ///< what the board does not say
  std::vector<std::string> ideal{};      ///< channels of which no part has a limit
  std::vector<model::UsedPart> parts{};  ///< sections that take keys from files of parts

  /// Adds what is found about others, errors first.
  void add(Examined other);
  /// Number of findings of one severity.
  std::uint64_t count(Severity severity) const;
};
/// The findings of these channels and quantities, errors first. Throws as check().
Examined examine(const model::Board& board, const std::vector<std::string>& channels);

}  // namespace check
}  // namespace tamlo
