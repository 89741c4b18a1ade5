// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "tamlo/chain/chain.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo {
namespace io TAMLO_API {

/// A board, and the chain of each of its channels, in their order, as reading it built them.
struct LoadedBoard : model::Board {
  std::vector<chain::Chain> chains{};
};

/// Reads a board from one file, or from several of which a later one overrides keys of an earlier
/// one (docs/board-file.md). The board is whole and sound: names lead somewhere, every value has
/// its unit and lies where it may. Throws BadInput with everything that is wrong in all files.
/// `settings` are single keys that override all files: "channel.pack_voltage.average=64"; a value
/// that is not TOML by itself is taken as a text.
LoadedBoard load_board(const std::vector<std::string>& paths,
                       const std::vector<std::string>& settings = {});

/// Returns the same from memory; `name` stands for the file in messages. Files that the text names,
/// such as curves, are looked for where the program runs.
LoadedBoard load_board_text(std::string_view text, const std::string& name = "board");

/// Tells where a key of these files stands, as a later one overrides it, with its value; of a key
/// that is not there, the nearest table above it. Lines and columns count from 1. Throws BadInput.
struct KeyPlace {
  std::string file{};
  std::size_t line = 0, column = 0;
  std::size_t end_column = 0;  ///< behind the last character; 0 where it is not in the same line
};
std::vector<KeyPlace> places_of(const std::vector<std::string>& paths,
                                const std::vector<std::string>& keys);

/// The text at a key of these files, as a later one overrides it: "reference.precision.voltage", or
/// "channel.pack_voltage.frontend.0.divider.top". Throws BadInput where no text stands there.
std::string text_at(const std::vector<std::string>& paths, const std::string& key);

/// A text in datasheet notation with all its limits but noise times a factor, and rounded down to
/// so many digits, of all that there are by default. Throws BadInput for one without limits; `key`
/// is for the message.
std::string with_limits_times(const std::string& text, double factor, const std::string& key,
                              int digits = 0);

/// All that a work on these TOML files depends on: their texts, and those of the files that they
/// name (curves, profiles).
std::string texts_behind(const std::vector<std::string>& paths);

}  // namespace io
}  // namespace tamlo
