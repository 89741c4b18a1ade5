// SPDX-License-Identifier: Apache-2.0
#include "installed.hpp"

#include <fmt/format.h>

#include <filesystem>
#include <string_view>

#include "console.hpp"
#include "tamlo/error.hpp"
#include "tamlo/io/detail/path.hpp"
#include "tamlo/io/diagnostics.hpp"

namespace tamlo::tool {
namespace {

std::filesystem::path in_source_tree(std::string_view folder) {
  const std::filesystem::path source = TAMLO_SOURCE_DIRECTORY;
  if (folder == "schema") return "";  // made by the build
  if (folder == "demo") return source / "demo";
  return folder == "start" ? source / "share/start" : source / "examples/boards";
}

}  // namespace

std::string installed(const char* folder) {
  std::error_code error;
  const auto tool = own_program();
  for (const auto& candidate :
       {tool.parent_path().parent_path() / "share/tamlo" / folder,
        tool.parent_path() / "share/tamlo" / folder, in_source_tree(folder)}) {
    if (!std::filesystem::exists(candidate, error)) continue;
    const auto near = std::filesystem::proximate(candidate, error);
    const auto name = io::name_of(candidate), short_name = io::name_of(near);
    return short_name.size() < name.size() ? short_name : name;
  }
  throw io::EnvironmentError(fmt::format("the folder {} is not installed beside the tool", folder));
}

tamlo::detail::SharedLibrary open_module(const char* file, const char* library) {
  std::error_code error;
  const auto tool = own_program().parent_path();
  for (const auto& path : {tool / file, tool / ".." / TAMLO_MODULES / file}) {
    if (!std::filesystem::exists(path, error)) continue;
    return {io::name_of(path), "is a part of the tool", library};
  }
  throw EnvironmentError(std::string(file) + " is not beside the tool");
}

}  // namespace tamlo::tool
