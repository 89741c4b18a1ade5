// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "tamlo/explore/explore.hpp"
#include "tamlo/export.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/diagnostics.hpp"

/// Reader of choices files: values that explore may set, and their cost (docs/choices-file.md).
namespace tamlo {
namespace io TAMLO_API {

/// Content of a choices file.
struct ChoicesFile {
  explore::Space space{};  ///< but for its channels
  /// Settings of each choice and option: what is set of the board:
  /// "channel.pack_voltage.average=64".
  std::vector<std::vector<std::vector<std::string>>> settings{};
  /// Places of each choice and of its options; options of a range stand where the range does.
  struct Places {
    FilePlace choice{};
    std::vector<FilePlace> options{};
  };
  std::vector<Places> places{};
};

/// Throws BadInput with everything that is wrong.
ChoicesFile load_choices(const std::string& path);

/// Holds choices against their board and its files: every key is one that the board has or may
/// have, and every value can be read there, alone or with an option of another choice; of more than
/// 16 values every so-many-th is read. Throws BadInput with everything that is wrong, at its place.
void check_choices(const std::string& path, const ChoicesFile& file, const model::Board& board,
                   const BoardFiles& files);

/// All settings of a pick, in the order of the choices.
std::vector<std::string> settings_of(const ChoicesFile& file, const explore::Pick& pick);

/// Returns the pick of a candidate as an overlay of the board; an adjustment as that of each of the
/// channels that were asked about.
std::string choices_overlay(const ChoicesFile& file, const explore::Candidate& candidate,
                            const model::Board& board);

}  // namespace io
}  // namespace tamlo
