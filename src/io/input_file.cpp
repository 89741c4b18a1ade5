// SPDX-License-Identifier: Apache-2.0
#include "input_file.hpp"

#include <fmt/format.h>

#include <cerrno>
#include <cstring>

#include "system_files.hpp"
#include "tamlo/io/diagnostics.hpp"

namespace tamlo::io {
namespace {

[[noreturn]] void refuse(const std::string& path, std::string found) {
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
  if (!refused.empty()) refuse(path, refused);
  if (descriptor < 0 && errno == ENOENT) refuse(path, "no such file");
  if (descriptor < 0 && is_of_the_path(errno)) refuse(path, std::strerror(errno));
  InputFile file(descriptor < 0 ? nullptr : fdopen(descriptor, "rb"));
  if (!file) throw EnvironmentError(fmt::format("cannot read {}: {}", path, std::strerror(errno)));
  return file;
}

}  // namespace tamlo::io
