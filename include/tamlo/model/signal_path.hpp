// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <string_view>

#include "tamlo/model/frontend.hpp"
#include "tamlo/model/sensor.hpp"

/// Which parts fit together.
namespace tamlo::model {

/// What a signal is between two parts.
enum class Carries : std::uint8_t { volts, ohms, amperes };
std::string_view name(Carries carries);

/// What a sensor gives.
Carries given_by(const Sensor& sensor);
/// What a part of the front end takes; all of them give volts.
Carries taken_by(const Stage& part);

}  // namespace tamlo::model
