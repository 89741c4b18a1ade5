// SPDX-License-Identifier: Apache-2.0
// Noise, interference, and what averaging makes of them.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "examination.hpp"
#include "tamlo/chain/detail/digital.hpp"
#include "tamlo/math/detail/coverage.hpp"

namespace tamlo::check {
namespace {

void examine_aliases(const Examination& e) {
  const double step = chain::step_at(e.chain, e.span.middle());
  const auto& accuracy = e.chain.channel.target.accuracy;
  const double allowed = accuracy ? chain::allowed_at(e.chain, *accuracy, e.span.high) / 4.0 : step;
  for (const auto& alias : e.dynamics.aliases) {
    if (alias.amplitude <= allowed) continue;
    const double factor = alias.amplitude / allowed;
    const bool known = e.dynamics.series.output_rate > 0.0;
    e.report(
        "interference-in-readings", "interference", Severity::warning,
        known ? fmt::format("{} appears in the readings at {} with an amplitude of {}",
                            in_unit(alias.frequency, "Hz"), in_unit(alias.appears_at, "Hz", 3),
                            e.amount(alias.amplitude))
              : fmt::format("{} is in the readings with an amplitude of {}",
                            in_unit(alias.frequency, "Hz"), e.amount(alias.amplitude)),
        "folded down it looks like a slow change of the quantity, and no later filter sees it",
        {{fmt::format("a low-pass of {} before the pin, or an average over whole periods of it",
                      in_unit(alias.frequency / std::sqrt(factor * factor - 1.0 + 1e-9), "Hz", 2)),
          {}}});
  }
}

// An average rejects a sine only where none of it is cut off.
void examine_clipped_interference(const Examination& e) {
  const auto first = static_cast<double>(chain::first_code(e.chain));
  const auto last = static_cast<double>(chain::last_code(e.chain));
  const auto& accuracy = e.chain.channel.target.accuracy;
  for (const double x : {e.span.low, e.span.high}) {
    const double code = chain::code(e.chain, x, e.chain.nominal);
    const double amplitude = chain::conversion_spread(e.chain, x).amplitudes;
    const double beyond = std::max(first - 0.5 - (code - amplitude), code + amplitude - last - 0.5);
    // Of a sine about the very end a part of 1/pi is left as a mean.
    const double shift = std::min(beyond, amplitude) / std::numbers::pi;
    const double width = chain::code_width_at(e.chain, x);
    const double allowed =
        accuracy ? chain::allowed_at(e.chain, *accuracy, x) / 4.0 : chain::step_at(e.chain, x);
    if (amplitude < 1.0 || shift * width <= allowed) continue;
    e.report(
        "interference-clips", "interference", Severity::warning,
        fmt::format("at {} interference of {} reaches beyond the end of the codes", e.shown(x),
                    e.amount(amplitude * width)),
        fmt::format(
            "what is cut off on one side shifts the mean, by up to {}: averaging cannot remove it",
            e.amount(shift * width)),
        {{"a low-pass before the pin, or a signal that stays off the end by the amplitude", {}}});
    return;
  }
}

void examine_average(const Examination& e) {
  const double count = e.chain.firmware.averaged;
  if (count < 4.0) return;
  const double width = e.chain.report.width;
  const double noise = chain::noise_in_codes(e.chain, e.span.middle()) / width;
  const double one = std::hypot(noise, chain::quantisation_standard(noise, 1.0));
  const double all =
      std::hypot(noise / std::sqrt(count), chain::quantisation_standard(noise, count));
  if (all < 0.8 * one) return;
  e.report("averaging-buys-nothing", "average", Severity::advice,
           fmt::format("the noise is {:.2g} of a step: averaging takes {:.2g} steps to {:.2g}",
                       noise, one, all),
           "a quiet input gives the same code every time, and its mean is that code",
           {{"add noise of half a step before the converter, or leave the averaging out", {}}});
}

void examine_noise_free(const Examination& e) {
  const auto& target = e.chain.channel.target.noise_free;
  if (!target) return;
  const double noise = chain::reading_noise(e.chain, e.span.middle()) /
                       chain::code_width_at(e.chain, e.span.middle());
  const double bits = std::log2(e.chain.conversion.codes / (math::peak_to_peak * noise));
  if (bits >= *target) return;
  const double times = std::ceil(std::pow(4.0, *target - bits));
  // Steps that averaging leaves may need more than the noise alone.
  const auto average_more = [&](int more) -> Remedy {
    return {fmt::format("average {:.0f} times as many conversions", times * more),
            [times, more](model::Board&, model::Channel& channel) {
              if (channel.average.time) {
                *channel.average.time *= times * more;
              } else {
                channel.average.count =
                    static_cast<int>(channel.average.count * std::min(times * more, 1e6));
              }
            }};
  };
  e.report("noise-free-missed", "target", Severity::warning,
           fmt::format("{:.3g} bits are noise-free; the target is {:.3g}", bits, *target),
           "the last digits flicker at a steady input",
           {average_more(1),
            average_more(2),
            average_more(4),
            {"more bits, or noise of half a code and a longer average", {}}});
}

void examine_threshold(const Examination& e) {
  const auto figures = chain::threshold(e.chain);
  if (!figures) return;
  const double hysteresis = e.chain.channel.threshold->hysteresis;
  const double step = chain::step_at(e.chain, e.chain.channel.threshold->at);
  const double needed = std::max(figures->needed.value_or(0.0), step);
  if (hysteresis >= needed) return;
  const auto widened = [&](double by) -> Remedy {
    return {fmt::format("hysteresis = \"{}\"", e.amount(needed * by, 3)),
            [to = needed * by](model::Board&, model::Channel& channel) {
              channel.threshold->hysteresis = to;
            }};
  };
  e.report("hysteresis-too-small", "threshold", Severity::warning,
           fmt::format("the hysteresis is {}, the noise of a reading there {}",
                       e.amount(hysteresis), e.amount(figures->noise)),
           figures->false_trips && *figures->false_trips > 0.0
               ? fmt::format("noise alone trips it up to every {}",
                             in_unit(1.0 / *figures->false_trips, "s", 2))
               : std::string("one step of the reading is more than the hysteresis"),
           {widened(1.01), widened(1.2), widened(2.0)});
}

// Zones that a reading of noise alone crosses, or that are a few codes wide.
void examine_zones(const Examination& e) {
  if (!e.chain.channel.zones) return;
  const auto& names = e.chain.channel.zones->names;
  const auto widths = chain::zone_widths(e.chain, chain::zone_edges(e.chain));
  for (std::size_t i = 0; i < widths.size(); ++i) {
    if (!widths[i].narrow) continue;
    e.report("zone-narrow", "zones", Severity::warning,
             fmt::format("zone {} is {} wide, {:.0f} codes; the noise of a reading is {} rms",
                         names[i], e.amount(widths[i].to - widths[i].from), widths[i].codes,
                         e.amount(chain::reading_noise(e.chain, widths[i].from))),
             "its edges cannot be told apart in every unit and at every reading",
             {{"fewer or wider zones", {}}, {"a longer average, or a finer converter", {}}});
    return;  // the others are as narrow
  }
}

}  // namespace

void examine_noise(const Examination& e) {
  examine_aliases(e);
  examine_clipped_interference(e);
  examine_average(e);
  examine_noise_free(e);
  examine_threshold(e);
  examine_zones(e);
}

}  // namespace tamlo::check
