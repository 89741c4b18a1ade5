// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "tamlo/export.hpp"

namespace tamlo {
namespace io TAMLO_API {

/// A file that is being written. What stood there stays whole until the new one is complete: the
/// bytes go to a file without a name in the same folder, which vanishes if the program ends before
/// (where the file system has none such, to one with a random name, which the next writer of the
/// target takes away). It is on the disk before it has the target's name. Follows links to their
/// target and keeps the mode of a file that stood there. A device or a pipe is written to directly.
/// All throw EnvironmentError with the system's words.
class OutputFile {
 public:
  /// Opens it, before the work begins. Refuses a folder, and a file that may not be written.
  explicit OutputFile(std::string path);
  ~OutputFile();
  OutputFile(OutputFile&& other) noexcept;
  OutputFile(const OutputFile&) = delete;
  OutputFile& operator=(const OutputFile&) = delete;

  /// Appends. Throws EnvironmentError.
  void write(std::string_view bytes);
  /// Returns the descriptor, for libraries that write by themselves; it stays this object's.
  int descriptor() const { return descriptor_; }
  /// The first half of finish(): all is written and has a name beside the target. What may fail,
  /// fails here.
  void prepare();
  /// Puts the new file in the place of the old one.
  void finish();
  /// Prepares for files that belong together: keeps the old one until this object ends, and puts it
  /// back where another of them failed after this one was finished.
  void keep_old();
  void put_back();

 private:
  std::string path_;                     // as the user wrote it
  std::string target_{};                 // behind links; empty for what is written to directly
  std::string temporary_{};              // while it has a name
  std::string kept_{};                   // name of the old one
  bool stood_ = false, placed_ = false;  // an old one; the new one
  int descriptor_ = -1;

  [[noreturn]] void fail();
};

/// Writes a text as OutputFile does. Throws EnvironmentError.
void write_file(const std::string& path, std::string_view text);

/// The files that one command writes: all of them, or none.
class OutputFiles {
 public:
  /// Opens each, apart from empty names.
  explicit OutputFiles(const std::vector<std::string>& paths);
  /// One of them, by the name that it was opened by.
  void write(const std::string& path, std::string_view bytes);
  /// One more. A file that stands there is only written over if it begins with `own`.
  void add(const std::string& path, std::string_view own);
  /// Puts all of them in their places. Throws EnvironmentError; then none is.
  void finish();

 private:
  std::vector<std::pair<std::string, OutputFile>> files_{};
};

}  // namespace io
}  // namespace tamlo
