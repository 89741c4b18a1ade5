// SPDX-License-Identifier: Apache-2.0
#include "console.hpp"

#include <fcntl.h>
#include <io.h>
#include <windows.h>
// After windows.h.
#include <shellapi.h>

#include <array>

namespace tamlo::tool {
namespace {

std::string text_of(const wchar_t* wide) {
  const auto text = std::filesystem::path(wide).u8string();
  return {text.begin(), text.end()};
}

}  // namespace

std::vector<std::string> begin_console(int, char**) {
  // The same bytes as elsewhere: no carriage returns, no end at Ctrl-Z.
  for (std::FILE* const stream : {stdin, stdout, stderr}) _setmode(_fileno(stream), _O_BINARY);
  std::vector<std::string> words;
  int count = 0;
  auto** const all = CommandLineToArgvW(GetCommandLineW(), &count);
  for (int i = 1; i < count; ++i) words.push_back(text_of(all[i]));
  LocalFree(all);
  return words;
}

// A null device is one of characters, too.
bool is_terminal(std::FILE* stream) {
  DWORD mode = 0;
  return GetConsoleMode(reinterpret_cast<HANDLE>(_get_osfhandle(_fileno(stream))), &mode) != 0;
}

std::size_t terminal_width() {
  CONSOLE_SCREEN_BUFFER_INFO about{};
  if (GetConsoleScreenBufferInfo(GetStdHandle(STD_OUTPUT_HANDLE), &about) == 0) return 0;
  return static_cast<std::size_t>(about.srWindow.Right - about.srWindow.Left + 1);
}

bool shows_unicode() { return GetConsoleOutputCP() == CP_UTF8; }

bool shows_colours() {
  auto* const console = GetStdHandle(STD_OUTPUT_HANDLE);
  DWORD mode = 0;
  constexpr DWORD by_sequences = 4;  // ENABLE_VIRTUAL_TERMINAL_PROCESSING
  return GetConsoleMode(console, &mode) != 0 && SetConsoleMode(console, mode | by_sequences) != 0;
}

void fall_silent() {
  std::freopen("NUL", "wb", stdout);
  std::freopen("NUL", "wb", stderr);
}

std::filesystem::path own_program() {
  std::array<wchar_t, 32768> path{};
  GetModuleFileNameW(nullptr, path.data(), static_cast<DWORD>(path.size()));
  return path.data();
}

}  // namespace tamlo::tool
