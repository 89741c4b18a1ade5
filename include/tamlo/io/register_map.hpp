// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/firmware/registers.hpp"

namespace tamlo {
namespace io TAMLO_API {

/// Reads a register map (docs/register-map.md) against its board: converters and settings exist,
/// fields lie inside their registers and do not overlap, values fit. Throws BadInput with
/// everything that is wrong.
std::vector<firmware::RegisterMap> load_register_maps(const std::string& path,
                                                      const model::Board& board);

/// Words that were read from a device: CSV of `address,value`, numbers also as 0x... and 0b....
/// With a map, words must fit its registers, and one at least must be theirs. Throws BadInput with
/// everything that is wrong.
firmware::Dump load_dump(const std::string& path, const firmware::RegisterMap* map = nullptr);

/// The settings that were found as a board file that overrides those of the board. What a board
/// file has no single key for is in its comments.
std::string overlay_of(const firmware::FoundSettings& found, const model::Board& board);

/// The first words of that.
constexpr const char* found_overlay_begins = "# Made by: tamlo registers";

}  // namespace io
}  // namespace tamlo
