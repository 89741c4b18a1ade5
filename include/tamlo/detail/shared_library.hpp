// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstring>
#include <string>

#include "tamlo/export.hpp"

// A library that only some work needs: it is loaded when that begins, and never unloaded.
namespace tamlo {
namespace detail TAMLO_API {

class SharedLibrary {
 public:
  /// Opens a file, such as "libsndfile.so.1" (or its name on this system). `purpose` is what it
  /// does, and `package` what brings it, for the message. Throws EnvironmentError where it is
  /// missing.
  SharedLibrary(const std::string& file, const std::string& purpose, const std::string& package);

  /// Throws EnvironmentError for a function that it does not have.
  template <class Function>
  Function find(const char* name) const {
    void* const symbol = found(name);
    Function function{};
    std::memcpy(&function, &symbol, sizeof function);
    return function;
  }

 private:
  std::string file_;
  void* handle_;

  void* found(const char* name) const;
};

}  // namespace detail
}  // namespace tamlo

/// Declares the member `member` with the address of a C function, behind a member `file` that is
/// its SharedLibrary.
#define TAMLO_LOADED(member, function) \
  decltype(&::function) member = file.find<decltype(&::function)>(#function)
