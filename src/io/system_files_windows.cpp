// SPDX-License-Identifier: Apache-2.0
#include <fcntl.h>
#include <io.h>
#include <share.h>
#include <sys/stat.h>
#include <windows.h>

#include <algorithm>
#include <cerrno>
#include <filesystem>

#include "system_files.hpp"

#include "tamlo/io/detail/path.hpp"
namespace tamlo::io::system {
namespace {

std::wstring wide(const std::string& path) { return path_of(path).wstring(); }

int opened(const std::string& path, int flags, int shared) {
  int descriptor = -1;
  const auto failed = _wsopen_s(&descriptor, wide(path).c_str(), flags | _O_BINARY | _O_NOINHERIT,
                                shared, _S_IREAD | _S_IWRITE);
  if (failed == 0) return descriptor;
  errno = failed;
  return -1;
}

// Keeps the system's reason, which errno does not have.
bool done(BOOL success) {
  if (success != 0) return true;
  const auto reason = GetLastError();
  errno = reason == ERROR_ACCESS_DENIED || reason == ERROR_SHARING_VIOLATION ? EACCES : EIO;
  return false;
}

}  // namespace

int open_to_read(const std::string& path, std::string& refused) {
  std::error_code none;
  if (std::filesystem::is_directory(path_of(path), none)) {
    refused = "a directory";
    return -1;
  }
  const int descriptor = opened(path, _O_RDONLY, _SH_DENYNO);
  if (descriptor < 0 && errno == EINVAL) refused = "no name of a file";
  return descriptor;
}

Standing standing(const std::string& path) {
  struct _stat64 about {};
  if (_wstat64(wide(path).c_str(), &about) != 0) return {};
  const unsigned mode = about.st_mode & 0777U;
  return {.there = true,
          .regular = (about.st_mode & _S_IFMT) == _S_IFREG,
          .writable = (mode & 0200U) != 0,
          .mode = mode};
}

int open_to_write(const std::string& path) { return opened(path, _O_WRONLY, _SH_DENYNO); }

// While it is open, nobody else can take it away.
int create(const std::string& path) {
  return opened(path, _O_CREAT | _O_EXCL | _O_WRONLY, _SH_DENYWR);
}

int create_unnamed(const std::string&) { return -1; }
bool give_name(int, const std::string&) { return false; }
void hold(int) {}
bool set_mode(int, unsigned) { return true; }

void remove_left_over(const std::string& path) { remove(path); }

bool write_all(int descriptor, std::string_view bytes) {
  constexpr std::size_t most = std::size_t{1} << 30;  // at once
  while (!bytes.empty()) {
    const auto written =
        _write(descriptor, bytes.data(), static_cast<unsigned>(std::min(bytes.size(), most)));
    if (written < 0) return false;
    bytes.remove_prefix(static_cast<std::size_t>(written));
  }
  return true;
}

bool flush(int descriptor) {
  if (_commit(descriptor) == 0) return true;
  if (errno == EBADF) errno = EINVAL;  // of a pipe
  return false;
}

bool replace(const std::string& from, const std::string& to) {
  return done(MoveFileExW(wide(from).c_str(), wide(to).c_str(),
                          MOVEFILE_REPLACE_EXISTING | MOVEFILE_WRITE_THROUGH));
}

// An open file keeps its name here.
bool place(int descriptor, const std::string& from, const std::string& to) {
  return _close(descriptor) == 0 && replace(from, to);
}

bool link(const std::string& path, const std::string& second) {
  return done(CreateHardLinkW(wide(second).c_str(), wide(path).c_str(), nullptr));
}

void remove(const std::string& path) { DeleteFileW(wide(path).c_str()); }

int open_log(const std::string& path, bool& held) {
  const int descriptor = opened(path, _O_RDWR | _O_CREAT | _O_APPEND, _SH_DENYWR);
  held = descriptor < 0 && errno == EACCES && standing(path).writable;
  return descriptor;
}

bool is_regular(int descriptor) {
  struct _stat64 about {};
  return _fstat64(descriptor, &about) == 0 && (about.st_mode & _S_IFMT) == _S_IFREG;
}

bool cut(int descriptor, std::size_t size) {
  return _chsize_s(descriptor, static_cast<long long>(size)) == 0;
}

}  // namespace tamlo::io::system
