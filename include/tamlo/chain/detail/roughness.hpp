// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <string_view>

#include "tamlo/export.hpp"

/// Places where readings are not a smooth function of the quantity (docs/method.md, "One reading").
namespace tamlo {
namespace chain TAMLO_API {

struct Chain;

/// Reason why readings within `reach` codes of a place are not smooth, the mildest first.
enum class Roughness : std::uint8_t {
  none,
  disagreement,  ///< readings that were drawn to check them do not bear the closed form out
  curved,  ///< readings bend over what varies from unit to unit: their mean is not the nominal one
  filter,  ///< a median meets interference or steps, and what it lets through is no part of them
  tare,    ///< the tare is taken within two steps of the place
  steps,   ///< steps of the integers or decimals as coarse as what is to be told, or integers
           ///< that are off otherwise below the place than above it
  code_end,       ///< an end of the codes, or of the reported counts
  amplifier_end,  ///< an end of an amplifier's output
  clamp,          ///< a clamp of the firmware
  overflow,       ///< a word of the firmware that is too short
};
std::string_view name(Roughness roughness);

/// The worst of them at `x`; steps count where they are larger than `coarse`, SI.
Roughness roughness(const Chain& chain, double x, double reach, double coarse);

}  // namespace chain
}  // namespace tamlo
