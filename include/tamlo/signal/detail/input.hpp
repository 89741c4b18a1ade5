// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <string_view>

#include "tamlo/export.hpp"

namespace tamlo {
namespace signal TAMLO_API {

/// Input of a channel while its samples are captured.
enum class Input : std::uint8_t {
  steady,
  ramp,  ///< from one end to the other, each value as long
  sine,
  step,  ///< from one value to another
};
std::string_view name(Input input);

}  // namespace signal
}  // namespace tamlo
