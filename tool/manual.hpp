// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "help.hpp"

// Manual pages and completion of shells, from the same description as --help.
namespace tamlo::tool {

/// A page of section 1 for one command, or for the tool where there is none.
std::string manual_page(const std::vector<Help>& all, const Help* command);

/// Returns a completion script for commands, options, their values and the channels of a board: for
/// "bash", "zsh" or "fish"; empty for another shell.
std::string completion(const std::vector<Help>& all, std::string_view shell);

}  // namespace tamlo::tool
