// SPDX-License-Identifier: Apache-2.0
#include "tamlo/chain/sampled.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/detail/digital.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/error.hpp"

namespace tamlo::chain {
namespace {

constexpr double amplitude_of_span = 0.45;

double rate_for(const Chain& chain, double frequency) {
  require(frequency > 0.0 && std::isfinite(frequency), "a sine has a frequency above 0");
  require(chain.firmware.digital.rate > 0.0, "a sine is sampled at a rate that is known");
  return chain.firmware.digital.rate;
}

// By projection, over whole periods.
void fit(double alias, SampledStretch& to) {
  const auto n = static_cast<double>(to.readings.size());
  for (const double reading : to.readings) to.mean += reading / n;
  for (std::size_t i = 0; i < to.readings.size(); ++i) {
    const double angle = 2.0 * std::numbers::pi * alias * to.reading_times[i];
    to.s += 2.0 / n * (to.readings[i] - to.mean) * std::sin(angle);
    to.c += 2.0 / n * (to.readings[i] - to.mean) * std::cos(angle);
  }
}

}  // namespace

SampledSine sampled_sine(const Chain& chain, double frequency) {
  const double rate = rate_for(chain, frequency);
  const auto& digital = chain.firmware.digital;
  const double readings = output_rate(digital);
  SampledSine result{
      .frequency = frequency,
      .conversions_per_period = rate / frequency,
      .readings_per_period = readings / frequency,
      .shown = analog_magnitude(chain, frequency) * magnitude(digital, folded(frequency, rate))};
  if (frequency > readings / 2.0) result.alias = folded(frequency, readings);
  return result;
}

SampledStretch sample_sine(const Chain& chain, double frequency) {
  const double rate = rate_for(chain, frequency);
  const auto& digital = chain.firmware.digital;
  const auto sine = sampled_sine(chain, frequency);
  const double slowest = sine.alias ? *sine.alias : frequency;
  SampledStretch result;
  result.amplitude = amplitude_of_span * chain.channel.span.width();
  result.duration = 12.0 / rate;
  // What folds to nothing stands still.
  const bool still = sine.alias && *sine.alias <= 1e-9 * rate;
  if (!still) result.duration = std::max(result.duration, 3.0 / slowest);
  // Of readings that stand still, some are enough.
  result.duration = std::max(result.duration, 8.0 / output_rate(digital));
  const double conversions = result.duration * rate;
  require(conversions <= 1e6, "so slow a sine has too many conversions to be drawn");

  double lag = 0.0;
  for (const double constant : chain.path.time_constants) {
    lag += std::atan(2.0 * std::numbers::pi * frequency * constant);
  }
  const double at_pin = result.amplitude * analog_magnitude(chain, frequency);
  const auto register_at = [&](double time) {
    const double x = chain.channel.span.middle() +
                     at_pin * std::sin(2.0 * std::numbers::pi * frequency * time - lag);
    return static_cast<double>(register_value(chain, code(chain, x, chain.nominal)));
  };
  DigitalState state(digital);
  const int period = decimation(digital);
  // Whole readings before the stretch, so that what is drawn has no memory of a start.
  const double memory =
      std::min(readings_to_settle(digital, 1e-3) * static_cast<double>(period), 200'000.0);
  const auto before = static_cast<int>(std::ceil(memory / period)) * period;
  state.prime(register_at(-before / rate));
  for (int i = -before; i <= static_cast<int>(conversions); ++i) {
    const double time = i / rate, value = register_at(time);
    const bool came = state.push(value);
    if (i < 0) continue;
    result.times.push_back(time);
    result.conversions.push_back(reading(chain, value));
    if (!came) continue;
    result.reading_times.push_back(time);
    result.readings.push_back(reading(chain, state.value()));
  }
  if (sine.alias) fit(*sine.alias, result);
  return result;
}

double SampledStretch::shown_at(double time, double alias) const {
  const double angle = 2.0 * std::numbers::pi * alias * time;
  return mean + s * std::sin(angle) + c * std::cos(angle);
}

}  // namespace tamlo::chain
