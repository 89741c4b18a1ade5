// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "tamlo/chain/settings.hpp"
#include "tamlo/report/table.hpp"

// What a channel's report has beside its settings, where there is something to say.
namespace tamlo::report {

/// Rates and delay, the stages of average and filter, interference, thresholds.
void add_dynamics(const chain::Chain& chain, Report& report);
/// Levels of a loop, the best bias resistor of a resistive sensor.
void add_sensor(const chain::Chain& chain, const chain::Settings& settings, Report& report);

}  // namespace tamlo::report
