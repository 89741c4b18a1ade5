// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/error.hpp"
#include "tamlo/export.hpp"
#include "tamlo/problem.hpp"

namespace tamlo {
namespace io TAMLO_API {

/// Place in a file, lines and columns from 1.
struct FilePlace {
  std::size_t line = 0;
  std::size_t column = 0;
};

/// All that is wrong in the input, in the order of the file; never empty.
class BadInput : public Error {
 public:
  /// Holds one problem or more.
  explicit BadInput(std::vector<Problem> problems);
  std::vector<Problem> problems;
};

/// Collects what is wrong in one file.
class FileProblems {
 public:
  /// Holds nothing yet.
  explicit FileProblems(std::string file);
  /// Adds a problem at a place, of the whole file at its beginning; `key` may be empty.
  void add(const FilePlace& at, std::string key, std::string problem, std::string hint);
  std::size_t count() const { return found_.size(); }  ///< of problems
  /// Throws BadInput with all, where there are any.
  void refuse_any() const;

 private:
  std::string file_;
  std::vector<Problem> found_{};
};

/// Throws BadInput for what stands on the command line behind `option`.
[[noreturn]] void refuse(std::string option, std::string problem, std::string hint);

using tamlo::EnvironmentError;

/// The whole file as text; of standard input, "-", and what else is open already, what came when it
/// was read first. Throws BadInput if it cannot be read: the name of an input file is input.
std::string read_file(const std::string& path);

/// The known word nearest to `word`, or empty if none is near (more than a third of its letters
/// off).
std::string nearest(std::string_view word, const std::vector<std::string>& known);

/// Returns `one of a, b, c (did you mean "b"?)`, and of more than eight words only the nearest one.
/// A `kind` stands before a list: "a channel of the board: ".
std::string one_of(std::string_view word, const std::vector<std::string>& known,
                   std::string_view kind = "");

}  // namespace io
}  // namespace tamlo
