// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <string_view>

namespace tamlo::model {

/// What a signal is between two parts.
enum class Carries : std::uint8_t { volts, ohms, amperes };
std::string_view name(Carries carries);

}  // namespace tamlo::model
