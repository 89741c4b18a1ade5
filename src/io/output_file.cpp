// SPDX-License-Identifier: Apache-2.0
#include "tamlo/io/detail/output_file.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <filesystem>
#include <random>
#include <utility>

#include "tamlo/io/diagnostics.hpp"

namespace tamlo::io {
namespace {

namespace fs = std::filesystem;

// A name beside the target that nobody else has.
std::string name_beside(const std::string& target) {
  std::random_device random;
  const auto number = std::uint64_t{random()} << 32U | random();
  return fmt::format("{}.{:016x}.part", target, number);
}

std::string folder_of(const std::string& target) {
  const auto folder = fs::path(target).parent_path().string();
  return folder.empty() ? "." : folder;
}

// Takes away what a process left beside the target that ended before its file was in place. One
// that is still at work holds a lock.
void remove_left_overs(const std::string& target) {
  constexpr std::size_t random = 16;
  const auto begin = fs::path(target).filename().string() + ".";
  const std::string end = ".part";
  std::error_code error;
  for (const auto& each : fs::directory_iterator(folder_of(target), error)) {
    const auto name = each.path().filename().string();
    if (name.size() != begin.size() + random + end.size()) continue;
    if (!name.starts_with(begin) || !name.ends_with(end)) continue;
    const int descriptor = open(each.path().c_str(), O_RDONLY | O_CLOEXEC | O_NOFOLLOW);
    if (descriptor < 0) continue;
    if (flock(descriptor, LOCK_EX | LOCK_NB) == 0) unlink(each.path().c_str());
    close(descriptor);
  }
}

// Where a link leads to, also one whose target is not there yet. What is open already, such as
// /dev/stdout, stands in /proc, and its links name no files.
std::string behind_links(std::string path) {
  std::error_code error;
  for (int i = 0; i < 40 && !path.starts_with("/proc/") && fs::is_symlink(path, error); ++i) {
    const auto to = fs::read_symlink(path, error);
    if (error) break;
    path = to.is_absolute() ? to.string() : (fs::path(path).parent_path() / to).string();
  }
  return path;
}

// The name of an open file, for the system.
std::string by_descriptor(int descriptor) { return fmt::format("/proc/self/fd/{}", descriptor); }

}  // namespace

OutputFile::OutputFile(std::string path) : path_(std::move(path)) {
  auto target = behind_links(path_);
  struct stat old {};
  const bool stands = stat(target.c_str(), &old) == 0;
  if (stands && (!S_ISREG(old.st_mode) || target.starts_with("/proc/"))) {
    // A pipe that nobody reads from is not waited for.
    descriptor_ = open(target.c_str(), O_WRONLY | O_CLOEXEC | O_NONBLOCK);
    if (descriptor_ < 0 && errno == ENXIO) {
      throw EnvironmentError(fmt::format("cannot write {}: a pipe that nobody reads from", path_));
    }
    if (descriptor_ < 0) fail();
    fcntl(descriptor_, F_SETFL, fcntl(descriptor_, F_GETFL) & ~O_NONBLOCK);
    return;
  }
  // Nobody may write to a file of mode 0444, not even who is allowed to.
  if (stands && ((old.st_mode & 0222U) == 0 || access(target.c_str(), W_OK) != 0)) {
    errno = EACCES;
    fail();
  }
  target_ = std::move(target);
  stood_ = stands;
  remove_left_overs(target_);
  constexpr mode_t usual = 0666;
  if (access("/proc/self/fd", X_OK) == 0) {
    descriptor_ = open(folder_of(target_).c_str(), O_TMPFILE | O_WRONLY | O_CLOEXEC, usual);
  }
  if (descriptor_ < 0) {
    auto name = name_beside(target_);
    descriptor_ = open(name.c_str(), O_CREAT | O_EXCL | O_WRONLY | O_CLOEXEC, usual);
    if (descriptor_ < 0) fail();
    temporary_ = std::move(name);
  }
  flock(descriptor_, LOCK_EX | LOCK_NB);
  if (stands && fchmod(descriptor_, old.st_mode & 07777U) != 0) fail();
}

OutputFile::OutputFile(OutputFile&& other) noexcept
    : path_(std::move(other.path_)),
      target_(std::move(other.target_)),
      temporary_(std::exchange(other.temporary_, {})),
      kept_(std::exchange(other.kept_, {})),
      stood_(other.stood_),
      placed_(other.placed_),
      descriptor_(std::exchange(other.descriptor_, -1)) {}

OutputFile::~OutputFile() {
  if (descriptor_ >= 0) close(descriptor_);
  if (!temporary_.empty()) unlink(temporary_.c_str());
  if (!kept_.empty()) unlink(kept_.c_str());
}

void OutputFile::fail() {
  const std::string why = std::strerror(errno);
  if (descriptor_ >= 0) close(std::exchange(descriptor_, -1));
  if (!temporary_.empty()) unlink(std::exchange(temporary_, {}).c_str());
  throw EnvironmentError(fmt::format("cannot write {}: {}", path_, why));
}

void OutputFile::write(std::string_view bytes) {
  while (!bytes.empty()) {
    const auto written = ::write(descriptor_, bytes.data(), bytes.size());
    if (written < 0 && errno == EINTR) continue;
    if (written < 0) fail();
    bytes.remove_prefix(static_cast<std::size_t>(written));
  }
}

void OutputFile::prepare() {
  if (descriptor_ < 0) return;
  if (!target_.empty() && temporary_.empty()) {
    auto name = name_beside(target_);
    if (linkat(AT_FDCWD, by_descriptor(descriptor_).c_str(), AT_FDCWD, name.c_str(),
               AT_SYMLINK_FOLLOW) != 0) {
      fail();
    }
    temporary_ = std::move(name);
  }
  // On the disk before it has the target's name. Some file systems only say here that they are
  // full; a pipe or a device has nothing to say.
  if (fsync(descriptor_) != 0 && errno != EINVAL && errno != EROFS && errno != ENOTSUP) fail();
}

void OutputFile::finish() {
  prepare();
  if (!temporary_.empty()) {
    if (std::rename(temporary_.c_str(), target_.c_str()) != 0) fail();
    temporary_.clear();
    placed_ = true;
  }
  if (descriptor_ >= 0 && close(std::exchange(descriptor_, -1)) != 0) fail();
}

void OutputFile::keep_old() {
  if (target_.empty()) return;
  auto name = name_beside(target_);
  if (link(target_.c_str(), name.c_str()) == 0) kept_ = std::move(name);
  // Where nothing stands, or the file system links nothing, there is nothing to put back.
}

void OutputFile::put_back() {
  if (!placed_) return;  // the old one still stands
  if (!kept_.empty()) {
    if (std::rename(kept_.c_str(), target_.c_str()) == 0) kept_.clear();
  } else if (!stood_) {
    unlink(target_.c_str());
  }
}

void write_file(const std::string& path, std::string_view text) {
  OutputFile file(path);
  file.write(text);
  file.finish();
}

OutputFiles::OutputFiles(const std::vector<std::string>& paths) {
  for (const auto& path : paths) {
    if (!path.empty()) files_.emplace_back(path, OutputFile(path));
  }
}

void OutputFiles::write(const std::string& path, std::string_view bytes) {
  std::ranges::find(files_, path, &std::pair<std::string, OutputFile>::first)->second.write(bytes);
}

void OutputFiles::add(const std::string& path, std::string_view own) {
  std::error_code none;
  if (fs::exists(path, none) && !read_file(path).starts_with(own)) {
    throw BadInput(
        {{.file = path,
          .problem = "a file that this command did not write, where its second file goes",
          .hint = "another name for the output, or that file moved away"}});
  }
  files_.emplace_back(path, OutputFile(path));
}

void OutputFiles::finish() {
  for (auto& [path, file] : files_) file.prepare();
  const bool several = files_.size() > 1;
  for (auto& [path, file] : files_) {
    if (several) file.keep_old();
  }
  try {
    for (auto& [path, file] : files_) file.finish();
  } catch (const EnvironmentError&) {
    for (auto& [path, file] : files_) file.put_back();
    files_.clear();
    throw;
  }
  files_.clear();
}

}  // namespace tamlo::io
