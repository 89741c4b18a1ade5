// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "tamlo/export.hpp"

/// A board and changes to it as text, for programs that show them and change them.
namespace tamlo {
namespace io TAMLO_API {

/// Returns the tables of these files as JSON, one over another, with single keys and what files of
/// parts give; values are as the files have them. Throws BadInput.
std::string board_as_json(const std::vector<std::string>& paths,
                          const std::vector<std::string>& settings = {});

/// Returns single keys, "channel.pack_voltage.average=64", as a board file of exactly these: after
/// the files that they were made for it gives the same board as they do. Throws BadInput for what
/// is none.
std::string overlay_of(const std::vector<std::string>& settings);

}  // namespace io
}  // namespace tamlo
