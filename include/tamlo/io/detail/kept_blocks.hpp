// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>

#include "tamlo/export.hpp"
#include "tamlo/math/detail/blocks.hpp"

namespace tamlo {
namespace io TAMLO_API {

/// A driver that keeps each block's figures in a file as they come, and does not do again what
/// stands there: work that was ended, or killed, goes on. `identity` tells of which work the file
/// is: one line without commas, of everything that the figures depend on. Throws
/// EnvironmentError for a file of another work, which stays as it is, and for one that cannot
/// be read or written.
math::BlockDriver kept_in(std::string path, std::string identity, math::BlockDriver driver);

/// A short identity of long texts: 16 digits of math::hash_of().
std::string identity_of(const std::string& text);

}  // namespace io
}  // namespace tamlo
