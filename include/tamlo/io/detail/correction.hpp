// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>

#include "tamlo/export.hpp"
#include "tamlo/meter/calibrate.hpp"

namespace tamlo {
namespace io TAMLO_API {

/// A calibration as a board file that overrides the channel's correction: a later file on the
/// command line of any command.
std::string overlay_of(const meter::Calibration& calibration);

}  // namespace io
}  // namespace tamlo
