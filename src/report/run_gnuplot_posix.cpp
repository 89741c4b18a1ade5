// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cerrno>
#include <cstdio>
#include <cstring>
#include <memory>
#include <string_view>

#include "gnuplot.hpp"

namespace tamlo::report {
namespace {

// A file without a name, which goes away with the last who has it open.
class Scratch {
 public:
  Scratch() : file_(std::tmpfile(), std::fclose) {
    if (!file_) throw PlotError(fmt::format("no temporary file: {}", std::strerror(errno)));
  }
  int descriptor() const { return fileno(file_.get()); }
  void write(std::string_view text) {
    if (std::fwrite(text.data(), 1, text.size(), file_.get()) != text.size() ||
        std::fflush(file_.get()) != 0) {
      throw PlotError(fmt::format("no temporary file: {}", std::strerror(errno)));
    }
    std::rewind(file_.get());
  }
  std::string read() {
    std::rewind(file_.get());
    std::string text;
    char block[4096];
    while (const auto got = std::fread(block, 1, sizeof block, file_.get()))
      text.append(block, got);
    return text;
  }

 private:
  std::unique_ptr<std::FILE, int (*)(std::FILE*)> file_;
};

}  // namespace

// No name of a file reaches it, and no shell is between.
std::string run_gnuplot(const std::string& script) {
  Scratch input, output, errors;
  input.write(script);
  posix_spawn_file_actions_t actions;
  posix_spawn_file_actions_init(&actions);
  posix_spawn_file_actions_adddup2(&actions, input.descriptor(), STDIN_FILENO);
  posix_spawn_file_actions_adddup2(&actions, output.descriptor(), STDOUT_FILENO);
  posix_spawn_file_actions_adddup2(&actions, errors.descriptor(), STDERR_FILENO);
  char timeout[] = "timeout", limit[] = "60", gnuplot[] = "gnuplot", defaults[] = "-d",
       from[] = "-";
  char* const command[] = {timeout, limit, gnuplot, defaults, from, nullptr};
  pid_t process = 0;
  const int failed = posix_spawnp(&process, timeout, &actions, nullptr, command, environ);
  posix_spawn_file_actions_destroy(&actions);
  const char* const missing = "gnuplot is missing; install it with: apt-get install gnuplot-nox";
  if (failed == ENOENT) throw PlotError(missing);
  if (failed != 0) {
    throw PlotError(fmt::format("gnuplot cannot be started: {}", std::strerror(failed)));
  }
  int status = 0;
  while (waitpid(process, &status, 0) < 0 && errno == EINTR) {
  }
  if (WIFEXITED(status) && WEXITSTATUS(status) == 124) {
    throw PlotError("gnuplot did not end within a minute");
  }
  if (WIFEXITED(status) && WEXITSTATUS(status) == 127) throw PlotError(missing);
  if (status != 0) throw PlotError(fmt::format("gnuplot failed: {}", errors.read()));
  return output.read();
}

}  // namespace tamlo::report
