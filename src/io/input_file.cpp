// SPDX-License-Identifier: Apache-2.0
#include "input_file.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>

#include "tamlo/io/diagnostics.hpp"

namespace tamlo::io {
namespace {

[[noreturn]] void refuse(const std::string& path, std::string found) {
  throw BadInput({{.file = path, .problem = std::move(found)}});
}

[[noreturn]] void cannot_read(const std::string& path) {
  throw EnvironmentError(fmt::format("cannot read {}: {}", path, std::strerror(errno)));
}

// A pipe by name waits for its writer: not without end.
bool has_writer(int pipe) {
  constexpr int most_milliseconds = 5000;
  pollfd wait{.fd = pipe, .events = POLLIN, .revents = 0};
  return poll(&wait, 1, most_milliseconds) > 0;
}

}  // namespace

InputFile open_input(const std::string& path) {
  if (path == "-") return InputFile(stdin);
  const int descriptor = open(path.c_str(), O_RDONLY | O_NONBLOCK | O_CLOEXEC);
  if (descriptor < 0 && errno == ENOENT) refuse(path, "no such file");
  if (descriptor < 0 && errno != EACCES && errno != ENOTDIR && errno != ELOOP &&
      errno != ENAMETOOLONG && errno != ENXIO) {
    cannot_read(path);
  }
  if (descriptor < 0) refuse(path, std::strerror(errno));
  InputFile file(fdopen(descriptor, "rb"));
  struct stat what {};
  if (!file || fstat(descriptor, &what) != 0) cannot_read(path);
  if (S_ISDIR(what.st_mode)) refuse(path, "a directory");
  if (S_ISCHR(what.st_mode) && isatty(descriptor) == 0) {
    refuse(path, "a device, which may have no end");
  }
  if (S_ISFIFO(what.st_mode) && !has_writer(descriptor))
    refuse(path, "a pipe that nobody writes to");
  if (fcntl(descriptor, F_SETFL, 0) != 0) cannot_read(path);
  return file;
}

}  // namespace tamlo::io
