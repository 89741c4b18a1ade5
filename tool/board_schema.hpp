// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "tamlo/io/detail/board_keys.hpp"

namespace tamlo::tool {

/// A JSON Schema of the board file, of the keys that its reader asks for; what they mean is taken
/// from the tables of `page` (docs/board-file.md).
std::string board_schema(const std::vector<io::BoardKey>& keys, const std::string& page);

/// The same as a page for man, section 5.
std::string board_manual(const std::vector<io::BoardKey>& keys, const std::string& page);

}  // namespace tamlo::tool
