// SPDX-License-Identifier: Apache-2.0
// What the firmware does to a code.
#include <fmt/format.h>

#include <cmath>

#include "examination.hpp"

namespace tamlo::check {
namespace {

// The converter's codes as they are.
void report_codes(model::Board& board, model::Channel& channel) {
  converter_of(board, channel).formats_before.clear();
  converter_of(board, channel).reporting = {};
}

void examine_integers(const Examination& e) {
  const auto& integer = e.chain.channel.scaling.integer;
  if (!integer) return;
  const auto& error = e.chain.firmware.arithmetic;
  if (error.first_overflow) {
    const auto codes = chain::codes_reported_as(e.chain.report, *error.first_overflow);
    const double x = chain::quantity_at(e.chain, static_cast<double>(codes.first));
    e.report("integer-overflow", "scaling", Severity::error,
             fmt::format("from code {} on, {}, a step goes beyond {} bits", *error.first_overflow,
                         e.shown(x), integer->bits),
             "the number wraps around and the reading is meaningless",
             {{fmt::format("use a word of {} bits", 2 * integer->bits),
               [](model::Board&, model::Channel& channel) { channel.scaling.integer->bits *= 2; }},
              {"divide before multiplying", {}}});
  }
  // Unless the formula makes up for it, as one does that adds half a divisor before it divides.
  const double quarter = chain::step_at(e.chain, e.span.middle()) / 4.0;
  if (std::abs(error.mean) > quarter && std::abs(chain::bias(e.chain, e.span.middle())) > quarter) {
    e.report("integer-truncation", "scaling", Severity::warning,
             fmt::format("the firmware's integers read {} off on average, up to {} more",
                         e.amount(error.mean), e.amount(error.largest)),
             "division drops the fraction, always to the same side, or a factor is rounded",
             {{"round = true beside the division or shift",
               [](model::Board&, model::Channel& edited) {
                 for (auto& step : edited.scaling.integer->steps) {
                   step.round = step.round || step.operation == model::Operation::divide ||
                                step.operation == model::Operation::shift_right;
                 }
               }},
              {"a larger factor before the division, and a larger divisor", {}}});
  }
}

// What the formula itself is off, however it is computed.
void examine_formula(const Examination& e) {
  const auto& scaling = e.chain.channel.scaling;
  if (!scaling.integer && !scaling.taught && !scaling.sensor) return;
  double worst = 0.0, at = e.span.low;
  for (int i = 0; i <= 16; ++i) {
    const double x = std::min(e.span.high, e.span.low + e.span.width() * i / 16.0);
    const double found =
        e.chain.report.offset + e.chain.report.gain * chain::code(e.chain, x, e.chain.nominal);
    const double off = chain::exact_reading(e.chain, found) - x;
    if (std::abs(off) <= std::abs(worst)) continue;
    worst = off;
    at = x;
  }
  const auto& accuracy = e.chain.channel.target.accuracy;
  const double allowed = accuracy ? chain::allowed_at(e.chain, *accuracy, at)
                                  : 2.0 * chain::step_at(e.chain, e.span.middle());
  // Taught points lie as exactly as the bench did.
  if (std::abs(worst) <= allowed / 2.0 || std::abs(worst) >= 0.05 * e.span.width()) return;
  e.report(
      "scaling-off", "scaling", Severity::warning,
      fmt::format("the firmware's formula itself is {} off at {}", e.amount(worst), e.shown(at)),
      "rounding is not the cause: the line does not follow the parts before it",
      {{scaling.sensor ? "compute with the law of the sensor itself" : "",
        [](model::Board&, model::Channel& channel) { channel.scaling.sensor.reset(); }},
       {"fit its factors to both ends of the span; of a curved sensor use a table", {}}});
}

void examine_convention(const Examination& e) {
  const auto& scaling = e.chain.channel.scaling;
  const bool used = !scaling.integer && !scaling.taught &&
                    e.chain.report.reporting.kind != model::RegisterFormat::Kind::counts;
  if (!used) return;
  const double codes = e.chain.conversion.codes * e.chain.report.per_code;
  // Widened by its own high bits, a code reaches the last count.
  const bool widened = e.chain.report.reporting.kind == model::RegisterFormat::Kind::replicated;
  const Remedy drop_added_bits{
      fmt::format("drop the added bits: shift right by {}, and divide by {:.0f}",
                  e.chain.report.reporting.bits - e.chain.converter.resolution,
                  e.chain.conversion.codes),
      [](model::Board& board, model::Channel& channel) {
        report_codes(board, channel);
        channel.scaling.convention = model::Convention::full_scale;
      },
      false};
  const bool full_scale = scaling.convention == model::Convention::full_scale;
  if (widened && full_scale) {
    e.report(
        "count-convention", "scaling", Severity::warning,
        fmt::format("the last code is widened to {:.0f}, the firmware divides by {:.0f}",
                    codes - 1.0, codes),
        fmt::format("up to {:.0f} counts are added to a code by its own high bits, and read as "
                    "signal",
                    e.chain.report.per_code - 1.0),
        {drop_added_bits});
  }
  if (full_scale) return;
  // The last count stands for the last code, whatever lies between.
  const double last = widened ? e.chain.conversion.codes - 1.0 : codes - 1.0;
  e.report("count-convention", "scaling", Severity::warning,
           fmt::format("the firmware divides by {:.0f}: its code widths are {:.3g} ppm too large",
                       codes - 1.0, 1e6 / last),
           "code k stands for k code widths, so the full-scale range belongs to one code more",
           {widened ? drop_added_bits
                    : Remedy{fmt::format("divide by {:.0f}", codes),
                             [](model::Board&, model::Channel& edited) {
                               edited.scaling.convention = model::Convention::full_scale;
                             }}});
}

void examine_reporting(const Examination& e) {
  const double step = e.chain.report.step;
  if (step < 1.5) return;
  e.report("resolution-thrown-away", "converter.report", Severity::advice,
           fmt::format("of {:.0f} codes {} different values are reported: a step is {}",
                       e.chain.conversion.codes, e.chain.report.occurring,
                       e.amount(chain::step_at(e.chain, e.span.middle()))),
           fmt::format("{:.2g} bits are lost, and nothing behind can act on less than a step",
                       std::log2(step)),
           {{fmt::format("report the whole code: a step is then {}",
                         e.amount(chain::code_width_at(e.chain, e.span.middle()))),
             report_codes, false}});
}

}  // namespace

void examine_firmware(const Examination& e) {
  examine_integers(e);
  examine_formula(e);
  examine_convention(e);
  examine_reporting(e);
}

}  // namespace tamlo::check
