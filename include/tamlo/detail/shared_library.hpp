// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <dlfcn.h>

#include <cstring>
#include <string>

#include "tamlo/error.hpp"

// A library that only some work needs: it is loaded when that begins, and never unloaded.
namespace tamlo::detail {

class SharedLibrary {
 public:
  /// Throws EnvironmentError with what is missing and what brings it.
  SharedLibrary(const char* file, const std::string& missing)
      : file_(file), handle_(dlopen(file, RTLD_NOW)) {
    if (handle_ == nullptr) throw EnvironmentError(missing);
  }

  /// Throws EnvironmentError for a function that it does not have.
  template <class Function>
  void find(const char* name, Function& into) const {
    void* const symbol = dlsym(handle_, name);
    if (symbol == nullptr) throw EnvironmentError(file_ + " has no " + name);
    std::memcpy(&into, &symbol, sizeof into);
  }

 private:
  std::string file_;
  void* handle_;
};

}  // namespace tamlo::detail
