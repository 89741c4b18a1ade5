// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "tamlo/export.hpp"
#include "tamlo/model/frontend.hpp"
#include "tamlo/model/sensor.hpp"

/// Rules for which parts fit together.
namespace tamlo {
namespace model TAMLO_API {

/// Returns the signal that a sensor gives.
Carries given_by(const Sensor& sensor);
/// Returns the signal that a part of the front end takes; all of them give volts.
Carries taken_by(const Stage& part);

}  // namespace model
}  // namespace tamlo
