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

}  // namespace tamlo::io
