// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <toml++/toml.h>

#include <string>
#include <string_view>
#include <vector>

#include "field.hpp"
#include "tamlo/io/board_file.hpp"

namespace tamlo::io {

/// A board as one table, and which of its keys came from files of parts.
struct MergedBoard {
  toml::table table{};
  std::vector<model::UsedPart> parts{};
};
/// All files as one, a later one's keys over an earlier one's, single keys over all of them
/// ("channel.pack_voltage.average=64"), and what they take from files of parts. Throws BadInput.
MergedBoard merged_files(const std::vector<std::string>& paths,
                         const std::vector<std::string>& settings, FileTexts& texts);

/// Single keys as one table, in which elements of arrays go by their numbers. Throws BadInput.
toml::table merged_settings(const std::vector<std::string>& settings);

/// The file that a place is in; of a single key, which is in none, the board's.
const std::string& file_behind(const std::string& place, const std::string& board);

/// Gives each section with a key `use` the keys of that part which it does not have itself, and
/// takes the key away. Throws BadInput for parts that are missing, of another kind, or outside the
/// folders of the board.
std::vector<model::UsedPart> expand_parts(toml::table& board, FileTexts& texts);

/// A place as messages have it, "channel.x.frontend[0].divider.top", in the keys of TOML:
/// "channel.x.frontend.0.divider.top".
std::string dotted(std::string place);

/// Node that a path of keys and numbers of elements leads to, or the last one on the way.
struct Walk {
  const toml::node* nearest = nullptr;
  bool whole = true;  ///< to its end
};
Walk walk(const toml::table& from, std::string_view path);

}  // namespace tamlo::io
