// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <string_view>

#include "tamlo/export.hpp"

namespace tamlo {
namespace model TAMLO_API {

/// Kind of signal between two parts.
enum class Carries : std::uint8_t { volts, ohms, amperes };
std::string_view name(Carries carries);

}  // namespace model
}  // namespace tamlo
