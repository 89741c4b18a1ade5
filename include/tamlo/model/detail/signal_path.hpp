// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "tamlo/export.hpp"
#include "tamlo/model/frontend.hpp"
#include "tamlo/model/sensor.hpp"

/// Describes which parts fit together.
namespace tamlo {
namespace model TAMLO_API {

/// Returns what a sensor gives.
Carries given_by(const Sensor& sensor);
/// Returns what a part of the front end takes; all of them give volts.
Carries taken_by(const Stage& part);

}  // namespace model
}  // namespace tamlo
