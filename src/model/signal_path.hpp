// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "findings.hpp"

namespace tamlo::model {

struct Channel;

/// The sensor and the parts before the pin: each sound in itself, and each for what the one before
/// it gives.
void validate_signal_path(const Channel& channel, Findings& findings);

}  // namespace tamlo::model
