// SPDX-License-Identifier: Apache-2.0
#include "tamlo/link/detail/log.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <ctime>

#include "tamlo/io/diagnostics.hpp"

namespace tamlo::link {

Log::Log(const std::string& path, const std::string& heading) : path_(path) {
  descriptor_ = ::open(path.c_str(), O_RDWR | O_CREAT | O_APPEND | O_CLOEXEC, 0644);
  if (descriptor_ < 0) fail();
  resume(heading);
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

// What stands there must begin with the heading, and end with the end of a row.
void Log::resume(const std::string& heading) {
  std::string text;
  char bytes[65536];
  for (;;) {
    const auto got = ::read(descriptor_, bytes, sizeof bytes);
    if (got < 0 && errno == EINTR) continue;
    if (got < 0) fail();
    if (got == 0) break;
    text.append(bytes, static_cast<std::size_t>(got));
  }
  const auto whole = text.rfind('\n') == std::string::npos ? 0 : text.rfind('\n') + 1;
  torn_ = text.size() - whole;
  if (torn_ > 0 && ::ftruncate(descriptor_, static_cast<off_t>(whole)) != 0) fail();
  text.resize(whole);
  if (text.empty()) {
    append(heading + "\n");
    sync();
    return;
  }
  if (!text.starts_with(heading + "\n")) {
    throw io::EnvironmentError(fmt::format(
        "{}: a file with another heading stands there, and is not written over", path_));
  }
  rows_ = static_cast<std::uint64_t>(std::ranges::count(text, '\n')) - 1;
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
