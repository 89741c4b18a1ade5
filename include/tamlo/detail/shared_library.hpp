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
  void find(const char* name, Function& into) const {
    void* const symbol = found(name);
    std::memcpy(&into, &symbol, sizeof into);
  }

 private:
  std::string file_;
  void* handle_;

  void* found(const char* name) const;
};

}  // namespace detail
}  // namespace tamlo
