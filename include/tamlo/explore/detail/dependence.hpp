// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>

#include "tamlo/export.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo {
namespace explore TAMLO_API {

/// Tells whether a key may change which channel is converted before which.
bool reorders(const std::string& key);

/// Returns false only where, in that order of the channels, a key of the board cannot change any
/// figure of the channel.
bool may_change(const std::string& key, const model::Board& board, const model::Channel& channel);

}  // namespace explore
}  // namespace tamlo
