// SPDX-License-Identifier: Apache-2.0
// What the firmware adds: its rounding, and what its average and filter leave.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "builder.hpp"
#include "tamlo/chain/detail/reading_distribution.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/math/detail/power_of_ten.hpp"

namespace tamlo::chain {
namespace {

// The firmware's steps are taken as uniform.
Source rounding(const std::string& written, std::size_t parameter, double limit) {
  return {.name = "firmware rounding",
          .stage = "firmware",
          .specification = written,
          .parameter = parameter,
          .nature = Nonlinearity{},
          .distribution = quantity::Distribution::uniform,
          .limit = limit};
}

// Part of the standard deviation of 1/f noise that average and filter leave: the integral of |H|^2
// / f over that of 1 / f, from the inverse of the time of observation to half the rate, in equal
// steps of ln f.
double flicker_gain(const Chain& chain) {
  const double rate = chain.firmware.digital.rate;
  const double low = 1.0 / chain.conditions.observation, high = rate / 2.0;
  if (!(high > low)) return 1.0;
  constexpr int steps = 2000;
  double passed = 0.0;
  for (int i = 0; i < steps; ++i) {
    const double f = low * std::pow(high / low, (i + 0.5) / steps);
    passed += std::pow(magnitude(chain.firmware.digital, f), 2);
  }
  return std::sqrt(passed / steps);
}

}  // namespace

void Builder::add_firmware() {
  add_rounding();
  set_nominals();
  set_filter_gains();
  set_truncation();
}

void Builder::add_rounding() {
  const auto& scaling = chain_.channel.scaling;
  chain_.firmware.rounding = parameter("firmware rounding", 0.0, "");
  if (scaling.integer) {
    chain_.firmware.arithmetic = arithmetic_error(*scaling.integer, chain_.report.first_reported,
                                                  chain_.report.last_reported);
    if (chain_.firmware.arithmetic.largest > 0.0) {
      chain_.named.integers = chain_.sources.size();
      computed(rounding(fmt::format("{} bit integers", scaling.integer->bits),
                        chain_.firmware.rounding, chain_.firmware.arithmetic.largest));
    }
  }
  if (scaling.integer && scaling.integer->filter_rounding > 0.0) {
    auto source =
        rounding("integer filters", chain_.firmware.rounding, scaling.integer->filter_rounding);
    source.name = unique("filter rounding");
    computed(std::move(source));
  }
  if (scaling.decimals) {
    const double last_place =
        chain_.channel.span.unit.scale() * math::power_of_ten(-*scaling.decimals);
    auto source = rounding(fmt::format("{} decimals", *scaling.decimals), chain_.firmware.rounding,
                           last_place / 2.0);
    source.name = unique("decimals");
    chain_.named.decimals = chain_.sources.size();
    computed(std::move(source));
  }
}

// White noise of a density e through the noise bandwidth B = pi/2 f_3dB of the narrowest pole
// behind it: e sqrt(B). Below the corner f_c it rises as 1/f, which adds e^2 f_c ln(B / f_low) from
// the inverse of the time of observation up; averages over that time do not take it away.
void Builder::add_densities() {
  set_nominals();
  for (const auto& [at, amplifier] : densities_) {
    const auto& name = chain_.path.stages[at].name;
    const auto index = std::get<AmplifierLaw>(chain_.path.stages[at].law).noise;
    double bandwidth = amplifier.bandwidth ? 1.5707963267948966 * *amplifier.bandwidth : 0.0;
    const auto narrow = [&](double time_constant) {
      const double of_pole = 1.0 / (4.0 * time_constant);
      if (time_constant > 0.0 && (bandwidth == 0.0 || of_pole < bandwidth)) bandwidth = of_pole;
    };
    Signal passing{.value = chain_.channel.span.middle()};
    for (std::size_t i = 0; i < chain_.path.stages.size(); ++i) {
      passing = forward(chain_.path.stages[i].law, passing, chain_.nominal);
      const auto* lowpass = std::get_if<LowpassLaw>(&chain_.path.stages[i].law);
      if (lowpass != nullptr && i > at) {
        narrow(passing.resistance * chain_.nominal[lowpass->capacitor]);
      }
    }
    if (bandwidth == 0.0 && chain_.path.sampling) {
      narrow((passing.resistance + chain_.path.sampling->switch_resistance) *
             chain_.path.sampling->capacitor);
    }
    if (bandwidth == 0.0) {
      throw ChainError(
          fmt::format("channel {}: nothing limits the bandwidth of {}'s noise: give it a "
                      "bandwidth, or a lowpass",
                      chain_.channel.name, name));
    }
    const double density = amplifier.noise_density;
    const auto written = quantity::engineering(density * 1e9, quantity::Unit{}, 4) + " nV/sqrt(Hz)";
    computed({.name = unique(name + " white noise"),
              .stage = name,
              .specification = written,
              .parameter = index,
              .nature = Noise{},
              .distribution = quantity::Distribution::normal,
              .limit = density * std::sqrt(bandwidth),
              .in_stage = at});
    const double lowest = 1.0 / chain_.conditions.observation;
    if (!(amplifier.noise_corner > 0.0) || bandwidth <= lowest) continue;
    computed({.name = unique(name + " 1/f noise"),
              .stage = name,
              .specification = fmt::format(
                  "{} below {}", written,
                  quantity::engineering(amplifier.noise_corner, quantity::unit("Hz"), 4)),
              .parameter = index,
              .nature = Noise{.corner = amplifier.noise_corner, .band_ratio = bandwidth / lowest},
              .distribution = quantity::Distribution::normal,
              .limit = density * std::sqrt(amplifier.noise_corner * std::log(bandwidth / lowest)),
              .in_stage = at});
  }
}

// What a mean drops when it is made a whole number: on average over the places within a code, by
// the noise in mid-span. A quiet input gives whole means, and loses nothing.
void Builder::set_truncation() {
  if (!chain_.channel.average.truncated) return;
  const double x = chain_.channel.span.middle();
  // Noise of a step or more makes every rest as likely, and sums over its codes would take minutes.
  if (noise_in_codes(chain_, x) >= chain_.report.step) {
    chain_.report.offset -= (1.0 - 1.0 / decimation(chain_.firmware.digital)) / 2.0;
    return;
  }
  const ReadingDistribution reading(chain_, x);
  const double code_here = std::floor(code(chain_, x, chain_.nominal));
  constexpr int places = 16;
  double dropped = 0.0;
  for (int i = 0; i < places; ++i) {
    for (const auto& [value, probability] : reading.outcomes(code_here + (i + 0.5) / places)) {
      dropped += probability * (value - std::floor(value + 1e-9)) / places;
    }
  }
  chain_.report.offset -= dropped;
}

void Builder::set_filter_gains() {
  const auto& digital = chain_.firmware.digital;
  const double white = noise_gain(digital);
  // Noise that passes a low-pass slower than the conversions is nearly the same in neighbours.
  double correlation = 0.0;
  if (!chain_.path.time_constants.empty() && chain_.timing.rate > 0.0) {
    const double slowest = std::ranges::max(chain_.path.time_constants);
    if (slowest > 0.0) correlation = std::exp(-1.0 / (slowest * chain_.timing.rate));
  }
  const double through_lowpass = correlation > 1e-9 ? noise_gain(digital, correlation) : white;
  chain_.firmware.averaged = 1.0 / white;
  // The median of codes is the code of the median: as one conversion of less noise.
  if (!digital.stages.empty() && digital.stages.front().median > 0) {
    const double of_median = median_variance(digital.stages.front().median);
    chain_.firmware.dither = std::sqrt(of_median);
    chain_.firmware.averaged = of_median / white;
  }
  auto memory = digital;  // a median keeps nothing beyond its whole length
  for (auto& part : memory.stages) {
    if (part.median == 0) continue;
    part.averages = {part.median};
    memory.answer = nullptr;
  }
  chain_.firmware.settling_readings = readings_to_settle(memory, 1e-4);
  const auto last_lowpass = std::find_if(
      chain_.path.stages.rbegin(), chain_.path.stages.rend(),
      [](const PathStage& stage) { return std::holds_alternative<LowpassLaw>(stage.law); });
  const auto slow_stages = static_cast<std::size_t>(chain_.path.stages.rend() - last_lowpass);
  for (auto& source : chain_.sources) {
    if (auto* noise = std::get_if<Noise>(&source.nature)) {
      const bool slow = source.in_stage && *source.in_stage < slow_stages;
      noise->filter_gain = std::sqrt(slow ? through_lowpass : white);
      if (slow) noise->correlated_over = std::ranges::max(chain_.path.time_constants);
      if (noise->corner > 0.0) noise->filter_gain = flicker_gain(chain_);
    }
    auto* sine = std::get_if<InterferenceEffect>(&source.nature);
    if (sine == nullptr) continue;
    const double given = sine->frequency;
    sine->frequency = least_rejected(chain_, given, sine->limit);
    if (sine->frequency != given)
      source.limit *= analog_magnitude(chain_, sine->frequency) / analog_magnitude(chain_, given);
    if (digital.rate > 0.0) sine->filter_gain = magnitude(digital, sine->frequency);
  }
}

}  // namespace tamlo::chain
