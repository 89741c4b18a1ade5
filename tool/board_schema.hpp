// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>

namespace tamlo::tool {

/// Returns a JSON Schema of the board file, made from the table of keys.
std::string board_schema();

/// Returns the keys as a page for man, section 5.
std::string board_manual();

/// Returns a page of Markdown with its tables of keys made anew: each stands below a heading that
/// names its section, `### `[channel.NAME]``, or "#### Sensors", "Front end", "Filters".
std::string board_page(const std::string& page);

}  // namespace tamlo::tool
