// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/error.hpp"
#include "tamlo/export.hpp"

namespace tamlo {
namespace io TAMLO_API {

/// Tells where something stands in its file, from 1.
struct FilePlace {
  std::size_t line = 0;
  std::size_t column = 0;
};

/// One thing that is wrong in what the user wrote. Lines and columns count from 1, columns in
/// characters; 0 means that the file as a whole is meant.
struct Diagnostic {
  std::string file{};
  std::size_t line = 0;
  std::size_t column = 0;
  std::size_t end_column = 0;  ///< behind the last character; 0 where it is not in the same line
  std::string key{};           ///< where: "channel.pack_voltage.span"
  std::string found{};         ///< what stands there, or what is wrong
  std::string allowed{};       ///< what may stand there; empty where `found` says it all
  /// Stable: "wrong-value", "missing-key", "unknown-key", "not-toml".
  std::string code = "wrong-value";
};

/// "board.toml:12:9: channel.pack_voltage.span: found "60"; allowed: ..."
std::string to_string(const Diagnostic& diagnostic);

/// All that is wrong in the input, in the order of the file; never empty.
class BadInput : public Error {
 public:
  /// Holds one problem or more.
  explicit BadInput(std::vector<Diagnostic> diagnostics);
  std::vector<Diagnostic> diagnostics;
};

/// A file that cannot be read or written, or a program that is missing.
class EnvironmentError : public Error {
 public:
  using Error::Error;
};

/// The whole file as text. Throws BadInput if it cannot be read: the name of an input file is
/// input.
std::string read_file(const std::string& path);

/// The known word nearest to `word`, or empty if none is near (more than a third of its letters
/// off).
std::string nearest(std::string_view word, const std::vector<std::string>& known);

/// "one of a, b, c (did you mean b?)"
std::string one_of(std::string_view word, const std::vector<std::string>& known);

}  // namespace io
}  // namespace tamlo
