// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <span>

#include "tamlo/chain/detail/signal.hpp"
#include "tamlo/export.hpp"

/// Many values at once: what convert() and reading() give one by one, to the bit, at a fraction of
/// the time, because each part of the chain is asked once for a block of values.
namespace tamlo {
namespace chain TAMLO_API {

struct Chain;

/// Codes of unlimited resolution for the quantities `x`; `codes` is as long as `x`.
void codes(const Chain& chain, std::span<const double> x, Parameters p, std::span<double> codes);

/// Returns what the firmware finds for the quantities `x`. Gives how many of them clip.
std::size_t conversions(const Chain& chain, std::span<const double> x, Parameters p,
                        std::span<std::int64_t> found);

/// Writes what the firmware shows for what it finds.
void readings(const Chain& chain, std::span<const std::int64_t> found, std::span<double> shown);

}  // namespace chain
}  // namespace tamlo
