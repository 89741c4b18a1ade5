// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>

#include "tamlo/detail/shared_library.hpp"

namespace tamlo::tool {

/// A folder of what comes with the tool, "demo", "start", "examples" or "schema": in share/tamlo
/// where it was installed or built, or that of the source tree. As short as it can be written.
/// Throws io::EnvironmentError where it is missing.
std::string installed(const char* folder);

/// A part of the tool with libraries of its own, which is loaded where it is needed: beside the
/// tool where it was built, in lib/tamlo where it was installed. Throws io::EnvironmentError where
/// it, or `library`, is missing.
tamlo::detail::SharedLibrary open_module(const char* file, const char* library);

}  // namespace tamlo::tool
