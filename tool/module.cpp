// SPDX-License-Identifier: Apache-2.0
#include "module.hpp"

#include <filesystem>

#include "console.hpp"
#include "tamlo/error.hpp"
#include "tamlo/io/detail/path.hpp"

namespace tamlo::tool {

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
