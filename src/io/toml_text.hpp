// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <vector>

#include "tamlo/model/board.hpp"
#include "tamlo/quantity/detail/number.hpp"

// Pieces of a board file that is written.
namespace tamlo::io {

using quantity::toml_key, quantity::toml_quoted;
std::string listed(const std::vector<double>& numbers);
/// [channel.NAME.correction].
std::string correction_text(const std::string& channel, const quantity::Unit& unit,
                            const model::Correction& correction, const std::string& model,
                            const std::string& meter);

}  // namespace tamlo::io
