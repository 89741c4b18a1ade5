// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "tamlo/explore/explore.hpp"
#include "tamlo/export.hpp"

/// Describes what explore may change, and what each value costs (docs/choices-file.md).
namespace tamlo {
namespace io TAMLO_API {

/// Describes what a choices file says.
struct ChoicesFile {
  explore::Space space{};  ///< but for its channels
  /// Settings of each choice and option: what is set of the board:
  /// "channel.pack_voltage.average=64".
  std::vector<std::vector<std::vector<std::string>>> settings{};
};

/// Throws BadInput with everything that is wrong.
ChoicesFile load_choices(const std::string& path);

/// All settings of a pick, in the order of the choices.
std::vector<std::string> settings_of(const ChoicesFile& file, const explore::Pick& pick);

/// The pick of a candidate as a file behind the board.
std::string choices_overlay(const ChoicesFile& file, const explore::Candidate& candidate);

}  // namespace io
}  // namespace tamlo
