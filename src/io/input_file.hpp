// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdio>
#include <memory>
#include <string>

namespace tamlo::io {

struct CloseFile {
  void operator()(std::FILE* file) const {
    if (file != stdin) std::fclose(file);
  }
};
using InputFile = std::unique_ptr<std::FILE, CloseFile>;

/// Open for reading; standard input for "-". Throws BadInput for what is not there, for a folder,
/// and for a pipe that nobody opens for writing within five seconds.
InputFile open_input(const std::string& path);

/// Tells whether the path is of something that is open already, such as <(...) of a shell: a second
/// reader would find it at its end.
inline bool is_read_once(const std::string& path) {
  return path == "-" || path == "/dev/stdin" || path.starts_with("/dev/fd/") ||
         path.starts_with("/proc/self/fd/");
}

}  // namespace tamlo::io
