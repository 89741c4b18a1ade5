// SPDX-License-Identifier: Apache-2.0
#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstdio>

#include "system_files.hpp"

namespace tamlo::io::system {
namespace {

// A pipe by name waits for its writer: not without end.
bool has_writer(int pipe) {
  constexpr int most_milliseconds = 5000;
  pollfd wait{.fd = pipe, .events = POLLIN, .revents = 0};
  return poll(&wait, 1, most_milliseconds) > 0;
}

// Why the file is not one to read; empty for one that is.
const char* unfit(int descriptor, const struct stat& about) {
  if (S_ISDIR(about.st_mode)) return "a directory";
  if (S_ISCHR(about.st_mode) && isatty(descriptor) == 0) return "a device, which may have no end";
  if (S_ISFIFO(about.st_mode) && !has_writer(descriptor)) return "a pipe that nobody writes to";
  return "";
}

constexpr mode_t usual = 0666;

}  // namespace

int open_to_read(const std::string& path, std::string& refused) {
  const int descriptor = open(path.c_str(), O_RDONLY | O_NONBLOCK | O_CLOEXEC);
  if (descriptor < 0) return -1;
  struct stat about {};
  if (fstat(descriptor, &about) == 0) {
    refused = unfit(descriptor, about);
    if (refused.empty() && fcntl(descriptor, F_SETFL, 0) == 0) return descriptor;
  }
  close(descriptor);
  return -1;
}

Standing standing(const std::string& path) {
  struct stat about {};
  if (stat(path.c_str(), &about) != 0) return {};
  // Nobody may write to a file of mode 0444, not even who is allowed to.
  const bool writable = (about.st_mode & 0222U) != 0 && access(path.c_str(), W_OK) == 0;
  // What is open already, such as /dev/stdout, stands in /proc.
  const bool regular = S_ISREG(about.st_mode) && !path.starts_with("/proc/");
  return {.there = true, .regular = regular, .writable = writable, .mode = about.st_mode & 07777U};
}

int open_to_write(const std::string& path) {
  const int descriptor = open(path.c_str(), O_WRONLY | O_CLOEXEC | O_NONBLOCK);
  if (descriptor >= 0) fcntl(descriptor, F_SETFL, fcntl(descriptor, F_GETFL) & ~O_NONBLOCK);
  return descriptor;
}

int create(const std::string& path) {
  return open(path.c_str(), O_CREAT | O_EXCL | O_WRONLY | O_CLOEXEC, usual);
}

int create_unnamed(const std::string& folder) {
  // Without /proc it could never be given a name.
  if (access("/proc/self/fd", X_OK) != 0) return -1;
  return open(folder.c_str(), O_TMPFILE | O_WRONLY | O_CLOEXEC, usual);
}

bool give_name(int descriptor, const std::string& path) {
  return linkat(AT_FDCWD, fmt::format("/proc/self/fd/{}", descriptor).c_str(), AT_FDCWD,
                path.c_str(), AT_SYMLINK_FOLLOW) == 0;
}

void hold(int descriptor) { flock(descriptor, LOCK_EX | LOCK_NB); }

bool set_mode(int descriptor, unsigned mode) { return fchmod(descriptor, mode) == 0; }

void remove_left_over(const std::string& path) {
  const int descriptor = open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NOFOLLOW);
  if (descriptor < 0) return;
  if (flock(descriptor, LOCK_EX | LOCK_NB) == 0) unlink(path.c_str());
  close(descriptor);
}

bool write_all(int descriptor, std::string_view bytes) {
  while (!bytes.empty()) {
    const auto written = ::write(descriptor, bytes.data(), bytes.size());
    if (written < 0 && errno == EINTR) continue;
    if (written < 0) return false;
    bytes.remove_prefix(static_cast<std::size_t>(written));
  }
  return true;
}

bool flush(int descriptor) { return fsync(descriptor) == 0; }

bool replace(const std::string& from, const std::string& to) {
  return std::rename(from.c_str(), to.c_str()) == 0;
}

// Renamed while it is held: closed, it could be taken for a left-over.
bool place(int descriptor, const std::string& from, const std::string& to) {
  const bool renamed = replace(from, to);
  return close(descriptor) == 0 && renamed;
}

bool link(const std::string& path, const std::string& second) {
  return ::link(path.c_str(), second.c_str()) == 0;
}

void remove(const std::string& path) { unlink(path.c_str()); }

int open_log(const std::string& path, bool& held) {
  // A pipe without a reader is no reason to wait.
  const int descriptor =
      open(path.c_str(), O_RDWR | O_CREAT | O_APPEND | O_CLOEXEC | O_NONBLOCK, 0644);
  held = descriptor >= 0 && is_regular(descriptor) && flock(descriptor, LOCK_EX | LOCK_NB) != 0;
  return descriptor;
}

bool is_regular(int descriptor) {
  struct stat about {};
  return fstat(descriptor, &about) == 0 && S_ISREG(about.st_mode);
}

bool cut(int descriptor, std::size_t size) {
  return ftruncate(descriptor, static_cast<off_t>(size)) == 0;
}

}  // namespace tamlo::io::system
