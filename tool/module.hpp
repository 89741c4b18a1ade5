// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "tamlo/detail/shared_library.hpp"

namespace tamlo::tool {

/// A part of the tool with libraries of its own, which is loaded where it is needed: beside the
/// tool where it was built, in lib/tamlo where it was installed. Throws io::EnvironmentError where
/// it, or `library`, is missing.
tamlo::detail::SharedLibrary open_module(const char* file, const char* library);

}  // namespace tamlo::tool
