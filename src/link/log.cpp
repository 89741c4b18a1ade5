// SPDX-License-Identifier: Apache-2.0
#include "tamlo/link/detail/log.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <ctime>

#include "tamlo/io/diagnostics.hpp"

namespace tamlo::link {

Log::Log(const std::string& path, const std::string& heading, const char* of_others) : path_(path) {
  // A pipe without a reader is no reason to wait.
  descriptor_ = ::open(path.c_str(), O_RDWR | O_CREAT | O_APPEND | O_CLOEXEC | O_NONBLOCK, 0644);
  if (descriptor_ < 0) fail();
  try {
    resume(heading, of_others);
  } catch (...) {
    ::close(descriptor_);
    throw;
  }
  synced_ = std::chrono::steady_clock::now();
}

Log::~Log() {
  if (descriptor_ < 0) return;
  ::fdatasync(descriptor_);
  ::close(descriptor_);
}

void Log::fail() const {
  throw io::EnvironmentError(fmt::format("{}: {}", path_, std::strerror(errno)));
}

void Log::refuse(const char* why) const {
  throw io::EnvironmentError(fmt::format("{}: {}", path_, why));
}

// Nothing is changed before it is known that the file is a log of this kind and nobody else's: what
// stands there begins with the heading. Only then a torn row at its end is cut off.
void Log::resume(const std::string& heading, const char* of_others) {
  struct stat about {};
  if (::fstat(descriptor_, &about) != 0) fail();
  if (!S_ISREG(about.st_mode)) refuse("not a file that rows can be added to");
  if (::flock(descriptor_, LOCK_EX | LOCK_NB) != 0) refuse("another program is writing it");
  const auto expected = heading + "\n";
  std::string head;
  char bytes[65536];
  std::uint64_t size = 0, whole = 0, ends = 0;
  for (;;) {
    const auto got = ::read(descriptor_, bytes, sizeof bytes);
    if (got < 0 && errno == EINTR) continue;
    if (got < 0) fail();
    if (got == 0) break;
    const std::string_view piece(bytes, static_cast<std::size_t>(got));
    head += piece.substr(0, expected.size() - std::min(expected.size(), head.size()));
    ends += static_cast<std::uint64_t>(std::ranges::count(piece, '\n'));
    if (const auto last = piece.rfind('\n'); last != piece.npos) whole = size + last + 1;
    size += piece.size();
  }
  // A heading that was torn itself has nothing behind it.
  const bool begun = size < expected.size() && expected.starts_with(head);
  if (!begun && head != expected) refuse(of_others);
  torn_ = size - whole;
  if (torn_ > 0 && ::ftruncate(descriptor_, static_cast<off_t>(whole)) != 0) fail();
  if (whole == 0) {
    append(expected);
    sync();
    return;
  }
  rows_ = ends - 1;
}

void Log::append(std::string_view bytes) {
  while (!bytes.empty()) {
    const auto done = ::write(descriptor_, bytes.data(), bytes.size());
    if (done < 0 && errno == EINTR) continue;
    if (done < 0) fail();
    bytes.remove_prefix(static_cast<std::size_t>(done));
  }
}

void Log::row(std::string_view text) {
  append(std::string(text) + "\n");
  ++rows_;
  if (std::chrono::steady_clock::now() - synced_ >= std::chrono::seconds(1)) sync();
}

void Log::sync() {
  if (::fdatasync(descriptor_) != 0 && errno != EINVAL) fail();
  synced_ = std::chrono::steady_clock::now();
}

std::string utc_now() {
  const std::time_t now = std::time(nullptr);
  std::tm parts{};
  ::gmtime_r(&now, &parts);
  char text[32];
  return {text, std::strftime(text, sizeof text, "%Y-%m-%dT%H:%M:%S", &parts)};
}

}  // namespace tamlo::link
