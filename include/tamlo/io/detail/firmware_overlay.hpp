// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo {
namespace io TAMLO_API {

/// The first words of what overlay_of() writes.
constexpr const char* firmware_overlay_begins = "# Made by: tamlo firmware";

/// The integers of a channel as a board file that overrides its scaling; `before` is the channel as
/// the board has it. Throws ArgumentError for a channel that does not scale in integers.
std::string overlay_of(const model::Channel& before, const model::Channel& channel);

/// A number that changes with every byte of the files and of the settings (64-bit FNV-1a), in
/// hexadecimal. Throws BadInput for a file that is not there and EnvironmentError for one that
/// cannot be read.
std::string hash_of(const std::vector<std::string>& paths,
                    const std::vector<std::string>& settings = {});

}  // namespace io
}  // namespace tamlo
