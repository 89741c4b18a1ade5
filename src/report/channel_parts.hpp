// SPDX-License-Identifier: Apache-2.0
#pragma once

#include "tamlo/report/table.hpp"
#include "tamlo/result/results.hpp"

// What a channel's report has beside its settings, where there is something to say.
namespace tamlo::report {

/// Rates and delay, the stages of average and filter, interference, thresholds.
void add_dynamics(const budget::ChannelSettings& settings, Report& report);
/// Levels of a loop, the best bias resistor of a resistive sensor.
void add_sensor(const budget::ChannelSettings& settings, Report& report);

}  // namespace tamlo::report
