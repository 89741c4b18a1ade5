// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>

#include "tamlo/chain/chain.hpp"
#include "tamlo/simulate/sampler.hpp"

namespace tamlo::tool {

/// Prints the samples as lines of NAME.code=... or NAME.reading=..., each at its time, to all who
/// come to the port.
int serve_lines(simulate::Sampler& sampler, const chain::Chain& chain, bool readings,
                const std::string& port, const std::string& duration);

}  // namespace tamlo::tool
