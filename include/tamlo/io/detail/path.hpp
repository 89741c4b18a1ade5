// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <filesystem>
#include <string>

// Names of files are UTF-8 in all of Tamlo. What the library of the compiler makes of narrow
// letters depends on the system: paths are made and read here alone.
namespace tamlo::io {

inline std::filesystem::path path_of(const std::string& name) {
  return std::u8string(name.begin(), name.end());
}

/// Returns the name of a path, with "/" between folders on every system.
inline std::string name_of(const std::filesystem::path& path) {
  const auto name = path.generic_u8string();
  return {name.begin(), name.end()};
}

/// Returns the name of a file in the folder of another.
inline std::string name_beside(const std::string& other, const std::string& name) {
  return name_of(path_of(other).parent_path() / path_of(name));
}

}  // namespace tamlo::io
