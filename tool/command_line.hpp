// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

namespace tamlo::tool {

/// Parsed command line. Without a command to run (--help, --version, wrong usage): the text to
/// print, and the exit status.
struct CommandLine {
  std::function<int()> run{};
  std::optional<int> exit;  ///< where no command is to run
  std::string said{};       ///< help, or what is wrong
  bool for_people = true;   ///< false: for a program, which takes it as it is
};
/// Reads the words behind the program's name. Throws io::BadInput for an output that is one of the
/// inputs.
CommandLine read_command_line(const std::vector<std::string>& words);

}  // namespace tamlo::tool
