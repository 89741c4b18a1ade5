// SPDX-License-Identifier: Apache-2.0
// Whether the span fits what the converter can take and tell apart.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "examination.hpp"

namespace tamlo::check {
namespace {

using chain::Chain;

// An ideal part that multiplies what comes to the pin.
void scale_signal(model::Channel& channel, double by) {
  channel.frontend.push_back(model::Amplifier{.gain = {.nominal = by}});
}

// A signal that is divided by `factor`, beyond what the front end does.
Remedy divide_by(const Chain& chain, double factor) {
  if (!(factor > 1.0) || !std::isfinite(factor)) {
    return {"shift the signal into the converter's range: dividing it does not", {}};
  }
  for (const auto& stage : chain.path.stages) {
    if (const auto* divider = std::get_if<chain::DividerLaw>(&stage.law)) {
      const double top = chain.nominal[divider->top];
      const double bottom = chain.nominal[divider->bottom];
      const double needed = std::ceil((factor * (top + bottom) - bottom) / 100.0) * 100.0;
      return {fmt::format("raise the top of the {} from {} to at least {}", stage.name,
                          in_unit(top, "ohm"), in_unit(needed, "ohm", 6)),
              [needed](model::Board&, model::Channel& channel) {
                for (auto& part : channel.frontend) {
                  auto* found = std::get_if<model::Divider>(&part);
                  if (found == nullptr) continue;
                  found->top.nominal = needed;
                  return;
                }
              }};
    }
  }
  const double by = factor * 1.005;
  return {fmt::format("put a divider before the converter that divides by at least {:.3g}", by),
          [by](model::Board&, model::Channel& edited) { scale_signal(edited, 1.0 / by); }};
}

void examine_damage(const Examination& e) {
  if (!e.chain.converter.input_limit) return;
  const auto& limit = *e.chain.converter.input_limit;
  for (const double x : {e.span.high, e.span.low}) {
    const auto worst = chain::worst_case(e.chain, x, chain::voltage);
    if (worst.high > limit.high) {
      e.report("input-damage", "frontend", Severity::error,
               fmt::format("at {} the pin can reach {}; its limit is {}", e.shown(x),
                           volts(worst.high), volts(limit.high)),
               "beyond its input limit the converter is damaged, not just wrong",
               {divide_by(e.chain, worst.high / limit.high)});
    }
    if (worst.low < limit.low) {
      e.report("input-damage", "frontend", Severity::error,
               fmt::format("at {} the pin can fall to {}; its limit is {}", e.shown(x),
                           volts(worst.low), volts(limit.low)),
               "beyond its input limit the converter is damaged, not just wrong",
               {{fmt::format("lift the signal by at least {}, or clamp it",
                             volts(limit.low - worst.low)),
                 {}}});
    }
  }
}

void examine_clipping(const Examination& e, double x, bool upper) {
  const auto& chain = e.chain;
  const auto first = static_cast<double>(chain::first_code(chain));
  const auto last = static_cast<double>(chain::last_code(chain));
  const double nominal = chain::code(chain, x, chain.nominal);
  const auto clips = [&](double code) { return upper ? code > last + 0.5 : code < first - 0.5; };
  const auto worst = chain::worst_case(chain, x, chain::code);
  const double reached = upper ? worst.high : worst.low;
  const auto end = fmt::format("code {:.0f}", upper ? last : first);
  const auto visible = e.shown(chain::quantity_at(chain, upper ? last + 0.5 : first - 0.5));
  const auto range = chain::input_range(chain);
  const double beyond = (reached - (upper ? last + 0.5 : first)) * chain::code_width(chain);
  // Dividing takes a signal toward 0 V, wherever the range ends.
  const Remedy remedy =
      upper             ? divide_by(chain, (range.high + beyond) / range.high)
      : range.low < 0.0 ? divide_by(chain, (range.low + beyond) / range.low)
                        : Remedy{fmt::format("lift the signal by at least {}", volts(-beyond)), {}};
  const bool at_end = upper && clips(nominal) && nominal <= last + 1.0 + 1e-6;
  if (at_end) {
    e.report("ends-at-full-scale", "span", Severity::advice,
             fmt::format("the span ends at {}, where the full-scale range does", e.shown(x)),
             fmt::format("full scale has no code of its own: it reads {}, one code low", end),
             {{fmt::format("a span up to {}, or a reference a little above it", visible), {}}});
  } else if (clips(nominal)) {
    e.report("span-beyond-range", "span", Severity::error,
             fmt::format("the span ends at {}, the converter at {}", e.shown(x), visible),
             fmt::format("values beyond it read {} and look valid", end), {remedy});
  }
  if (clips(nominal) || !clips(reached)) return;
  if (!upper) {
    // A quantity that ends at nothing ends at the first code of many a sound channel: a little of
    // an offset below it is no finding.
    const auto& accuracy = chain.channel.target.accuracy;
    const double little = accuracy ? chain::allowed_at(chain, *accuracy, x) : 0.01 * e.span.width();
    if ((first - reached) * chain::code_width_at(chain, x) <= little) return;
  }
  e.report("clips-at-tolerance", "frontend", Severity::warning,
           fmt::format("with tolerances at their worst {} becomes code {:.0f}, {} {}", e.shown(x),
                       reached, upper ? "past" : "below", end),
           fmt::format("some units read the end of the span {}, and neither tare nor calibration "
                       "can correct it",
                       upper ? "low" : "high"),
           {remedy});
}

void examine_used_range(const Examination& e) {
  const auto& chain = e.chain;
  const double used = std::abs(chain::code(chain, e.span.high, chain.nominal) -
                               chain::code(chain, e.span.low, chain.nominal)) /
                      chain.conversion.codes;
  if (used >= 0.5) return;
  // The signal may grow until an end of the span, its limits at their worst, meets one of the
  // range.
  const auto range = chain::input_range(chain);
  double grow = std::numeric_limits<double>::infinity();
  for (const double x : {e.span.low, e.span.high}) {
    const auto worst = chain::worst_case(chain, x, chain::voltage);
    if (worst.high > 0.0) grow = std::min(grow, range.high / worst.high);
    if (worst.low < 0.0) grow = std::min(grow, range.low / worst.low);
  }
  grow *= 0.95;
  const double unused = std::min<double>(chain.converter.resolution, -std::log2(used));
  const double away = chain::voltage(chain, e.span.low, chain.nominal) - range.low;
  e.report("range-little-used", "span", Severity::advice,
           fmt::format("the span uses {:.3g} % of the converter's codes", 100.0 * used),
           fmt::format("{:.2g} of {} bits are unused", unused, chain.converter.resolution),
           {{fmt::format("attenuate less by up to {:.3g}, or use a smaller reference", grow),
             [grow](model::Board&, model::Channel& channel) {
               if (grow > 1.05) scale_signal(channel, grow);
             }},
            {grow > 1.05 || away <= 0.0
                 ? std::string()
                 : fmt::format("take off {} before the signal is amplified", volts(away)),
             {}}});
}

void examine_resolution(const Examination& e) {
  if (!e.chain.channel.target.accuracy) return;
  const auto& accuracy = *e.chain.channel.target.accuracy;
  const double half = chain::step_at(e.chain, e.span.high) / 2.0;
  const double limit = chain::allowed_at(e.chain, accuracy, e.span.high);
  if (half <= limit) return;
  const int bits =
      e.chain.converter.resolution + static_cast<int>(std::ceil(std::log2(half / limit)));
  e.report("target-below-resolution", "target", Severity::error,
           fmt::format("half a code is {}, the target {}", e.shown(half), e.shown(limit)),
           "no part, however good, brings a single conversion to the target",
           {{fmt::format("use at least {} bits", bits),
             [bits](model::Board& board, model::Channel& channel) {
               converter_of(board, channel).resolution = bits;
             }},
            {fmt::format("use at least {} bits, and a firmware that shows them", bits), {}}});
}

}  // namespace

void examine_range(const Examination& e) {
  examine_damage(e);
  for (const double x : {e.span.high, e.span.low}) {  // of a falling sensor the low end is on top
    examine_clipping(e, x, true);
    examine_clipping(e, x, false);
  }
  examine_used_range(e);
  examine_resolution(e);
}

}  // namespace tamlo::check
