// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/chain/chain.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo::check {
struct Examined;
}  // namespace tamlo::check

namespace tamlo {
namespace io TAMLO_API {

/// A board, and the chain of each of its channels, in their order, as reading it built them.
struct LoadedBoard : model::Board {
  std::vector<chain::Chain> chains{};
  /// Paths of all that was read: files of the board, then the parts and curves that they name.
  std::vector<std::string> files{};
};

/// Returns the board that TOML files describe (docs/board-file.md), with the chain of each channel.
/// A later file overrides keys of an earlier one; `settings` are single keys that override all
/// files, such as "channel.pack_voltage.average=64" (a value that is no TOML value is a text).
/// Values come back in SI units, a difference of degrees Celsius in K, each checked for its unit
/// and its range. Throws BadInput with every mistake of all files together, each with its file,
/// line, column and key. docs/limits.md has all bounds.
///
///     const auto board = tamlo::io::load_board({"board.toml", "measured.toml"});
LoadedBoard load_board(const std::vector<std::string>& paths,
                       const std::vector<std::string>& settings = {});

/// The files of a board, each of which is read once: all boards of a long work, which differ in a
/// few keys, are of the same texts, whatever becomes of the files meanwhile. Several threads may
/// use one.
class BoardFiles {
 public:
  /// Takes one path or more, and reads nothing yet. Throws ArgumentError for none.
  explicit BoardFiles(std::vector<std::string> paths);
  ~BoardFiles();
  BoardFiles(const BoardFiles&) = delete;
  BoardFiles& operator=(const BoardFiles&) = delete;
  /// Returns the board as load_board() does.
  LoadedBoard with(const std::vector<std::string>& settings = {}) const;
  /// Returns all that a work on them and on `others` depends on: their texts, and those of the
  /// files (parts, curves) of all boards that were made of them. Throws BadInput.
  std::string all_texts(const std::vector<std::string>& others = {}) const;

 private:
  std::vector<std::string> paths_;
  std::unique_ptr<class FileTexts> texts_;
};

/// Returns the board that a TOML text describes; `name` stands for the file in messages. Files that
/// the text names, such as curves, are looked for in the current folder. Units, range and errors
/// are those of load_board().
LoadedBoard load_board_text(std::string_view text, const std::string& name = "board");

/// Place of a key in these files, as a later one overrides it, with its value; for a key that is
/// not there, the nearest table above it. Lines and columns count from 1. Throws BadInput.
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

/// Says of each finding where its key stands in these files.
void locate(check::Examined& check, const std::vector<std::string>& paths);

}  // namespace io
}  // namespace tamlo
