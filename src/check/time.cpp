// SPDX-License-Identifier: Apache-2.0
// Clocks, rates, settling and delay.
#include <fmt/format.h>

#include <cmath>
#include <vector>

#include "examination.hpp"

namespace tamlo::check {
namespace {

std::string rate(double per_second) { return in_unit(per_second, "Sa/s"); }

void examine_clock(const Examination& e) {
  const auto& clock = e.chain.converter.clock;
  if (!clock || !clock->limits) return;
  const double f = clock->source / clock->divider;
  const auto& limits = *clock->limits;
  if (f >= limits.low * (1.0 - 1e-12) && f <= limits.high * (1.0 + 1e-12)) return;
  const int divider = chain::legal_divider(*clock);
  e.report("clock-out-of-limits", "converter.clock", Severity::error,
           fmt::format("the converter is clocked at {}; its limits are {} to {}", in_unit(f, "Hz"),
                       in_unit(limits.low, "Hz"), in_unit(limits.high, "Hz")),
           f > limits.high ? "faster, its comparisons have no time to settle"
                           : "slower, its capacitors lose their charge before it is done",
           {divider > 0 ? Remedy{fmt::format("divider = {}: {}", divider,
                                             in_unit(clock->source / divider, "Hz")),
                                 [divider](model::Board& board, model::Channel& channel) {
                                   converter_of(board, channel).clock->divider = divider;
                                 }}
                        : Remedy{"another source clock: no divider brings this one there", {}}});
}

void examine_rate(const Examination& e) {
  const auto& timing = e.chain.timing;
  const auto& most = e.chain.converter.max_rate;
  const bool beyond = most && timing.aggregate_rate > *most * (1.0 + 1e-9);
  if (!beyond && timing.busy <= 1.0 + 1e-9) return;
  const double share = timing.aggregate_rate > 0.0
                           ? timing.rate / timing.aggregate_rate *
                                 (most ? std::min(*most, timing.aggregate_rate / timing.busy)
                                       : timing.aggregate_rate / timing.busy)
                           : 0.0;
  e.report(
      "rate-above-scan", "rate", Severity::error,
      fmt::format(
          "{} channels ask for {} together, which takes {:.3g} % of the converter's time",
          timing.scan.size(), rate(timing.aggregate_rate),
          100.0 * std::max(timing.busy, most ? timing.aggregate_rate / *most : timing.busy)),
      "conversions are late or left out, and every filter is tuned to another rate",
      {{fmt::format("rate = \"{}\" at most here, and others in proportion, or shorter sampling",
                    rate(share)),
        [part = share / timing.rate](model::Board& board, model::Channel& edited) {
          for (auto& channel : board.channels) {
            if (channel.converter == edited.converter && channel.rate) *channel.rate *= part;
          }
        }},
       {"shorter sampling, or a faster clock", {}}});
}

void examine_sampling(const Examination& e) {
  const auto settling = e.dynamics.settling;
  if (!settling || settling->left_in_codes <= 0.5) return;
  std::vector<Remedy> remedies;
  if (std::isfinite(settling->needed)) {
    const double cycles = std::ceil(settling->needed * e.chain.timing.clock);
    remedies.push_back(
        {fmt::format("sample for {}, {:.0f} cycles", in_unit(settling->needed, "s", 3), cycles),
         [cycles](model::Board&, model::Channel& channel) { channel.sampling = cycles; }});
  }
  remedies.push_back({std::isfinite(settling->needed)
                          ? "drive the pin with less resistance, or sample longer at a lower rate"
                          : "a smaller capacitor at the pin, a slower scan, or an amplifier",
                      {}});
  e.report("sampling-too-short", "sampling", Severity::warning,
           fmt::format("after {} of sampling {:.3g} codes of a full step are left",
                       in_unit(settling->time, "s", 3), settling->left_in_codes),
           "the channel before it in the scan shows through, and a step is read short", remedies);
}

void examine_latency(const Examination& e) {
  const auto& target = e.chain.channel.target.latency;
  if (!target) return;
  const auto& dynamics = e.dynamics;
  if (dynamics.latency <= *target) return;
  const double analog = dynamics.analog_settling + dynamics.timing.conversion_time;
  e.report(
      "latency-above-target", "target", Severity::warning,
      fmt::format("a step is shown after {}; the target is {}", in_unit(dynamics.latency, "s", 3),
                  in_unit(*target, "s", 3)),
      fmt::format("front end and conversion take {}, average and filter {}",
                  in_unit(analog, "s", 3), in_unit(dynamics.latency - analog, "s", 3)),
      {{*target > analog ? fmt::format("average and filter over {:.2g} of the time they take now",
                                       (*target - analog) / (dynamics.latency - analog))
                         : std::string("a faster low-pass before the converter"),
        {}}});
}

// Of the average and those of the filter the one that takes longest, by its conversions.
model::Length& longest_average(model::Channel& channel) {
  auto* longest = &channel.average;
  const auto conversions = [&](const model::Length& length) {
    return length.time ? *length.time * channel.rate.value_or(1.0)
                       : static_cast<double>(length.count);
  };
  for (auto& stage : channel.filter) {
    auto* moving = std::get_if<model::MovingAverage>(&stage);
    auto* block = std::get_if<model::BlockAverage>(&stage);
    auto* length = moving != nullptr  ? &moving->length
                   : block != nullptr ? &block->length
                                      : nullptr;
    if (length != nullptr && conversions(*length) > conversions(*longest)) longest = length;
  }
  return *longest;
}

void examine_mains(const Examination& e) {
  const double periods = e.dynamics.mains_periods;
  if (periods == 0.0) return;
  const double whole = std::max(1.0, std::round(periods));
  const double mains = e.chain.conditions.mains->or_zero(), rate = e.chain.firmware.digital.rate;
  if (std::abs(periods - whole) < 0.01 * whole) {
    // A whole period of conversions that all meet the sine at the same phase.
    if (e.dynamics.mains_rejection >= 20.0) return;
    e.report("mains-folded", "rate", Severity::warning,
             fmt::format("at {:.4g} Sa/s the mains of {} folds to {:.3g} Hz: of the average's "
                         "window none of it is rejected",
                         rate, in_unit(mains, "Hz"), chain::folded(mains, rate)),
             "every conversion meets the mains at the same phase, which reads as an offset",
             {{fmt::format("sample at {:.4g} Sa/s, and average over a whole period", 20.0 * mains),
               [mains](model::Board&, model::Channel& channel) {
                 channel.rate = 20.0 * mains;
                 longest_average(channel) = {.time = 1.0 / mains};
               }},
              {"sample at a rate of which the mains is no multiple", {}}});
    return;
  }
  const double window = whole / e.chain.conditions.mains->or_zero();
  e.report("window-not-whole-mains", "average", Severity::advice,
           fmt::format("the average is {:.3g} mains periods long", periods),
           "over whole periods an average rejects the mains completely",
           {{fmt::format("average over {}, {:.0f} {}", in_unit(window, "s"), whole,
                         whole == 1.0 ? "period" : "periods"),
             [window](model::Board&, model::Channel& edited) {
               longest_average(edited) = {.time = window};
             }}});
}

}  // namespace

void examine_time(const Examination& e) {
  examine_clock(e);
  examine_rate(e);
  examine_sampling(e);
  examine_latency(e);
  examine_mains(e);
}

}  // namespace tamlo::check
