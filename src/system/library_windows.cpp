// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>
#include <windows.h>

#include "tamlo/detail/shared_library.hpp"
#include "tamlo/error.hpp"

namespace tamlo::detail {
namespace {

// Returns the name that builds for Windows have: muparser.dll for libmuparser.so.2.
std::string name_here(const std::string& file) {
  const auto begin = file.starts_with("lib") ? 3U : 0U;
  return file.substr(begin, file.find(".so") - begin) + ".dll";
}

}  // namespace

SharedLibrary::SharedLibrary(const std::string& file, const std::string& purpose,
                             const std::string&)
    : file_(name_here(file)), handle_(LoadLibraryA(file_.c_str())) {
  if (handle_ == nullptr) handle_ = LoadLibraryA(("lib" + file_).c_str());
  if (handle_ == nullptr) {
    throw EnvironmentError(
        fmt::format("{}, which {}, cannot be loaded: put it beside tamlo.exe", file_, purpose));
  }
}

void* SharedLibrary::found(const char* name) const {
  if (auto* const symbol = GetProcAddress(static_cast<HMODULE>(handle_), name))
    return reinterpret_cast<void*>(symbol);
  throw EnvironmentError(file_ + " has no " + name);
}

}  // namespace tamlo::detail
