// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/detail/log.hpp"

#include <fmt/chrono.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <ctime>

#include "system_files.hpp"
#include "tamlo/io/diagnostics.hpp"

namespace tamlo::io {

Log::Log(const std::string& path, const std::string& heading, const char* of_others) : path_(path) {
  bool held = false;
  descriptor_ = system::open_log(path, held);
  if (descriptor_ < 0 && !held) fail();
  try {
    if (held) refuse("another program is writing it");
    resume(heading, of_others);
  } catch (...) {
    if (descriptor_ >= 0) ::close(descriptor_);
    throw;
  }
  synced_ = std::chrono::steady_clock::now();
}

Log::~Log() {
  if (descriptor_ < 0) return;
  system::flush(descriptor_);
  ::close(descriptor_);
}

void Log::fail() const {
  throw EnvironmentError(fmt::format("{}: {}", path_, std::strerror(errno)));
}

void Log::refuse(const char* why) const {
  throw EnvironmentError(fmt::format("{}: {}", path_, why));
}

// Nothing is changed before it is known that the file is a log of this kind and nobody else's: what
// stands there begins with the heading. Only then a torn row at its end is cut off.
void Log::resume(const std::string& heading, const char* of_others) {
  if (!system::is_regular(descriptor_)) refuse("not a file that rows can be added to");
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
  if (torn_ > 0 && !system::cut(descriptor_, whole)) fail();
  if (whole == 0) {
    append(expected);
    sync();
    return;
  }
  rows_ = ends - 1;
}

void Log::append(std::string_view bytes) {
  if (!system::write_all(descriptor_, bytes)) fail();
}

void Log::row(std::string_view text) {
  append(std::string(text) + "\n");
  ++rows_;
  if (std::chrono::steady_clock::now() - synced_ >= std::chrono::seconds(1)) sync();
}

void Log::sync() {
  if (!system::flush(descriptor_) && errno != EINVAL) fail();
  synced_ = std::chrono::steady_clock::now();
}

std::string utc_now() {
  return fmt::format("{:%Y-%m-%dT%H:%M:%S}", fmt::gmtime(std::time(nullptr)));
}

}  // namespace tamlo::io
