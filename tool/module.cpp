// SPDX-License-Identifier: Apache-2.0
#include "module.hpp"

#include <fmt/format.h>

#include <filesystem>

namespace tamlo::tool {

tamlo::detail::SharedLibrary open_module(const char* file, const char* library) {
  std::error_code error;
  const auto tool = std::filesystem::read_symlink("/proc/self/exe", error).parent_path();
  for (const auto& path : {tool / file, tool / ".." / TAMLO_MODULES / file}) {
    if (!std::filesystem::exists(path, error)) continue;
    return {path.c_str(),
            fmt::format("{}: cannot be loaded, or {} is missing", path.string(), library)};
  }
  throw EnvironmentError(fmt::format("{} is not beside the tool", file));
}

}  // namespace tamlo::tool
