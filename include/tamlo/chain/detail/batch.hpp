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

/// Fills in the register values for the quantities `x`, and returns the number of conversions that
/// clip.
std::size_t conversions(const Chain& chain, std::span<const double> x, Parameters p,
                        std::span<std::int64_t> found);

/// Fills in the readings for register values.
void readings(const Chain& chain, std::span<const std::int64_t> found, std::span<double> shown);

}  // namespace chain
}  // namespace tamlo
