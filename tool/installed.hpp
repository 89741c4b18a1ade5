// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>

namespace tamlo::tool {

/// A folder of what comes with the tool, "demo", "start", "examples" or "schema": in share/tamlo
/// where it was installed or built, or that of the source tree. As short as it can be written.
/// Throws io::EnvironmentError where it is missing.
std::string installed(const char* folder);

}  // namespace tamlo::tool
