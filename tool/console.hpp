// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>
#include <cstdio>
#include <filesystem>
#include <string>
#include <vector>

// What systems do in their own ways with a terminal: console_posix.cpp, console_windows.cpp.
namespace tamlo::tool {

/// The words of the command line, UTF-8, and the standard streams as bytes.
std::vector<std::string> begin_console(int argc, char** argv);
bool is_terminal(std::FILE* stream);
/// Columns of the terminal that standard output is; 0 for anything else.
std::size_t terminal_width();
/// Tells whether letters beyond ASCII come through where no locale is set.
bool shows_unicode();
/// Tells whether standard output is a terminal that takes colours.
bool shows_colours();
/// Sends both outputs nowhere.
void fall_silent();
/// The file of the running program.
std::filesystem::path own_program();

}  // namespace tamlo::tool
