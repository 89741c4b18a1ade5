// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <filesystem>
#include <random>
#include <utility>

#include "input_file.hpp"
#include "system_files.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/detail/path.hpp"
#include "tamlo/io/diagnostics.hpp"

namespace tamlo::io {
namespace {

[[noreturn]] void refuse_file(const std::string& path, std::string found) {
  throw BadInput({{.file = path, .problem = std::move(found)}});
}

// Whether another path would do.
bool is_of_the_path(int reason) {
  return reason == EACCES || reason == ENOTDIR || reason == ELOOP || reason == ENAMETOOLONG ||
         reason == ENXIO;
}

}  // namespace

InputFile open_input(const std::string& path) {
  if (path == "-") return InputFile(stdin);
  std::string refused;
  const int descriptor = system::open_to_read(path, refused);
  if (!refused.empty()) refuse_file(path, refused);
  if (descriptor < 0 && errno == ENOENT) refuse_file(path, "no such file");
  if (descriptor < 0 && is_of_the_path(errno)) refuse_file(path, std::strerror(errno));
  InputFile file(descriptor < 0 ? nullptr : fdopen(descriptor, "rb"));
  if (!file) throw EnvironmentError(fmt::format("cannot read {}: {}", path, std::strerror(errno)));
  return file;
}

namespace {

namespace fs = std::filesystem;

// A name beside the target that nobody else has.
std::string part_name(const std::string& target) {
  std::random_device random;
  const auto number = std::uint64_t{random()} << 32U | random();
  return fmt::format("{}.{:016x}.part", target, number);
}

std::string folder_of(const std::string& target) {
  const auto folder = name_of(path_of(target).parent_path());
  return folder.empty() ? "." : folder;
}

// Takes away what a process left beside the target that ended before its file was in place. One
// that is still at work holds a lock.
void remove_left_overs(const std::string& target) {
  constexpr std::size_t random = 16;
  const auto begin = name_of(path_of(target).filename()) + ".";
  const std::string end = ".part";
  std::error_code error;
  for (const auto& each : fs::directory_iterator(path_of(folder_of(target)), error)) {
    const auto name = name_of(each.path().filename());
    if (name.size() != begin.size() + random + end.size()) continue;
    if (!name.starts_with(begin) || !name.ends_with(end)) continue;
    system::remove_left_over(name_of(each.path()));
  }
}

// Where a link leads to, also one whose target is not there yet. What is open already, such as
// /dev/stdout, stands in /proc, and its links name no files.
std::string behind_links(std::string path) {
  std::error_code error;
  for (int i = 0; i < 40 && !path.starts_with("/proc/") && fs::is_symlink(path_of(path), error);
       ++i) {
    const auto to = fs::read_symlink(path_of(path), error);
    if (error) break;
    path = name_beside(path, name_of(to));
  }
  return path;
}

}  // namespace

OutputFile::OutputFile(std::string path) : path_(std::move(path)) {
  auto target = behind_links(path_);
  const auto old = system::standing(target);
  if (old.there && !old.regular) {
    descriptor_ = system::open_to_write(target);
    if (descriptor_ < 0 && errno == ENXIO) {
      throw EnvironmentError(fmt::format("cannot write {}: a pipe that nobody reads from", path_));
    }
    if (descriptor_ < 0) fail();
    return;
  }
  if (old.there && !old.writable) {
    errno = EACCES;
    fail();
  }
  target_ = std::move(target);
  stood_ = old.there;
  remove_left_overs(target_);
  descriptor_ = system::create_unnamed(folder_of(target_));
  if (descriptor_ < 0) {
    auto name = part_name(target_);
    descriptor_ = system::create(name);
    if (descriptor_ < 0) fail();
    temporary_ = std::move(name);
  }
  system::hold(descriptor_);
  if (stood_ && !system::set_mode(descriptor_, old.mode)) fail();
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
  if (!temporary_.empty()) system::remove(temporary_);
  if (!kept_.empty()) system::remove(kept_);
}

void OutputFile::fail() {
  const std::string why = std::strerror(errno);
  if (descriptor_ >= 0) close(std::exchange(descriptor_, -1));
  if (!temporary_.empty()) system::remove(std::exchange(temporary_, {}));
  throw EnvironmentError(fmt::format("cannot write {}: {}", path_, why));
}

void OutputFile::write(std::string_view bytes) {
  if (!system::write_all(descriptor_, bytes)) fail();
}

void OutputFile::prepare() {
  if (descriptor_ < 0) return;
  if (!target_.empty() && temporary_.empty()) {
    auto name = part_name(target_);
    if (!system::give_name(descriptor_, name)) fail();
    temporary_ = std::move(name);
  }
  // On the disk before it has the target's name. Some file systems only say here that they are
  // full; a pipe or a device has nothing to say.
  if (!system::flush(descriptor_) && errno != EINVAL && errno != EROFS && errno != ENOTSUP) fail();
}

void OutputFile::finish() {
  prepare();
  if (temporary_.empty()) {
    if (descriptor_ >= 0 && close(std::exchange(descriptor_, -1)) != 0) fail();
    return;
  }
  if (!system::place(std::exchange(descriptor_, -1), temporary_, target_)) fail();
  temporary_.clear();
  placed_ = true;
}

void OutputFile::keep_old() {
  if (target_.empty()) return;
  auto name = part_name(target_);
  if (system::link(target_, name)) kept_ = std::move(name);
  // Where nothing stands, or the file system links nothing, there is nothing to put back.
}

void OutputFile::put_back() {
  if (!placed_) return;  // the old one still stands
  if (!kept_.empty()) {
    if (system::replace(kept_, target_)) kept_.clear();
  } else if (!stood_) {
    system::remove(target_);
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
  if (fs::exists(path_of(path), none) && !read_file(path).starts_with(own)) {
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
