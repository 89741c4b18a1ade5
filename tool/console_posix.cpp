// SPDX-License-Identifier: Apache-2.0
#include "console.hpp"

#include <fcntl.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include <csignal>

namespace tamlo::tool {

std::vector<std::string> begin_console(int argc, char** argv) {
  std::signal(SIGXFSZ, SIG_IGN);  // a limit of size is an error of the write, as a full disk is
  return {argv + 1, argv + argc};
}

bool is_terminal(std::FILE* stream) { return ::isatty(fileno(stream)) == 1; }

std::size_t terminal_width() {
  winsize size{};
  if (!is_terminal(stdout) || ::ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) != 0) return 0;
  return size.ws_col;
}

bool shows_unicode() { return false; }

bool shows_colours() { return is_terminal(stdout); }

void fall_silent() {
  const int nowhere = ::open("/dev/null", O_WRONLY | O_CLOEXEC);
  if (nowhere < 0) return;
  ::dup2(nowhere, STDOUT_FILENO);
  ::dup2(nowhere, STDERR_FILENO);
  ::close(nowhere);
}

std::filesystem::path own_program() {
  std::error_code error;
  return std::filesystem::read_symlink("/proc/self/exe", error);
}

}  // namespace tamlo::tool
