// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <optional>
#include <string>

#include "tamlo/export.hpp"

namespace tamlo {
namespace io TAMLO_API {

/// A date, or date and time of day, of ISO 8601 in UTC ("2026-11-25", "2026-11-25T10:30:05.5Z"), in
/// seconds from the beginning of 1970; nothing for any other text.
std::optional<double> parse_moment(const std::string& text);

}  // namespace io
}  // namespace tamlo
