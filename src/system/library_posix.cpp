// SPDX-License-Identifier: Apache-2.0
#include <dlfcn.h>
#include <fmt/format.h>

#include "tamlo/detail/shared_library.hpp"
#include "tamlo/error.hpp"

namespace tamlo::detail {

SharedLibrary::SharedLibrary(const std::string& file, const std::string& purpose,
                             const std::string& package)
    : file_(file), handle_(dlopen(file.c_str(), RTLD_NOW)) {
  if (handle_ == nullptr) {
    throw EnvironmentError(fmt::format("{}, which {}, cannot be loaded: sudo apt-get install {}",
                                       file, purpose, package));
  }
}

void* SharedLibrary::found(const char* name) const {
  if (void* const symbol = dlsym(handle_, name)) return symbol;
  throw EnvironmentError(file_ + " has no " + name);
}

}  // namespace tamlo::detail
