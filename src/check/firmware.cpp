// SPDX-License-Identifier: Apache-2.0
// What the firmware does to a code.
#include <fmt/format.h>

#include <cmath>

#include "examination.hpp"

namespace tamlo::check {
namespace {

void examine_integers(const Examination& e) {
  const auto& integer = e.chain.channel.scaling.integer;
  if (!integer) return;
  const auto& error = e.chain.arithmetic;
  if (error.first_overflow) {
    const auto codes = chain::codes_reported_as(e.chain.report, *error.first_overflow);
    const double x = chain::quantity_at(e.chain, static_cast<double>(codes.first));
    e.report("integer-overflow", Severity::error,
             fmt::format("from code {} on, {}, a step goes beyond {} bits", *error.first_overflow,
                         e.shown(x), integer->bits),
             "the number wraps around and the reading is anything",
             fmt::format("use a word of {} bits, or divide before multiplying", 2 * integer->bits));
  }
  auto exactly = e.chain;
  exactly.channel.scaling.integer.reset();
  exactly.arithmetic = {};
  const double mean = chain::bias(e.chain, e.span.middle()) - chain::bias(exactly, e.span.middle());
  if (std::abs(mean) <= chain::step_at(e.chain, e.span.middle()) / 4.0) return;
  e.report("integer-truncation", Severity::warning,
           fmt::format("the firmware's integers read {} off in mid-span, up to {} more",
                       e.amount(mean), e.amount(error.largest)),
           "division drops the fraction, always to the same side, or a factor is rounded",
           "round = true beside the division or shift, and a larger factor");
}

void examine_convention(const Examination& e) {
  const auto& scaling = e.chain.channel.scaling;
  const bool used = !scaling.integer && !scaling.taught &&
                    e.chain.report.reporting.kind != model::Reporting::Kind::counts;
  if (!used) return;
  const double codes = e.chain.conversion.codes * e.chain.report.per_code;
  // Widened by its own high bits, a code reaches the last count.
  const bool widened = e.chain.report.reporting.kind == model::Reporting::Kind::replicated;
  const auto drop_added_bits = fmt::format(
      "drop the added bits: shift right by {}, and divide by {:.0f}",
      e.chain.report.reporting.bits - e.chain.converter.resolution, e.chain.conversion.codes);
  const bool full_scale = scaling.convention == model::Convention::full_scale;
  if (widened && full_scale) {
    e.report(
        "count-convention", Severity::warning,
        fmt::format("the last code is widened to {:.0f}, the firmware divides by {:.0f}",
                    codes - 1.0, codes),
        fmt::format("up to {:.0f} counts are added to a code by its own high bits, and read as "
                    "signal",
                    e.chain.report.per_code - 1.0),
        drop_added_bits);
  }
  if (full_scale) return;
  // The last count stands for the last code, whatever lies between.
  const double last = widened ? e.chain.conversion.codes - 1.0 : codes - 1.0;
  e.report("count-convention", Severity::warning,
           fmt::format("the firmware divides by {:.0f}: its code widths are {:.3g} ppm too large",
                       codes - 1.0, 1e6 / last),
           "code k stands for k code widths, so the full-scale range belongs to one code more",
           widened ? drop_added_bits : fmt::format("divide by {:.0f}", codes));
}

void examine_reporting(const Examination& e) {
  const double step = e.chain.report.step;
  if (step < 1.5) return;
  e.report("resolution-thrown-away", Severity::advice,
           fmt::format("of {:.0f} codes {} different values are reported: a step is {}",
                       e.chain.conversion.codes, e.chain.report.occurring,
                       e.amount(chain::step_at(e.chain, e.span.middle()))),
           fmt::format("{:.2g} bits are lost, and nothing behind can act on less than a step",
                       std::log2(step)),
           fmt::format("report the whole code: a step is then {}",
                       e.amount(chain::code_width_at(e.chain, e.span.middle()))));
}

}  // namespace

void examine_firmware(const Examination& e) {
  examine_integers(e);
  examine_convention(e);
  examine_reporting(e);
}

}  // namespace tamlo::check
