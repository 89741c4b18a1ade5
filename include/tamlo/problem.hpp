// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <string>
#include <string_view>

#include "tamlo/export.hpp"

namespace tamlo TAMLO_API {

/// Describes one thing that is wrong in what a user wrote: in a file, in a setting, on the command
/// line or in code. Lines and columns count from 1, columns in characters; 0 stands for the file as
/// a whole, or for no file.
struct Problem {
  std::string file{};
  std::size_t line = 0;
  std::size_t column = 0;
  std::size_t end_column = 0;  ///< behind the last character; 0 where it is not in the same line
  std::string path{};          ///< keys that lead there: "channel.pack_voltage.span"
  std::string problem{};       ///< a value that cannot stand there, or a statement of its own
  std::string hint{};          ///< values that can, or the next step; empty where none is needed
  /// Stable: "wrong-value", "missing-key", "unknown-key", "not-toml", "not-finite",
  /// "out-of-bounds", "duplicate", "not-a-signal".
  std::string code = "wrong-value";
};

/// Returns problem and hint as one sentence: `found "60", expected two values`, and where the
/// problem is a statement of its own, `no channel "w": expected one of u, v`.
std::string sentence(std::string_view problem, std::string_view hint);

/// Returns `board.toml:12:9: channel.pack_voltage.span: found "60", expected two values`. Controls
/// are shown as text, and long texts by their first 300 bytes.
std::string to_string(const Problem& problem);

}  // namespace tamlo TAMLO_API
